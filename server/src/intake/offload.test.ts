import { type ChildProcess, execFile } from 'node:child_process'
import { chmod, mkdir, readdir, readFile, rename, rm, stat, symlink, truncate, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { parseChain, parseHashList } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { kill, spawnPart } from '../testing/spawned.ts'

const execute = promisify(execFile)
let ennick: Harness
let productionId: string
let worker: { stop(): Promise<void> } | null = null
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
  productionId = await ennick.addProduction('Offloads')
  worker = await ennick.startWorker()
})
afterAll(async () => {
  await worker?.stop()
  await ennick.stop()
})

const pause = () => new Promise((resolve) => setTimeout(resolve, 5))
const media = (...names: string[]) => join(ennick.media, ...names)
const start = async (volumeId: string, destinationId: string, folder: string) =>
  (await ennick.call('offloadVolume', { params: { volumeId }, body: { destinationId, folder, hash: 'xxh64' } })).id
const offload = async (volumeId: string, destinationId: string, folder: string) =>
  ennick.waitForJob(await start(volumeId, destinationId, folder))
const refused = async (jobId: string) => (await ennick.call('readJobDetails', { params: { jobId } })).lines
/** A card with a small file and one that takes a while. */
async function makeCard(name: string): Promise<string> {
  await mkdir(media(name, 'B'), { recursive: true })
  await writeFile(media(name, 'A.txt'), `the first of ${name}`)
  await writeFile(media(name, 'B/long.bin'), '')
  await truncate(media(name, 'B/long.bin'), 600_000_000)
  await writeFile(media(name, 'B/z.txt'), 'the last')
  return ennick.addVolume(productionId, name, media(name), 'card')
}
/** Until the long one is being copied, and the one before it was read back, which goes on beside that. */
const untilCopying = async (folder: string) => {
  const within = (name: string) => readdir(join(folder, name)).catch((): string[] => [])
  while (!(await within('B')).some((name) => name.startsWith('.long.bin'))) await pause()
  while (!(await within('.')).includes('A.txt')) await pause()
}

describe('a destination that goes while it is written to', () => {
  test('by its name: nothing more is written in its place, and the job goes on when it is back', async () => {
    const card = await makeCard('N001')
    await mkdir(media('named'))
    const destination = await ennick.addVolume(productionId, 'NAMED', media('named'))
    const jobId = await start(card, destination, 'N001')
    await untilCopying(media('named/N001'))
    await rename(media('named'), media('named out'))
    await mkdir(media('named'))
    expect(await ennick.waitForJob(jobId)).toMatchObject({
      state: 'failed',
      error: expect.stringMatching(/“NAMED” left after 1 of 3 files/),
    })
    expect(await readdir(media('named'))).toEqual([])
    expect(await readdir(media('named out/N001/B'))).toEqual([])
    await rm(media('named'), { recursive: true })
    await rename(media('named out'), media('named'))
    while ((await ennick.call('readJob', { params: { jobId } })).state === 'failed') await pause()
    expect(await ennick.waitForJob(jobId)).toMatchObject({
      state: 'done',
      summary: '2 files copied and read back · 1 were there already',
    })
  })

  const withMounts = process.getuid?.() === 0 ? test : test.skip
  withMounts('by its mount: the bare mount point is not taken for the disk, before, while and after', async () => {
    const card = await makeCard('M001')
    await mkdir(media('mounted'))
    await execute('mount', ['-t', 'tmpfs', '-o', 'size=1g', 'tmpfs', media('mounted')])
    const destination = await ennick.addVolume(productionId, 'MOUNTED', media('mounted'))
    try {
      const jobId = await start(card, destination, 'M001')
      await untilCopying(media('mounted/M001'))
      await execute('umount', ['--lazy', media('mounted')])
      expect(await ennick.waitForJob(jobId)).toMatchObject({
        state: 'failed',
        error: expect.stringContaining('left after 1 of 3 files'),
      })
      expect(await readdir(media('mounted'))).toEqual([])
      while ((await ennick.volume(productionId, 'MOUNTED'))?.isHere) await pause()
      const plan = await ennick.call('planOffload', {
        params: { volumeId: card },
        body: { destinationId: destination, folder: 'M001', hash: 'md5' },
      })
      expect(plan.blocked).toContain('away')
    } finally {
      await execute('umount', ['--lazy', media('mounted')]).catch(() => undefined)
    }
  })

  withMounts('a card whose mount point is there and empty is away; nothing of it is gone', async () => {
    await mkdir(media('bay'))
    await execute('mount', ['-t', 'tmpfs', '-o', 'size=20m', 'tmpfs', media('bay')])
    await makePicture(media('bay/M002.mov'), { frames: 5 })
    const card = await ennick.addVolume(productionId, 'M002', media('bay'), 'drive')
    await execute('umount', [media('bay')])
    while ((await ennick.volume(productionId, 'M002'))?.isHere) await pause()
    const scan = await ennick.scan(card)
    expect(scan).toMatchObject({ state: 'failed', error: expect.stringContaining('is away') })
    const check = await ennick.call('check', { params: { productionId } })
    await ennick.waitForJob(check.id)
    expect(await ennick.volume(productionId, 'M002')).toMatchObject({ isHere: false, goneFiles: 0, clips: 1 })
    expect((await ennick.clips(productionId)).find((clip) => clip.name === 'M002.mov')?.presence).toBe('away')
    // What somebody writes under the mount point does not make it the card.
    await writeFile(media('bay/note.txt'), 'written on the system disk')
    await new Promise((resolve) => setTimeout(resolve, 2500))
    expect((await ennick.volume(productionId, 'M002'))?.isHere).toBe(false)
  })
})

