import { mkdir, readdir, readFile, rename, rm, stat, symlink, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { partPath } from '../placements/unfinished-files.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'
import { killedHalfway, withoutStandIns } from '../testing/stand-in.ts'

let ennick: Harness
let productionId: string
let cutId: string
let places = 0
let place: string
let card: string
let box: string
const list = `TITLE: Mill
001  A001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001.mov
002  B002 V C 11:00:00:00 11:00:01:00 01:00:01:00 01:00:02:00
* FROM CLIP NAME: B002C001.mov
003  A001 V C 10:00:00:00 10:00:00:10 01:00:02:00 01:00:02:10
* FROM CLIP NAME: A001C001.mov
004  T1 A C 10:00:00:00 10:00:01:00 01:00:00:00 01:00:01:00
* FROM CLIP NAME: T1.wav
`
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Pulls')
  card = join(ennick.media, 'card')
  box = join(ennick.media, 'box')
  await makePicture(join(card, 'CLIPS/A001C001.mov'), { seed: 1 })
  await makePicture(join(card, 'CLIPS/A001C009.mov'), { seed: 9, timecode: '15:00:00:00' })
  await makeSound(join(card, 'T1.wav'), 96_000, 10 * 3600 * 48_000)
  await makePicture(join(box, 'B002C001.mov'), { seed: 2, timecode: '11:00:00:00', reel: 'B002' })
  await ennick.addVolume(productionId, 'A001', card)
  await ennick.addVolume(productionId, 'Box: 2', box)
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'mill.edl', text: list } })).id
})
beforeEach(async () => {
  place = join(ennick.media, `travel ${++places}`)
  await mkdir(place)
})
afterAll(() => ennick.stop())

const asked = (of: 'originals' | 'proxies' = 'originals') => ({ of, folder: place, name: 'Mill' })
const plan = (of?: 'originals' | 'proxies') => ennick.call('planPull', { params: { cutId }, body: asked(of) })
const pull = async (of?: 'originals' | 'proxies') => {
  const job = await ennick.waitForJob((await ennick.call('pull', { params: { cutId }, body: asked(of) })).id)
  const [newest] = await ennick.call('listPulls', { params: { cutId } })
  expect(newest?.job.id).toBe(job.id)
  return { job, outcome: newest?.outcome }
}
const below = async (folder: string) => (await readdir(join(place, 'Mill', folder))).sort()
/** The media that a list with relative paths names, each of which is there from where the list lies. */
const relativeUrls = async (lists: string): Promise<string[]> => {
  const [name = ''] = (await below(lists)).filter((each) => each.endsWith('relative paths.otio'))
  const urls = [...(await text(`${lists}/${name}`)).matchAll(/"target_url": ?"([^"]*)"/g)].map(
    ([, url]) => url as string,
  )
  for (const url of urls) await stat(join(place, 'Mill', lists, decodeURIComponent(url)))
  return urls
}
const text = (path: string) => readFile(join(place, 'Mill', path), 'utf8')
const isEqual = async (from: string, to: string) =>
  (await readFile(from)).equals(await readFile(join(place, 'Mill', to)))

