import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals'
import { readConfig, readPort } from './config.ts'
import { processStart } from './engine/process-identity.ts'
import { explainFileError } from './errors.ts'
import { readLock, removeLock, takeLock } from './launch/lock.ts'

let folder: string
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-config-'))
})
afterEach(() => rm(folder, { recursive: true, force: true }))
const read = (change: NodeJS.ProcessEnv = {}) =>
  readConfig({ DATABASE_URL: 'postgres://x', ENNICK_DATA: folder, ...change })

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
  const write = (change: object) =>
    writeFile(
      join(folder, 'running.json'),
      JSON.stringify({ pid: process.pid, dataFolder: folder, url: 'http://x', ...change }),
    )
  test('is this process’s while it lives, and is taken once', async () => {
    expect(await readLock(folder)).toBeNull()
    expect(await takeLock(folder, 'http://x')).toBe(true)
    expect(await readLock(folder)).toMatchObject({ pid: process.pid, url: 'http://x' })
    expect(await takeLock(folder, 'http://y')).toBe(false)
    expect(await readLock(folder)).toMatchObject({ url: 'http://x' })
    await removeLock(folder)
    await removeLock(folder)
  })
  test('of another process of the same number, of another folder, of a dead one, or half written, is stale', async () => {
    const start = (await processStart(process.pid)) as string
    await write({ start })
    expect(await readLock(folder)).not.toBeNull()
    // The number was given again after a crash.
    await write({ start: `${start}0` })
    expect(await readLock(folder)).toBeNull()
    // The folder was copied, lock and all, while the other is running.
    await write({ start, dataFolder: `${folder} (copy)` })
    expect(await readLock(folder)).toBeNull()
    await write({ start, pid: 4_194_305 })
    expect(await readLock(folder)).toBeNull()
    await write({})
    expect(await readLock(folder)).toBeNull()
    await writeFile(join(folder, 'running.json'), '{"pid":')
    expect(await readLock(folder)).toBeNull()
    expect(await takeLock(folder, 'http://x')).toBe(true)
  })
})

test.each([
  ['ENOSPC', 'no space left'],
  ['EACCES', 'may not be read or written'],
  ['EROFS', 'may only be read'],
  ['EIO', 'may be failing'],
  ['ENOENT', 'does not exist'],
  ['ENOTDIR', 'not a folder'],
  ['EOTHER', 'something odd'],
])('%s in plain words', (code, words) => {
  expect(explainFileError(Object.assign(new Error('something odd'), { code }), '/x')).toContain(words)
})