describe('links', () => {
  test('inside the destination, or in its place, are never written through', async () => {
    const card = await makeCard('L001')
    await mkdir(media('storage'), { recursive: true })
    await mkdir(media('private'))
    const destination = await ennick.addVolume(productionId, 'STORAGE', media('storage'))
    await symlink(media('private'), media('storage/L001'))
    expect(await offload(card, destination, 'L001')).toMatchObject({
      state: 'failed',
      error: expect.stringContaining(`is a link that leads to ${media('private')}`),
    })
    await rm(media('storage/L001'))
    await mkdir(media('storage/L001'))
    await symlink(media('private'), media('storage/L001/B'))
    await symlink(media('private/nowhere'), media('storage/L001/A.txt'))
    const job = await offload(card, destination, 'L001')
    expect(job).toMatchObject({ state: 'failed', error: expect.stringMatching(/^0 of 3 files are copied/) })
    expect((await refused(job.id)).map((line) => line.path).sort()).toEqual(['A.txt', 'B/long.bin', 'B/z.txt'])
    expect(await readdir(media('private'))).toEqual([])
    await rename(media('storage'), media('storage real'))
    await symlink(media('private'), media('storage'))
    expect(await offload(card, destination, 'L002').catch((error) => error)).toMatchObject({ state: 'failed' })
    expect(await readdir(media('private'))).toEqual([])
    await rm(media('storage'))
    await rename(media('storage real'), media('storage'))
  })

  test('in place of a volume’s root, or of its marker, lead nowhere', async () => {
    await mkdir(media('elsewhere'))
    await makePicture(media('elsewhere/secret.mov'), { frames: 5, seed: 7 })
    await makePicture(media('rooted/R001.mov'), { frames: 5, seed: 8 })
    const volumeId = await ennick.addVolume(productionId, 'ROOTED', media('rooted'), 'drive')
    await writeFile(media('elsewhere/precious.json'), 'precious')
    await symlink(media('elsewhere/precious.json'), media('rooted/.ennick-volume.json'))
    await expect(ennick.call('markVolume', { params: { volumeId } })).rejects.toMatchObject({ code: 'read-only' })
    expect(await readFile(media('elsewhere/precious.json'), 'utf8')).toBe('precious')
    await rm(media('rooted/.ennick-volume.json'))
    expect(await ennick.call('markVolume', { params: { volumeId } })).toMatchObject({ hasMarker: true })
    expect(await ennick.call('markVolume', { params: { volumeId } })).toMatchObject({ hasMarker: true })
    expect((await readdir(media('rooted'))).sort()).toEqual(['.ennick-volume.json', 'R001.mov'])
    // Not beside it: a volume that is marked is found there, and may be scanned.
    await mkdir(media('bag'))
    await rename(media('rooted'), media('bag/rooted'))
    await symlink(media('elsewhere'), media('rooted'))
    expect(await ennick.scan(volumeId)).toMatchObject({ state: 'failed' })
    expect((await ennick.clips(productionId)).map((clip) => clip.name)).not.toContain('secret.mov')
    await rm(media('rooted'))
  })
})