describe('originals', () => {
  test('what the cut uses is copied, read back, listed and proven, and nothing else', async () => {
    expect(await plan()).toMatchObject({ clips: 3, files: 3, already: 0, outstanding: [], blocked: null })
    const { job, outcome } = await pull()
    expect([job.state, job.summary]).toEqual(['done', '3 files copied and read back · 4 of 4 events covered'])
    expect(await below('A001/CLIPS')).toEqual(['A001C001.mov'])
    expect(await isEqual(join(card, 'CLIPS/A001C001.mov'), 'A001/CLIPS/A001C001.mov')).toBe(true)
    expect(await isEqual(join(card, 'T1.wav'), 'A001/T1.wav')).toBe(true)
    // A label may hold what a name on another system may not.
    expect(await isEqual(join(box, 'B002C001.mov'), 'Box_ 2/B002C001.mov')).toBe(true)
    const manifest = await text(outcome?.manifest ?? '')
    for (const path of ['A001/CLIPS/A001C001.mov', 'A001/T1.wav', 'Box_ 2/B002C001.mov'])
      expect(manifest).toContain(`>${path}</path>`)
    const lists = outcome?.lists ?? ''
    const papers = ['cut list.html', 'cut list.pdf', 'events.csv', 'pull list.ale', 'pull list.csv', 'report.html']
    expect(await below(lists)).toEqual([
      ...papers.map((name) => `Mill ${name}`),
      ...['Mill, online, relative paths.otio', 'Mill, online.edl', 'Mill, online.otio', 'Mill, online.xml'],
      'what is in it.csv',
    ])
    expect(await text(`${lists}/Mill report.html`)).toContain('Mill, online, relative paths.otio')
    expect(await text(`${lists}/Mill pull list.csv`)).toContain(join(place, 'Mill/A001/CLIPS/A001C001.mov'))
    // Wherever all of it is carried to, one list finds the copies from where it lies.
    expect((await relativeUrls(lists)).sort()).toEqual([
      ...['../A001/CLIPS/A001C001.mov', '../A001/CLIPS/A001C001.mov', '../A001/T1.wav', '../Box_%202/B002C001.mov'],
    ])
    // The lists speak of the copies.
    expect(await text(`${lists}/Mill, online.edl`)).toContain(join(place, 'Mill/A001/CLIPS/A001C001.mov'))
    expect(await text(`${lists}/what is in it.csv`)).toMatch(/A001C001,A001,001 003,copied and read back,A001,/)
    // No hidden file of ours stays.
    expect((await readdir(join(place, 'Mill'), { recursive: true })).filter((name) => /(^|\/)\./.test(name))).toEqual(
      [],
    )
  })

  test('what is there already is compared and stays; another file of the name is never overwritten', async () => {
    await pull()
    expect(await plan()).toMatchObject({ files: 3, already: 3, bytes: 0 })
    expect((await pull()).outcome).toMatchObject({ copied: 0, already: 3 })
    const theirs = join(place, 'Mill/A001/T1.wav')
    await writeFile(theirs, 'theirs')
    const { job, outcome } = await pull()
    expect(job.state).toBe('failed')
    expect(outcome?.refused.map(({ path }) => path)).toEqual(['A001/T1.wav'])
    expect(outcome?.refused[0]?.reason).toMatch(/Another file of this name/)
    expect(outcome?.outstanding).toMatchObject([{ name: 'T1' }])
    expect(outcome?.events).toMatchObject({ of: 4, covered: 3 })
    expect(outcome?.withoutLists).toMatch(/outstanding/)
    expect(await readFile(theirs, 'utf8')).toBe('theirs')
  })

  test('what is away is outstanding, and comes when it is back', async () => {
    const bag = join(ennick.config.dataFolder, 'bag')
    await rename(box, bag)
    const { job, outcome } = await pull()
    expect((await plan()).outstanding).toEqual([
      { name: 'B002C001', volumeLabel: 'Box: 2', reason: '“Box: 2” is away: put it in.' },
    ])
    expect([job.state, outcome?.copied, outcome?.outstandingCount]).toEqual(['done', 2, 1])
    expect(outcome?.events).toMatchObject({ of: 4, covered: 3 })
    expect(await below(outcome?.lists ?? '')).toEqual(['what is in it.csv'])
    await rename(bag, box)
    expect((await pull()).outcome).toMatchObject({ copied: 1, already: 2, outstandingCount: 0, withoutLists: null })
  })

  test('nothing is written into an empty folder that stands where the chosen one was', async () => {
    await mkdir(join(place, 'Mill/A001'), { recursive: true })
    await writeFile(join(place, 'Mill/A001/T1.wav'), 'theirs')
    const { job } = await pull()
    expect(job.state).toBe('failed')
    const away = `${place} away`
    await rename(place, away)
    await mkdir(place)
    await rm(join(away, 'Mill/A001/T1.wav'))
    const again = async () => {
      await ennick.call('retryJob', { params: { jobId: job.id } })
      return ennick.waitForJob(job.id)
    }
    expect(await again()).toMatchObject({ state: 'failed', error: expect.stringContaining('is another folder than') })
    expect(await readdir(place)).toEqual([])
    await rm(place, { recursive: true })
    await rename(away, place)
    // As a worker leaves it that is killed in the middle of writing its lists; and what is nobody's of this pull.
    const [own, foreign] = [job.id, productionId].map((id) => partPath('lists', id, 1)) as [string, string]
    for (const name of [own, foreign]) {
      await mkdir(join(place, 'Mill', name))
      await writeFile(join(place, 'Mill', name, 'ledger.csv'), 'half of it')
    }
    expect(await again()).toMatchObject({ state: 'done', summary: expect.stringContaining('1 file copied') })
    const parts = (await readdir(join(place, 'Mill'))).filter((name) => name.endsWith('.ennick-part'))
    expect(parts).toEqual([foreign])
    await rm(join(place, 'Mill', foreign), { recursive: true })
  })

  test('an original that is another by now is not copied for what it was', async () => {
    const path = join(card, 'T1.wav')
    const kept = await readFile(path)
    await writeFile(path, Buffer.concat([kept, Buffer.alloc(2)]))
    const { job, outcome } = await pull()
    expect(job.state).toBe('failed')
    expect(outcome?.refused[0]?.reason).toMatch(/another than at the last look/)
    await rm(path)
    await writeFile(path, kept)
    await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
  })

  test('an original that is known to be another is outstanding until it is accepted, or what it was', async () => {
    const path = join(box, 'B002C001.mov')
    const kept = join(ennick.config.dataFolder, 'kept.mov')
    await rename(path, kept)
    await makePicture(path, { seed: 3, timecode: '11:00:00:00', reel: 'B002' })
    await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
    const reason = 'B002C001.mov holds something else than when it was first seen: mend it, or accept what it is now.'
    expect((await plan()).outstanding).toMatchObject([{ name: 'B002C001', reason }])
    const { job, outcome } = await pull()
    expect([job.state, outcome?.copied, outcome?.events.covered]).toEqual(['done', 2, 3])
    expect(outcome?.outstanding).toEqual([{ name: 'B002C001', reason }])
    await rename(kept, path)
    await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
    expect((await pull()).outcome).toMatchObject({ copied: 1, already: 2, outstandingCount: 0, withoutLists: null })
  })
})

