import { createHash, randomBytes } from 'node:crypto'
import { mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { copyHashed, hashFile, readBack } from './copy.ts'
import { Pause } from './pause.ts'

let folder: string
let source: string
const content = randomBytes(1_500_000)
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-copy-'))
  source = join(folder, 'source.bin')
  await writeFile(source, content)
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const sha1 = createHash('sha1').update(content).digest('hex')
const options = (more: object = {}) => ({ kind: 'sha1', signal: new AbortController().signal, ...more }) as const
const exists = (path: string) =>
  stat(path).then(
    () => true,
    () => false,
  )

test('a copy is the same bytes, answers with their checksum, and tells how many are done', async () => {
  const to = join(folder, 'plain.bin')
  let bytes = 0
  expect(await copyHashed(source, to, options({ onBytes: (more: number) => (bytes += more) }))).toBe(sha1)
  expect(bytes).toBe(content.length)
  expect((await readFile(to)).equals(content)).toBe(true)
  // Whether it comes from the disk itself is the file system's to say; what is read is the same.
  expect(await readBack(to, options())).toEqual({ hash: sha1, wasDirect: expect.any(Boolean) })
  expect(await hashFile(to, options())).toBe(sha1)
})

test('what is there is never written over, and what is not there is told', async () => {
  const to = join(folder, 'there.bin')
  await writeFile(to, 'mine')
  await expect(copyHashed(source, to, options())).rejects.toMatchObject({ code: 'EEXIST' })
  expect(await readFile(to, 'utf8')).toBe('mine')
  await expect(hashFile(join(folder, 'nothing.bin'), options())).rejects.toMatchObject({ code: 'ENOENT' })
})

test('one that stands still does nothing until it is let go, and is whole then', async () => {
  const to = join(folder, 'paused.bin')
  const pause = new Pause()
  pause.set(true)
  const copying = copyHashed(source, to, options({ pause }))
  while (!(await exists(to))) await new Promise((resolve) => setTimeout(resolve, 10))
  await new Promise((resolve) => setTimeout(resolve, 200))
  expect((await stat(to)).size).toBe(0)
  pause.set(false)
  expect(await copying).toBe(sha1)
  expect((await readFile(to)).equals(content)).toBe(true)
})

test('one that stands still can be stopped', async () => {
  const pause = new Pause()
  const controller = new AbortController()
  pause.set(true)
  const copying = copyHashed(source, join(folder, 'stopped.bin'), options({ pause, signal: controller.signal }))
  while (!(await exists(join(folder, 'stopped.bin')))) await new Promise((resolve) => setTimeout(resolve, 10))
  controller.abort(new Error('stopped by a person'))
  pause.set(false)
  await expect(copying).rejects.toThrow('stopped by a person')
})
