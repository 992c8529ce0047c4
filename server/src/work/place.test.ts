import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals'
import { keptFolder, moveIfThere, partPath, placeFile, removeParts } from './place.ts'
import { walk } from './walk.ts'

let root: string
let folder: string
beforeAll(async () => {
  root = await mkdtemp(join(tmpdir(), 'ennick-place-'))
})
beforeEach(async () => {
  folder = await mkdtemp(join(root, 'x'))
})
afterAll(() => rm(root, { recursive: true, force: true }))

describe('placing', () => {
  test('gives the name in one step, and leaves nothing under the old one', async () => {
    await writeFile(join(folder, 'part'), 'new')
    await placeFile(join(folder, 'part'), join(folder, 'final'))
    expect(await readdir(folder)).toEqual(['final'])
  })
  test('never in place of another file', async () => {
    await writeFile(join(folder, 'part'), 'new')
    await writeFile(join(folder, 'final'), 'old')
    await expect(placeFile(join(folder, 'part'), join(folder, 'final'))).rejects.toMatchObject({ code: 'EEXIST' })
    expect(await readFile(join(folder, 'final'), 'utf8')).toBe('old')
  })
  test('moving what is not there moves nothing; moving what is makes the folder', async () => {
    await moveIfThere(join(folder, 'none'), join(folder, 'a/b/none'))
    expect(await readdir(folder)).toEqual([])
    await writeFile(join(folder, 'some'), 'x')
    await moveIfThere(join(folder, 'some'), join(keptFolder(folder, 'pair'), 'some'))
    expect(await readFile(join(folder, '.kept/pair/some'), 'utf8')).toBe('x')
  })
})

describe('unfinished files', () => {
  const job = '0123456789ab-4000'
  test('are hidden, beside their final place, and told apart by attempt', () => {
    const path = partPath('/made/a/clip.mov', job, 2)
    expect(dirname(path)).toBe('/made/a')
    expect(path).toMatch(/\/\.clip\.mov\.01234567-2\.ennick-part$/)
  })
  test('of a job are removed whatever attempt wrote them; those of other jobs, and finished files, stay', async () => {
    for (const path of [
      partPath(join(folder, 'a.mov'), job, 1),
      partPath(join(folder, 'a.mov'), job, 2),
      partPath(join(folder, 'a.mov'), 'ffffffff-other', 1),
      join(folder, 'a.mov'),
    ])
      await writeFile(path, '')
    await removeParts(folder, job)
    expect((await readdir(folder)).sort()).toEqual(['.a.mov.ffffffff-1.ennick-part', 'a.mov'])
    await removeParts(join(folder, 'not there'), job)
  })
})

describe('walking', () => {
  const all = async (unreadable: string[] = []) => {
    const found: string[] = []
    for await (const file of walk(folder, (path) => unreadable.push(path))) found.push(`${file.isMedia ? 'media' : 'other'} ${file.path}`)
    return found
  }
  test('goes through every folder in order and passes over what is hidden', async () => {
    for (const path of ['b/2.mov', 'b/1.mov', 'a.txt', '.hidden/x.mov', 'b/.x.mov', 'c/$RECYCLE.BIN/x.mov']) {
      await mkdir(dirname(join(folder, path)), { recursive: true })
      await writeFile(join(folder, path), '')
    }
    expect(await all()).toEqual(['other a.txt', 'media b/1.mov', 'media b/2.mov'])
  })
  test('a root that is not there is an error, not an empty volume', async () => {
    await rm(folder, { recursive: true })
    await expect(all()).rejects.toMatchObject({ code: 'ENOENT' })
  })
})
