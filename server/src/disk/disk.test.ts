import {
  mkdir,
  mkdtemp,
  open,
  readdir,
  readFile,
  realpath,
  rename,
  rm,
  symlink,
  utimes,
  writeFile,
} from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals'
import { identify, isSameFile, isUntouched, type SeenIdentity } from './file-identity.ts'
import { readAt } from './fingerprint.ts'
import { assertBeneath, FolderLeft, HeldFolder, LedAway, withFolder } from './held-folder.ts'
import { moveFile } from './move-file.ts'
import { isVolumeHere, mountOf, rootIdentity } from './volume-presence.ts'

let top: string
let folder: string
let held: HeldFolder
beforeAll(async () => {
  top = await realpath(await mkdtemp(join(tmpdir(), 'ennick-disk-')))
})
beforeEach(async () => {
  folder = await mkdtemp(join(top, 'x'))
  await mkdir(join(folder, 'root'))
  held = await HeldFolder.hold(join(folder, 'root'))
})
afterEach(() => held.release())
afterAll(() => rm(top, { recursive: true, force: true }))
const root = (...names: string[]) => join(folder, 'root', ...names)

test('at a place that no file has there is nothing to read, and nothing from elsewhere is read in its stead', async () => {
  await writeFile(root('file'), 'its very beginning')
  const file = await open(root('file'))
  const read = async (start: number) => (await readAt(file, start, 8)).toString()
  expect([await read(0), await read(11), await read(100)]).toEqual(['its very', 'ginning', ''])
  for (const start of [2 ** 53, 2 ** 63, -1, Number.NaN]) expect(await read(start)).toBe('')
  await file.close()
})

describe('a held folder', () => {
  test('makes what is missing below, and writes in that very folder even when its name leads elsewhere meanwhile', async () => {
    await mkdir(join(folder, 'card'))
    await withFolder(
      held,
      'a/b',
      async (below) => {
        await rename(root('a'), root('old'))
        await symlink(join(folder, 'card'), root('a'))
        await (await below.create('made')).close()
        await expect(below.assertThere()).rejects.toThrow(FolderLeft)
      },
      { make: true },
    )
    expect(await readdir(join(folder, 'card'))).toEqual([])
    expect(await readdir(root('old/b'))).toEqual(['made'])
  })

  test.each([
    ['a folder on the way', 'out/b'],
    ['the last step', 'out'],
  ])('follows no link: %s', async (_, below) => {
    await mkdir(join(folder, 'card/b'), { recursive: true })
    await symlink(join(folder, 'card'), root('out'))
    await expect(held.folder(below, { make: true })).rejects.toThrow(LedAway)
    await expect(held.folder(below)).rejects.toThrow(`${root('out')} is a link that leads to ${join(folder, 'card')}`)
  })

  test('is refused when a link stands in its place, and is left when it is another folder', async () => {
    await symlink(root(), join(folder, 'link'))
    await expect(HeldFolder.hold(join(folder, 'link'))).rejects.toThrow(LedAway)
    await expect(HeldFolder.hold(join(folder, 'link'), { isOwn: true })).rejects.toThrow(LedAway)
    await expect(HeldFolder.hold(join(folder, 'none'))).rejects.toThrow(FolderLeft)
    await held.assertThere()
    await rename(root(), join(folder, 'elsewhere'))
    await expect(held.assertThere()).rejects.toThrow('is not there any more')
    await mkdir(root())
    await expect(held.assertThere()).rejects.toThrow('is another folder now')
  })

  test('opens and makes files, never through a link and never in place of anything', async () => {
    await writeFile(join(folder, 'original'), 'precious')
    await symlink(join(folder, 'original'), root('link'))
    await expect(held.open('link')).rejects.toThrow(LedAway)
    await expect(held.create('link')).rejects.toMatchObject({ code: 'EEXIST' })
    await symlink(join(folder, 'not there'), root('dangling'))
    await expect(held.create('dangling')).rejects.toMatchObject({ code: 'EEXIST' })
    expect(await readdir(folder)).toEqual(['original', 'root'])
  })

  test.each(['', '..', 'a/b', '../x', 'a\0'])('takes %j for no name', (name) => {
    expect(() => held.at(name)).toThrow('is no name')
  })

  test('reading stays beneath a volume', async () => {
    await writeFile(join(folder, 'outside'), '')
    await symlink(join(folder, 'outside'), root('link'))
    await writeFile(root('inside'), '')
    await assertBeneath(root(), root('inside'))
    await expect(assertBeneath(root(), root('link'))).rejects.toThrow(LedAway)
    await expect(assertBeneath(root(), root('none'))).rejects.toMatchObject({ code: 'ENOENT' })
  })
})