describe('no more than is used, with handles', () => {
  const long = `TITLE: Reel
001  L001 V C 12:00:00:20 12:00:01:15 01:00:00:00 01:00:00:20
* FROM CLIP NAME: L001C001.mov
002  L001 V C 12:00:04:00 12:00:04:20 01:00:00:20 01:00:01:15
* FROM CLIP NAME: L001C001.mov
003  A001 V C 10:00:00:00 10:00:01:24 01:00:01:15 01:00:03:14
* FROM CLIP NAME: A001C001.mov
004  AX V C 00:00:04:00 00:00:04:20 01:00:03:14 01:00:04:09
* FROM CLIP NAME: plain.mov
`
  let reel: string
  beforeAll(async () => {
    const folder = join(ennick.media, 'long')
    await makePicture(join(folder, 'L001C001.mov'), { frames: 200, timecode: '12:00:00:00', reel: 'L001', seed: 4 })
    // Without a timecode a list counts it from zero, and its stretch too.
    await makePicture(join(folder, 'plain.mov'), { frames: 200, timecode: null, reel: null, seed: 5 })
    await ennick.addVolume(productionId, 'LONG', folder)
    const body = { fileName: 'reel.edl', text: long }
    reel = (await ennick.call('addCut', { params: { productionId }, body })).id
  })
  const stretches = () => ({ ...asked(), handles: 5 })
  const pullStretches = async () => {
    const started = await ennick.call('pull', { params: { cutId: reel }, body: stretches() })
    const job = await ennick.waitForJob(started.id)
    const [newest] = await ennick.call('listPulls', { params: { cutId: reel } })
    return { job, outcome: newest?.outcome }
  }

  test('stretches are copied, and the lists that go along land on them where nothing else is', async () => {
    const planned = await ennick.call('planPull', { params: { cutId: reel }, body: stretches() })
    // Of the one clip nearly all is used: it goes as a whole.
    expect(planned).toMatchObject({ clips: 3, files: 4, pieces: 3, blocked: null })
    expect(planned.bytes).toBeLessThan(planned.wholeBytes)
    const { job, outcome } = await pullStretches()
    expect([job.state, outcome?.copied, outcome?.events.covered]).toEqual(['done', 4, 4])
    expect(await below('LONG')).toEqual(['L001C001_12000015.mov', 'L001C001_12000320.mov', 'plain_00000320.mov'])
    expect(outcome?.opened?.map(({ missedCount }) => missedCount)).toEqual([0, 0, 0, 0])
    expect(await text(outcome?.manifest ?? '')).toContain('>LONG/L001C001_12000320.mov</path>')
    expect(await text(`${outcome?.lists}/what is in it.csv`)).toMatch(/L001C001_12000015\.mov,\d+,\w+,,a stretch of it/)
    // The receiving side has the copy and nothing else.
    const there = await ennick.addProduction(`There ${places}`)
    await ennick.addVolume(there, 'COURIER', join(place, 'Mill'))
    for (const format of ['edl', 'otio', 'xml']) {
      const received = await ennick.call('addCut', {
        params: { productionId: there },
        body: { fileName: `reel.${format}`, text: await text(`${outcome?.lists}/Reel, online.${format}`) },
      })
      const { events } = await ennick.call('readCut', { params: { cutId: received.id } })
      expect(events.map(({ state, sourceIn }) => `${state} ${sourceIn}`)).toEqual([
        ...['on original 12:00:00:20', 'on original 12:00:04:00', 'on original 10:00:00:00'],
        'on original 00:00:04:00',
      ])
    }
  })

  test('of what is there nothing is said while the encoder is killed', async () => {
    await pullStretches()
    await killedHalfway(join(ennick.media, 'bin'), 'ffmpeg', 0)
    const { job } = await pullStretches().finally(withoutStandIns)
    expect(job).toMatchObject({ state: 'failed', error: expect.stringMatching(/ended from outside/) })
    expect(job.error).not.toMatch(/another/i)
  })

  test('what is there already is held against the original; another file of the name stays', async () => {
    await pullStretches()
    expect((await pullStretches()).outcome).toMatchObject({ copied: 0, already: 4 })
    const theirs = join(place, 'Mill/LONG/L001C001_12000320.mov')
    // A stretch of the same length from elsewhere, under its name.
    await writeFile(theirs, await readFile(join(place, 'Mill/LONG/L001C001_12000015.mov')))
    const kept = await readFile(theirs)
    const { job, outcome } = await pullStretches()
    expect(job.state).toBe('failed')
    expect(outcome?.refused).toEqual([
      { path: 'LONG/L001C001_12000320.mov', reason: expect.stringMatching(/Another file of this name/) },
    ])
    expect(await readFile(theirs)).toEqual(kept)
  })
})