describe('what cannot be read', () => {
  // The superuser reads everything: a worker that has given up that right is one process of its own.
  const withoutRights = process.getuid?.() === 0 ? test : test.skip
  withoutRights('is named; an offload of it is not done, and a scan changes nothing of what is inside', async () => {
    await makePicture(media('U001/open/1.mov'), { frames: 5, seed: 1 })
    await makePicture(media('U001/shut/2.mov'), { frames: 5, seed: 2 })
    const card = await ennick.addVolume(productionId, 'U001', media('U001'), 'card')
    await mkdir(media('raid'))
    const destination = await ennick.addVolume(productionId, 'RAID', media('raid'))
    await worker?.stop()
    const rights = ['setpriv', '--bounding-set', '-dac_override,-dac_read_search']
    const poor: ChildProcess = spawnPart(ennick, 'worker', { before: rights })
    await chmod(media('U001/shut'), 0)
    try {
      const scan = await ennick.scan(card)
      expect(scan).toMatchObject({
        state: 'failed',
        error: expect.stringMatching(/^shut could not be read: .*may not be read.* stays as it was/),
      })
      expect(await ennick.volume(productionId, 'U001')).toMatchObject({ goneFiles: 0, clips: 2, problems: 1 })
      expect(
        (await ennick.clips(productionId)).filter((clip) => clip.volumeLabel === 'U001').map((clip) => clip.presence),
      ).toEqual(['here', 'here'])
      const job = await offload(card, destination, 'U001')
      expect(job).toMatchObject({
        state: 'failed',
        error: expect.stringMatching(/^1 of 1 files are copied and verified. shut was not copied: .*may not be read/),
      })
      expect(await refused(job.id)).toMatchObject([{ path: 'shut', state: 'not copied' }])
      // One file that cannot be opened keeps what is known of it too.
      await chmod(media('U001/shut'), 0o755)
      await chmod(media('U001/open/1.mov'), 0)
      await writeFile(media('U001/shut/new.txt'), 'x')
      expect(await offload(card, destination, 'U001 again')).toMatchObject({
        state: 'failed',
        error: expect.stringMatching(/^2 of 3 files .*open\/1\.mov was not copied/),
      })
      await writeFile(
        media('U001/open/1.mov'),
        Buffer.concat([await readFile(media('U001/open/1.mov')), Buffer.alloc(8)]),
      )
      expect(await ennick.scan(card)).toMatchObject({
        state: 'failed',
        error: expect.stringContaining('open/1.mov could not be read'),
      })
      const known = await ennick.query(
        `select facts is not null as known, problem from files where path = 'open/1.mov' and problem is not null`,
      )
      expect(known).toEqual([{ known: true, problem: expect.stringContaining('cannot be read') }])
      await chmod(media('U001/open/1.mov'), 0o644)
      // A copy that cannot be read is neither missing nor changed, and its manifest is not verified.
      const manifest = (await ennick.volume(productionId, 'RAID'))?.manifests.find(({ path }) =>
        path.startsWith('U001/'),
      )
      await chmod(media('raid/U001/open/1.mov'), 0)
      const verified = await ennick.waitForJob(
        (await ennick.call('verifyManifest', { params: { manifestId: manifest?.id ?? '' } })).id,
      )
      expect(verified).toMatchObject({
        state: 'failed',
        error: expect.stringMatching(/^open\/1\.mov could not be read: .*not verified/),
      })
      expect(await refused(verified.id)).toMatchObject([{ path: 'open/1.mov', state: 'not checked' }])
      expect(await ennick.scan(card)).toMatchObject({ state: 'done' })
      expect(await ennick.volume(productionId, 'U001')).toMatchObject({ problems: 0, goneFiles: 0 })
    } finally {
      await chmod(media('U001/shut'), 0o755)
      await kill(poor)
      worker = await ennick.startWorker()
    }
  })
})

test('what an attempt left unfinished goes also where somebody else has brought the file since', async () => {
  await mkdir(media('left/CLIP'), { recursive: true })
  await writeFile(media('left/CLIP/1.txt'), 'one')
  const card = await ennick.addVolume(productionId, 'LEFT', media('left'), 'card')
  await mkdir(media('shelf/LEFT/CLIP'), { recursive: true })
  await writeFile(media('shelf/LEFT/CLIP/1.txt'), 'another')
  const destination = await ennick.addVolume(productionId, 'SHELF', media('shelf'))
  const job = await offload(card, destination, 'LEFT')
  expect(job.state).toBe('failed')
  const part = media(`shelf/LEFT/CLIP/.1.txt.${job.id.slice(0, 8)}-1.ennick-part`)
  await writeFile(part, 'on')
  await writeFile(media('shelf/LEFT/CLIP/1.txt'), 'one')
  await ennick.call('retryJob', { params: { jobId: job.id } })
  expect(await ennick.waitForJob(job.id)).toMatchObject({ state: 'done', summary: expect.stringMatching(/^0 files/) })
  expect(await readdir(media('shelf/LEFT/CLIP'))).toEqual(['1.txt'])
})