describe('which file it is', () => {
  test('is known by device and inode, and after another mount by size, time and content', async () => {
    await writeFile(root('a'), 'one')
    await writeFile(root('b'), 'one')
    const now = new Date()
    for (const name of ['a', 'b']) await utimes(root(name), now, now)
    const [a, b] = (await Promise.all([identify(held, 'a'), identify(held, 'b')])) as [SeenIdentity, SeenIdentity]
    expect(isSameFile(a, a)).toBe(true)
    // A copy of equal content and time is another file, while the disk stays in.
    expect(isSameFile(a, b)).toBe(false)
    const remounted = { ...b, device: '999999', inode: '1' }
    expect(isSameFile(a, remounted)).toBe(true)
    expect(isSameFile(a, { ...remounted, mtimeMicros: 1 })).toBe(false)
    expect(isSameFile(a, { ...remounted, fingerprint: 'other' })).toBe(false)
  })
  test('is known by its content on a disk whose inodes are others at each mount', async () => {
    await writeFile(root('a'), 'one')
    const noted = (await identify(held, 'a')) as SeenIdentity
    expect(noted.keepsInodes).toBe(true)
    // A card or a drive that travels: another number, and a time in whole seconds of another place.
    const again = { ...noted, keepsInodes: false, inode: '7', mtimeMicros: 3_600_000_000 }
    expect([isSameFile(noted, again), isUntouched(noted, again)]).toEqual([true, true])
    // Its number may be of somebody else's file by now.
    const another = { ...noted, keepsInodes: false, fingerprint: 'other' }
    expect([isSameFile(noted, another), isUntouched(noted, another)]).toEqual([false, false])
  })
  test('is nobody’s for a link, a folder and nothing', async () => {
    await mkdir(root('folder'))
    await symlink(root('folder'), root('link'))
    for (const name of ['folder', 'link', 'none']) expect(await identify(held, name)).toBeNull()
  })
})

describe('moving', () => {
  const spot = (name: string) => ({ folder: held, name })
  const idOf = async (name: string) => (await identify(held, name)) as SeenIdentity
  test('gives the name in one step, and leaves nothing under the old one', async () => {
    await writeFile(root('part'), 'new')
    await moveFile(spot('part'), spot('final'), await idOf('part'))
    expect(await readdir(root())).toEqual(['final'])
  })
  test('never in place of another file, or of a link that leads nowhere', async () => {
    await writeFile(root('part'), 'new')
    await writeFile(root('final'), 'old')
    await symlink(root('nowhere'), root('dangling'))
    for (const name of ['final', 'dangling'])
      await expect(moveFile(spot('part'), spot(name), await idOf('part'))).rejects.toMatchObject({ code: 'EEXIST' })
    expect(await readFile(root('final'), 'utf8')).toBe('old')
    expect(await readFile(root('part'), 'utf8')).toBe('new')
  })
  test('never another file than the one that was meant', async () => {
    await writeFile(root('part'), 'ours')
    const ours = await idOf('part')
    await rename(root('part'), root('kept'))
    await writeFile(root('part'), 'theirs')
    await expect(moveFile(spot('part'), spot('final'), ours)).rejects.toMatchObject({ code: 'ESTALE' })
    expect((await readdir(root())).sort()).toEqual(['kept', 'part'])
  })
})

describe('whether a volume is in', () => {
  const volume = (given: object = {}) => ({
    rootPath: root(),
    kind: 'drive',
    markerId: null,
    mountPath: null,
    rootInode: null,
    ...given,
  })
  const knows = async () => ['clip.mov']
  const nothing = async () => []
  test('an empty folder of a box that leaves again is not the box, once something is known of it', async () => {
    expect(await isVolumeHere(volume(), nothing)).toBe(true)
    expect(await isVolumeHere(volume({ kind: 'card' }), nothing)).toBe(true)
    expect(await isVolumeHere(volume({ kind: 'card' }), knows)).toBe(false)
    await writeFile(root('other.mov'), '')
    expect(await isVolumeHere(volume({ kind: 'card' }), knows)).toBe(true)
  })
  test('a link in its place, a file in its place and nothing are not it', async () => {
    await symlink(root(), join(folder, 'link'))
    await writeFile(join(folder, 'file'), '')
    for (const name of ['link', 'file', 'none'])
      expect(await isVolumeHere(volume({ rootPath: join(folder, name) }), nothing)).toBe(false)
  })
  test('without the mount that it was on, only its own files speak for it', async () => {
    const lost = volume({ mountPath: root() })
    expect(await isVolumeHere(lost, knows)).toBe(false)
    await writeFile(root('written under the mount point'), '')
    expect(await isVolumeHere(lost, knows)).toBe(false)
    expect(await isVolumeHere(lost, nothing)).toBe(false)
    await writeFile(root('clip.mov'), '')
    expect(await isVolumeHere(lost, knows)).toBe(true)
  })
  test('under another inode an empty folder is not it, and one with its files is', async () => {
    const known = volume({ ...(await rootIdentity(root())) })
    expect(await isVolumeHere(known, nothing)).toBe(true)
    await held.release()
    await rename(root(), join(folder, 'out'))
    await mkdir(root())
    expect(await isVolumeHere(known, nothing)).toBe(false)
    await writeFile(root('clip.mov'), '')
    expect(await isVolumeHere(known, knows)).toBe(true)
    held = await HeldFolder.hold(root())
  })
  test('another box’s marker speaks against it', async () => {
    await writeFile(root('.ennick-volume.json'), JSON.stringify({ volume: 'b', label: 'B' }))
    expect(await isVolumeHere(volume({ markerId: 'a' }), nothing)).toBe(false)
    expect(await isVolumeHere(volume({ markerId: 'b' }), nothing)).toBe(true)
  })
  test('the mount of a path is the longest that it lies below', async () => {
    expect(root().startsWith(await mountOf(root()))).toBe(true)
    expect(await mountOf('/proc/self')).toBe('/proc')
  })
})