describe('where nothing is copied to', () => {
  const refusal = async (folder: string, name = 'Mill') =>
    (await ennick.call('planPull', { params: { cutId }, body: { of: 'originals', folder, name } })).blocked
  test('into a volume, or around one', async () => {
    expect(await refusal(card)).toMatch(/lies on volume “A001”/)
    expect(await refusal(ennick.media, 'card')).toMatch(/volume “A001”/)
    await mkdir(join(place, 'Mill/inner'), { recursive: true })
    await ennick.addVolume(productionId, `INNER ${places}`, join(place, 'Mill/inner')).catch(() => undefined)
    expect(await refusal(place)).toMatch(/holds volume “INNER/)
    await expect(ennick.call('pull', { params: { cutId }, body: asked() })).rejects.toMatchObject({
      code: 'pull-blocked',
    })
  })

  test('outside of what is allowed, and under no name that leads elsewhere', async () => {
    await expect(refusal('/tmp')).rejects.toMatchObject({ code: 'outside-roots' })
    for (const name of ['../up', '.', '..', '.hidden', 'a/b', '', 'Mill.', 'con'])
      await expect(refusal(place, name)).rejects.toThrow()
  })

  test('through a link that stands where a folder would be made', async () => {
    const elsewhere = join(ennick.media, `elsewhere ${places}`)
    await mkdir(elsewhere)
    await symlink(elsewhere, join(place, 'Mill'))
    const { job } = await pull()
    expect(job.state).toBe('failed')
    expect(await readdir(elsewhere)).toEqual([])
  })
})

