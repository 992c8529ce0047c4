import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals'
import { readConfig, readPort } from './config.ts'
import { explainFileError } from './errors.ts'
import { readLock, removeLock, writeLock } from './launch/lock.ts'

let folder: string
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-config-'))
})
afterEach(() => rm(folder, { recursive: true, force: true }))
const read = (change: NodeJS.ProcessEnv = {}) => readConfig({ DATABASE_URL: 'postgres://x', ENNICK_DATA: folder, ...change })

describe('settings', () => {
  test('without any, the usual places of volumes are allowed, and the demo’s', () => {
    expect(read()).toMatchObject({ port: 4600, dataFolder: folder, extraHosts: [] })
    expect(read().allowedRoots).toEqual([join(folder, 'demo'), '/media', '/mnt', '/Volumes'])
  })
  test('the environment comes before the file', async () => {
    await writeFile(join(folder, 'settings.json'), JSON.stringify({ allowedRoots: ['/a'], hosts: ['mill.local'] }))
    expect(read()).toMatchObject({ allowedRoots: [join(folder, 'demo'), '/a'], extraHosts: ['mill.local'] })
    expect(read({ ENNICK_ROOTS: '/b:/c/../d' }).allowedRoots.slice(1)).toEqual(['/b', '/d'])
  })
  test.each([
    ['{"allowedRoots":["relative"]}', 'absolute'],
    ['{"allowedRoot":[]}', 'allowedRoot'],
    ['{', 'JSON'],
  ])('%s is refused and named', async (text, reason) => {
    await writeFile(join(folder, 'settings.json'), text)
    expect(() => read()).toThrow(reason)
  })
  test.each(['0', '65536', 'abc', '1.5'])('%s is no port', (text) => {
    expect(() => readPort(text)).toThrow('between 1 and 65535')
  })
  test('without a database there is nothing to serve', () => {
    expect(() => readConfig({ ENNICK_DATA: folder })).toThrow('./ennick start')
  })
})

describe('the lock of a data folder', () => {
  test('of another program, of a dead one, or half written, is stale', async () => {
    expect(await readLock(folder)).toBeNull()
    await writeLock(folder, 'http://x')
    // This process is a test runner and no launcher.
    expect(await readLock(folder)).toBeNull()
    await writeFile(join(folder, 'running.json'), '{"pid":')
    expect(await readLock(folder)).toBeNull()
    await removeLock(folder)
    await removeLock(folder)
  })
})

test.each([
  ['ENOSPC', 'no space left'],
  ['EACCES', 'may not be written'],
  ['EROFS', 'may not be written'],
  ['ENOENT', 'does not exist'],
  ['ENOTDIR', 'not a folder'],
  ['EOTHER', 'something odd'],
])('%s in plain words', (code, words) => {
  expect(explainFileError(Object.assign(new Error('something odd'), { code }), '/x')).toContain(words)
})