describe('the manifest of a copy', () => {
  let card: string
  let destination: string
  const history = (...names: string[]) => media('archive/H001/ascmhl', ...names)
  const generations = async () => (await readdir(history())).filter((name) => name.endsWith('.mhl')).sort()
  beforeAll(async () => {
    await mkdir(media('archive'))
    await mkdir(media('H001'))
    await writeFile(media('H001/a.txt'), 'alpha')
    card = await ennick.addVolume(productionId, 'H001', media('H001'), 'card')
    destination = await ennick.addVolume(productionId, 'ARCHIVE', media('archive'))
  })

  test('says how the copy was read back, and a second generation rests on the first', async () => {
    expect((await offload(card, destination, 'H001')).state).toBe('done')
    const [first] = (await generations()) as [string]
    const { comment } = parseHashList(await readFile(history(first), 'utf8'))
    // The file system of the test decides which of both it was.
    expect(comment).toMatch(
      /^1 file read back (from the disk itself, past the cache of the system|through the cache of the system, as .*)$/,
    )
    const chain = await readFile(history('ascmhl_chain.xml'), 'utf8')
    await writeFile(media('H001/b.txt'), 'beta')
    expect((await offload(card, destination, 'H001')).state).toBe('done')
    const longer = await readFile(history('ascmhl_chain.xml'), 'utf8')
    expect(longer.startsWith(chain.slice(0, chain.lastIndexOf('</ascmhldirectory>')))).toBe(true)
    expect(parseChain(longer).map(({ sequence, path }) => [sequence, path])).toEqual(
      (await generations()).map((name, index) => [index + 1, name]),
    )
    expect(parseHashList(await readFile(history((await generations())[1] as string), 'utf8')).comment).toMatch(
      /there already, and compared with the source/,
    )
  })

  test('is finished where a run died between its two names, and one that was cut short is passed over', async () => {
    const whole = await readFile(history('ascmhl_chain.xml'), 'utf8')
    const [first] = (await generations()) as [string]
    const shorter = whole.replace(/ {2}<hashlist sequencenr="2">.*?<\/hashlist>\n/s, '')
    await writeFile(history('ascmhl_chain.xml'), shorter)
    await writeFile(history('.ascmhl_chain.xml.part'), whole)
    expect((await offload(card, destination, 'H001')).state).toBe('done')
    expect(parseChain(await readFile(history('ascmhl_chain.xml'), 'utf8'))).toHaveLength(3)
    await writeFile(history('.ascmhl_chain.xml.part'), whole.slice(0, 100))
    expect((await offload(card, destination, 'H001')).state).toBe('done')
    expect(await generations()).toHaveLength(4)
    expect(first).toMatch(/^0001_/)
  })

  test.each([
    [
      'changed',
      (path: string) =>
        readFile(path, 'utf8').then((text) =>
          writeFile(path, text.replace('alpha', 'alphb').replace('size="5"', 'size="6"')),
        ),
      'was changed since it was written',
    ],
    ['removed', (path: string) => rm(path), 'is gone'],
  ])('is not continued when an older generation was %s', async (_, harm, reason) => {
    const [first] = (await generations()) as [string]
    const text = await readFile(history(first), 'utf8')
    await harm(history(first))
    await writeFile(media('H001/c.txt'), 'gamma')
    const job = await offload(card, destination, 'H001')
    expect(job).toMatchObject({ state: 'failed', error: expect.stringContaining(reason) })
    expect(job.error).toContain(first)
    expect(await stat(media('archive/H001/c.txt')).catch(() => null)).toBeNull()
    await writeFile(history(first), text)
  })

  test('is not continued beside a list that its chain does not name', async () => {
    await writeFile(history('0009_stray.mhl'), '<hashlist version="2.0"><hashes></hashes></hashlist>')
    expect(await offload(card, destination, 'H001')).toMatchObject({
      state: 'failed',
      error: expect.stringContaining('0009_stray.mhl is not named by the chain'),
    })
    await rm(history('0009_stray.mhl'))
  })

  test('speaks against a file that was changed on both sides since', async () => {
    for (const path of [media('H001/a.txt'), media('archive/H001/a.txt')]) await writeFile(path, 'omega')
    const job = await offload(card, destination, 'H001')
    expect(job.state).toBe('failed')
    expect(await refused(job.id)).toMatchObject([
      { path: 'a.txt', detail: expect.stringContaining('both were changed since') },
    ])
  })
})