test('to go on cutting elsewhere: proxies, and what needs none; what has none yet is outstanding', async () => {
  const clips = await ennick.clips(productionId)
  const clipIds = clips.filter(({ path }) => path.endsWith('A001C001.mov')).map(({ id }) => id)
  const lutId = 'estuary-log-to-display'
  await ennick.call('assignLuts', { params: { productionId }, body: { clipIds, choice: { lutId } } })
  const made = await ennick.call('make', { params: { productionId }, body: { clipIds, recipeId: 'half-h264-intra' } })
  await ennick.waitForJob(made.jobs[0]?.id ?? '')
  expect((await plan('proxies')).outstanding).toEqual([
    { name: 'B002C001', volumeLabel: 'Box: 2', reason: 'It has no proxy that is here: make one.' },
  ])
  const { outcome } = await pull('proxies')
  expect(outcome).toMatchObject({ copied: 2, events: { of: 4, covered: 3 } })
  const copied = (await readdir(join(place, 'Mill'), { recursive: true })).filter((name) => /\.(mov|wav)$/.test(name))
  expect(copied.some((name) => /A001C001.*\.mov$/.test(name) && !name.startsWith('A001/'))).toBe(true)
  expect(copied).toContain('A001/T1.wav')
  expect(await text(`${outcome?.lists}/mill.edl`)).toBe(list)
  // Who goes on with originals can see them as they were seen.
  expect(await text(`${outcome?.lists}/LUT ${lutId}.cube`)).toContain('LUT_3D_SIZE 33')
  expect(await text(`${outcome?.lists}/what is in it.csv`)).toMatch(/A001C001,A001,.*,Estuary log to display,/)
})

test('a damaged original goes along as it is, and covers nothing', async () => {
  const id = await ennick.addProduction('Damaged')
  const path = join(ennick.media, 'damaged', 'A001C001.mov')
  await makePicture(path, { seed: 3 })
  const broken = await readFile(path)
  broken.fill(0x55, Math.floor(broken.length * 0.4), Math.floor(broken.length * 0.6))
  await writeFile(path, broken)
  await ennick.addVolume(id, 'DRIVE', join(ennick.media, 'damaged'))
  const text = list.split('002')[0] as string
  const cut = await ennick.call('addCut', { params: { productionId: id }, body: { fileName: 'mill.edl', text } })
  const params = { cutId: cut.id }
  await ennick.waitForJob((await ennick.call('tryOriginals', { params })).id)
  const planned = await ennick.call('planPull', { params, body: asked() })
  expect(planned).toMatchObject({
    outstanding: [],
    damaged: [{ name: 'A001C001', reason: expect.stringMatching(/frame/) }],
  })
  const job = await ennick.waitForJob((await ennick.call('pull', { params, body: asked() })).id)
  const [newest] = await ennick.call('listPulls', { params })
  expect(job.summary).toMatch(/^1 file copied and read back · 0 of 1 event covered/)
  expect(newest?.outcome?.events).toEqual({ of: 1, covered: 0, short: 0, damaged: 1 })
  expect(await isEqual(path, 'DRIVE/A001C001.mov')).toBe(true)
  const table = await readFile(join(place, 'Mill', newest?.outcome?.lists ?? '', 'what is in it.csv'), 'utf8')
  expect(table).toMatch(/copied and read back,.*damaged: .*frame/)
})

test('numbered stills go together, and not when one of them is another by now', async () => {
  const stills = await ennick.addProduction('Plates')
  const drive = join(ennick.media, 'drive')
  await mkdir(join(drive, 'plates'), { recursive: true })
  const source = ['-v', 'error', '-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=25:d=0.4']
  expect(await run('ffmpeg', [...source, join(drive, 'plates/mill.%04d.png')])).toMatchObject({ exitCode: 0 })
  await ennick.addVolume(stills, 'DRIVE', drive)
  const event = '001  AX V C 00:00:00:02 00:00:00:08 01:00:00:00 01:00:00:06\n* FROM CLIP NAME: mill.####.png\n'
  const body = { fileName: 'plates.edl', text: `TITLE: Plates\n${event}` }
  const plates = (await ennick.call('addCut', { params: { productionId: stills }, body })).id
  const pullPlates = async () => {
    await ennick.waitForJob((await ennick.call('pull', { params: { cutId: plates }, body: asked() })).id)
    return (await ennick.call('listPulls', { params: { cutId: plates } }))[0]
  }
  const whole = await pullPlates()
  expect(whole?.outcome).toMatchObject({ copied: 10, outstandingCount: 0, withoutLists: null })
  expect(await below('DRIVE/plates')).toHaveLength(10)
  expect(await text(`${whole?.outcome?.lists}/Plates, online.otio`)).toContain('/Mill/DRIVE/plates"')

  await writeFile(join(drive, 'plates/mill.0004.png'), 'another')
  const changed = await pullPlates()
  expect(changed?.job.state).toBe('failed')
  expect(changed?.outcome?.refused[0]?.reason).toMatch(/another than at the last look/)
})
