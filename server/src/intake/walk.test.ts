import { mkdir, mkdtemp, readdir, realpath, rename, rm, symlink, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals'
import { withHeld } from '../disk/held-folder.ts'
import { isPart, partOwner, partPath, removeParts } from '../placements/unfinished-files.ts'
import { nameUnreadable, type PassedOver, type Unreadable, walk } from './walk.ts'

let root: string
let folder: string
beforeAll(async () => {
  root = await realpath(await mkdtemp(join(tmpdir(), 'ennick-place-')))
})
beforeEach(async () => {
  folder = await mkdtemp(join(root, 'x'))
})
afterAll(() => rm(root, { recursive: true, force: true }))

describe('unfinished files', () => {
  const job = '0123456789ab-4000'
  test('are hidden, beside their final place, and told apart by job and attempt', () => {
    const path = partPath('/made/a/clip.mov', job, 2)
    expect(dirname(path)).toBe('/made/a')
    expect(path).toMatch(/\/\.clip\.mov\.01234567-2\.ennick-part$/)
    expect(partOwner('.clip.mov.01234567-2.ennick-part')).toEqual({ job: '01234567', attempt: 2 })
    for (const name of ['clip.mov', 'clip.mov.01234567-2.ennick-part', '.clip.ennick-part', '.01234567-2.ennick-part'])
      expect(isPart(name)).toBe(false)
    expect(isPart('.two\nlines.01234567-2.ennick-part', job)).toBe(true)
    expect(isPart('.a.01234567-2.ennick-part', 'ffffffff-other')).toBe(false)
  })
  test('of a job are removed whatever attempt wrote them; those of other jobs, links, and finished files, stay', async () => {
    for (const path of [
      partPath(join(folder, 'a.mov'), job, 1),
      partPath(join(folder, 'a.mov'), job, 2),
      partPath(join(folder, 'a.mov'), 'ffffffff-other', 1),
      join(folder, 'a.mov'),
    ])
      await writeFile(path, '')
    await symlink(join(folder, 'a.mov'), partPath(join(folder, 'b.mov'), job, 1))
    await withHeld(folder, (held) => removeParts(held, job))
    expect((await readdir(folder)).sort()).toEqual([
      '.a.mov.ffffffff-1.ennick-part',
      '.b.mov.01234567-1.ennick-part',
      'a.mov',
    ])
  })
})

describe('walking', () => {
  const all = async (unreadable: Unreadable[] = []) => {
    const found: string[] = []
    for await (const file of walk(folder, { onUnreadable: (each) => unreadable.push(each) }))
      found.push(`${file.isMedia ? 'media' : 'other'} ${file.path}`)
    return found
  }
  test('passes over the data folder of an Ennick where media are looked for, and nowhere else', async () => {
    for (const path of [
      'a/1.mov',
      'ennick/pictures/ab/12.jpg',
      'ennick/database-secret',
      'ours/.ennick-data',
      'ours/b.jpg',
    ]) {
      await mkdir(dirname(join(folder, path)), { recursive: true })
      await writeFile(join(folder, path), '')
    }
    const passedOver: PassedOver[] = []
    const found: string[] = []
    const listener = { onUnreadable: () => undefined, onPassedOver: (each: PassedOver) => passedOver.push(each) }
    for await (const { path } of walk(folder, { ...listener, isForMedia: true })) found.push(path)
    expect(found).toEqual(['a/1.mov'])
    // What is copied, or may be formatted, is everything: the ledger of another may be in it.
    expect(await all()).toEqual(
      expect.arrayContaining(['media ennick/pictures/ab/12.jpg', 'other ennick/database-secret', 'media ours/b.jpg']),
    )
    expect(passedOver).toEqual(['ennick', 'ours'].map((path) => ({ path, what: 'data folder of an Ennick' })))
  })
  test('goes through every folder in order and passes over what is hidden, and links', async () => {
    for (const path of ['b/2.mov', 'b/1.mov', 'a.txt', '.hidden/x.mov', 'b/.x.mov', 'c/$RECYCLE.BIN/x.mov']) {
      await mkdir(dirname(join(folder, path)), { recursive: true })
      await writeFile(join(folder, path), '')
    }
    await symlink(join(folder, 'b'), join(folder, 'd'))
    expect(await all()).toEqual(['other a.txt', 'media b/1.mov', 'media b/2.mov'])
  })
  test('a root that is not there, or is a link, is an error, not an empty volume', async () => {
    await symlink(root, join(folder, 'link'))
    const whole = folder
    folder = join(whole, 'link')
    await expect(all()).rejects.toThrow('is a link')
    folder = join(whole, 'none')
    await expect(all()).rejects.toThrow('is not there')
  })
  test('folders deeper than a path may be long are walked all the same', async () => {
    await mkdir(join(folder, `${'d'.repeat(200)}/`.repeat(10)), { recursive: true })
    for (let at = 0; at < 2; at++) {
      await mkdir(join(folder, 'more'))
      await rename(join(folder, 'd'.repeat(200)), join(folder, 'more', 'd'.repeat(200)))
      await rename(join(folder, 'more'), join(folder, 'd'.repeat(200)))
    }
    expect(await all()).toEqual([])
  })
  test('a root that is exchanged while it is walked is told', async () => {
    await mkdir(join(folder, 'a'))
    await writeFile(join(folder, 'a/1.mov'), '')
    const walking = walk(folder, { onUnreadable: () => undefined })
    await walking.next()
    await rename(folder, `${folder} away`)
    await mkdir(folder)
    await expect(walking.next()).rejects.toThrow('is another folder now')
  })
  test('what could not be read is named, with how many more', () => {
    expect(nameUnreadable([])).toBe('')
    expect(nameUnreadable([{ path: 'a', reason: 'Broken.' }])).toBe('a could not be read: Broken.')
    expect(nameUnreadable(['a', 'b', 'c'].map((path) => ({ path, reason: 'Broken.' })))).toBe(
      'a could not be read: Broken. So it is with 2 more: b, c.',
    )
    const reasons = ['d/x is gone.', 'Another has the name “y”.', 'd/z is gone.', 'Another has the name “w”.', '1', '2']
    const paths = ['d/x', 'd/y', 'd/z', 'd/w', 'u', 'v']
    expect(
      nameUnreadable(
        paths.map((path, at) => ({ path, reason: reasons[at] as string })),
        'was not copied',
      ),
    ).toBe(
      'd/x was not copied: d/x is gone. So it is with 1 more: d/z. ' +
        'd/y was not copied: Another has the name “y”. So it is with 1 more: d/w. ' +
        'u was not copied: 1 For other reasons so it is with 1 more: v.',
    )
  })
})
