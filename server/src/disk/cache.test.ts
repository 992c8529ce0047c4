import { mkdir, mkdtemp, readdir, rm, symlink, utimes, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, expect, test } from '@jest/globals'
import { trim } from './cache.ts'

let folder: string
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-cache-'))
})
afterEach(() => rm(folder, { recursive: true, force: true }))

test('a cache that holds too much lets go of what was made longest ago, and follows no link', async () => {
  const root = join(folder, 'cache')
  await mkdir(join(root, 'aa'), { recursive: true })
  await mkdir(join(folder, 'elsewhere'))
  await writeFile(join(folder, 'elsewhere', 'precious'), Buffer.alloc(1000))
  await symlink(join(folder, 'elsewhere'), join(root, 'bb'))
  for (const [age, name] of ['new', 'middle', 'old'].entries()) {
    await writeFile(join(root, 'aa', name), Buffer.alloc(100))
    await utimes(join(root, 'aa', name), 1_000_000 - age, 1_000_000 - age)
  }
  await trim(root, 300)
  expect((await readdir(join(root, 'aa'))).sort()).toEqual(['middle', 'new', 'old'])
  await trim(root, 280)
  expect((await readdir(join(root, 'aa'))).sort()).toEqual(['middle', 'new'])
  expect(await readdir(join(folder, 'elsewhere'))).toEqual(['precious'])
})
