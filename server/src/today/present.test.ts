import { cp, mkdir, rename, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let cutId: string
let cards: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Views')
  cards = join(ennick.media, 'cards')
  await makePicture(join(cards, 'A/A001C001.mov'), { seed: 1 })
  await makePicture(join(cards, 'A/A001C002.mov'), { seed: 2, timecode: '10:01:00:00' })
  await makePicture(join(cards, 'B/B001C001.mov'), { seed: 3, timecode: '11:00:00:00', reel: null })
  await makeSound(join(cards, 'B/T1.wav'), 96_000, 10 * 3600 * 48_000)
  await ennick.addVolume(productionId, 'A', join(cards, 'A'))
  await ennick.addVolume(productionId, 'B', join(cards, 'B'))
  const clip = (await ennick.clips(productionId)).find((candidate) => candidate.name === 'A001C001.mov')
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds: [clip?.id], recipeId: 'half-h264-intra' },
  })
  await ennick.waitForJob(jobs[0]?.id ?? '')
  const text = `TITLE: Views
001  A001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001.mov
002  A001 V C 10:01:00:10 10:01:01:10 01:00:01:00 01:00:02:00
* FROM CLIP NAME: A001C002.mov
003  B001 V C 11:00:00:00 11:00:02:05 01:00:02:00 01:00:04:05
* FROM CLIP NAME: B001C001.mov
004  X V C 05:00:00:00 05:00:01:00 01:00:04:05 01:00:05:05
* FROM CLIP NAME: nobody.mov
`
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'views.edl', text } })).id
})
afterAll(() => ennick.stop())

const params = () => ({ params: { productionId } })
const cut = () => ennick.call('readCut', { params: { cutId } })
const ledger = () => ennick.call('listPairs', params())
/** Takes a card out, looks, and puts it back. */
async function without(name: string, look: () => Promise<void>): Promise<void> {
  const isHere = async () =>
    (await ennick.call('listVolumes', params())).find((volume) => volume.label === name)?.isHere
  const until = async (wanted: boolean) => {
    while ((await isHere()) !== wanted) await new Promise((resolve) => setTimeout(resolve, 100))
  }
  await rename(join(cards, name), join(cards, `${name} out`))
  await until(false)
  try {
    await look()
  } finally {
    await rename(join(cards, `${name} out`), join(cards, name))
    await until(true)
  }
}

describe('Today', () => {
  test('counts what waits at each stop', async () => {
    const today = await ennick.call('today', params())
    expect(today.counts).toEqual({ intake: 0, clips: 1, make: 0, pairs: 0, cuts: 1, mend: 2, handoff: 0 })
    expect(today.clips).toMatchObject({ total: 4, picture: 3, withoutProxy: 2 })
    expect(today.pairVerdicts).toEqual([{ verdict: 'proven', count: 1 }])
    expect(today.cuts).toEqual([
      expect.objectContaining({ name: 'Views', events: 4, onOriginal: 2, blocking: 2, handedOffAt: null }),
    ])
  })

  test('says what is not safe and what is lost before anybody has read a cut', async () => {
    const other = await ennick.addProduction('No cut yet')
    const [card, drive] = [join(ennick.media, 'own/C'), join(ennick.media, 'own/D')]
    await makePicture(join(card, 'C001C001.mov'), { seed: 5, reel: 'C001' })
    await makePicture(join(drive, 'D1/D001C001.mov'), { seed: 6, reel: 'D001' })
    const read = async () => {
      const { neverScanned, onlyOnCard, gone, moved } = await ennick.call('today', { params: { productionId: other } })
      const named = {
        onlyOnCard: onlyOnCard.map(({ label, clips }) => [label, clips]),
        moved: moved.map((at) => at.label),
      }
      return { neverScanned, gone, ...named }
    }
    const body = { label: 'C', kind: 'card', rootPath: card }
    const { id } = await ennick.call('addVolume', { params: { productionId: other }, body })
    expect(await read()).toEqual({ neverScanned: ['C'], onlyOnCard: [], gone: 0, moved: [] })
    await ennick.scan(id)
    const driveId = await ennick.addVolume(other, 'D', drive)
    expect(await read()).toEqual({ neverScanned: [], onlyOnCard: [['C', 1]], gone: 0, moved: [] })
    await rename(join(drive, 'D1'), join(drive, 'day 1'))
    await ennick.scan(driveId)
    expect(await read()).toEqual({ neverScanned: [], onlyOnCard: [['C', 1]], gone: 1, moved: ['D'] })
  })

  test('tells what is new since yesterday; what goes and comes back is new again', async () => {
    const fresh = async () => (await ennick.call('today', params())).cuts[0]?.fresh
    const since = async () =>
      (await ennick.call('listFindings', { params: { cutId } })).map(({ since: at }) => at?.slice(0, 10))
    expect(await fresh()).toBe(2)
    await ennick.query(`update finding_firsts set seen_at = '2026-01-02T03:04:05Z' where cut_id = $1`, [cutId])
    expect(await fresh()).toBe(0)
    expect(await since()).toEqual(['2026-01-02', '2026-01-02'])
    await without('A', async () => {
      // Two uses of it wait for the box, and one of them lost its proxy’s original.
      expect(await fresh()).toBe(2)
    })
    expect(await fresh()).toBe(0)
    // A next version is not new where it is as it was.
    const [row] = await ennick.query<{ text: string }>('select source_text as text from cuts where id = $1', [cutId])
    const body = { fileName: 'views.edl', text: `${row?.text}`, nextOf: cutId }
    const next = await ennick.call('addCut', { params: { productionId }, body })
    expect(await fresh()).toBe(0)
    await ennick.call('removeCut', { params: { cutId: next.id } })
  })

  test('names the box that is away, and who needs it', async () => {
    await without('A', async () => {
      const today = await ennick.call('today', params())
      const lack = { neededBy: ['Views'], clips: 2, pairs: 0, others: 0, isMissed: true }
      expect(today.volumesAway).toEqual([expect.objectContaining({ label: 'A', ...lack })])
      expect(today.counts.intake).toBe(1)
    })
    expect((await ennick.call('today', params())).volumesAway).toEqual([])
  })

  test('a card that was offloaded is not missed; one with anything else is, and one that nobody scanned', async () => {
    const other = await ennick.addProduction('Wrapped')
    const at = (path: string) => join(ennick.media, 'wrapped', path)
    await makePicture(at('SAFE/D001C001.mov'), { seed: 11, reel: 'D001' })
    await cp(at('SAFE'), at('STORE/day 1'), { recursive: true })
    await makePicture(at('PART/E001C001.mov'), { seed: 12, reel: 'E001' })
    await mkdir(at('STORE/day 2'))
    await cp(at('PART/E001C001.mov'), at('STORE/day 2/E001C001.mov'))
    await writeFile(at('PART/E001C002.mov'), 'half of a header')
    await makePicture(at('ALONE/F001C001.mov'), { seed: 13, reel: 'F001' })
    await mkdir(at('BLANK'))
    const ids = []
    for (const label of ['SAFE', 'PART', 'ALONE', 'STORE'])
      ids.push(await ennick.addVolume(other, label, at(label), label === 'STORE' ? 'drive' : 'card'))
    const body = { label: 'BLANK', kind: 'card', rootPath: at('BLANK') }
    await ennick.call('addVolume', { params: { productionId: other }, body })
    for (const volumeId of ids.slice(0, 2))
      await ennick.waitForJob((await ennick.call('compareCopies', { params: { volumeId } })).id)
    const today = () => ennick.call('today', { params: { productionId: other } })
    for (const label of ['SAFE', 'PART', 'ALONE', 'BLANK']) await rename(at(label), at(`${label} out`))
    while ((await today()).volumesAway.length < 4) await new Promise((resolve) => setTimeout(resolve, 100))
    const { volumesAway, counts } = await today()
    expect(volumesAway.map(({ label, clips, others, isMissed }) => [label, clips, others, isMissed])).toEqual([
      ['PART', 0, 1, true],
      ['ALONE', 1, 0, true],
      ['BLANK', 0, 0, true],
      ['SAFE', 0, 0, false],
    ])
    expect(counts.intake).toBe(3)
    // Once the storage is out too, nothing of any of them is here, whichever was copied from which.
    await rename(at('STORE'), at('STORE out'))
    while ((await today()).volumesAway.length < 5) await new Promise((resolve) => setTimeout(resolve, 100))
    const missed = (await today()).volumesAway.filter(({ isMissed }) => isMissed)
    expect(missed.map(({ label, clips }) => [label, clips]).sort()).toEqual([
      ['ALONE', 1],
      ['BLANK', 0],
      ['PART', 1],
      ['SAFE', 1],
      ['STORE', 2],
    ])
  })

  test('a copy that is away is missed where its original is gone, and where nobody has compared the two', async () => {
    const other = await ennick.addProduction('Two drives')
    const at = (path: string) => join(ennick.media, 'two', path)
    await makePicture(at('FIRST/G001C001.mov'), { seed: 14, reel: 'G001' })
    await makePicture(at('FIRST/G001C002.mov'), { seed: 15, reel: 'G001', timecode: '10:05:00:00' })
    await cp(at('FIRST'), at('SECOND'), { recursive: true })
    const first = await ennick.addVolume(other, 'FIRST', at('FIRST'))
    await ennick.addVolume(other, 'SECOND', at('SECOND'))
    const away = async () =>
      (await ennick.call('today', { params: { productionId: other } })).volumesAway.map(
        ({ label, clips, notCompared, isMissed }) => ({ label, clips, notCompared, isMissed }),
      )
    await rename(at('SECOND'), at('SECOND out'))
    while ((await away()).length < 1) await new Promise((resolve) => setTimeout(resolve, 100))
    expect(await away()).toEqual([{ label: 'SECOND', clips: 0, notCompared: 2, isMissed: true }])
    await rm(at('FIRST/G001C002.mov'))
    await ennick.scan(first)
    expect(await away()).toEqual([{ label: 'SECOND', clips: 1, notCompared: 1, isMissed: true }])
  })
})

describe('a cut', () => {
  test('shows each event with its state, its original and how that was found', async () => {
    const { events, cut: summary } = await cut()
    expect(events.map((event) => [event.number, event.state, event.by, event.note])).toEqual([
      ['001', 'on original', 'name', null],
      ['002', 'on original', 'name', null],
      ['003', 'short', 'name', '5 frames past the end'],
      ['004', 'unresolved', null, null],
    ])
    expect(summary.states).toEqual({ onOriginal: 2, onProxy: 0, originalMissing: 0, short: 1, unresolved: 1 })
  })

  test('an event whose original is away is not on it: it plays its proxy, or waits', async () => {
    await without('A', async () => {
      const { events, cut: summary } = await cut()
      expect(events.map((event) => event.state)).toEqual(['on proxy', 'original away', 'short', 'unresolved'])
      expect(summary.states).toMatchObject({ onProxy: 1, originalMissing: 1 })
      const kinds = (await ennick.call('listFindings', { params: { cutId } })).map((finding) => finding.kind)
      expect(kinds.filter((kind) => kind === 'volume away')).toHaveLength(2)
    })
  })

  test('its strips carry the uses, with the exact overhang', async () => {
    const strips = new Map((await cut()).strips.map((entry) => [entry.name, entry.strip]))
    expect(strips.get('A001C001')).toMatchObject({
      original: { start: 900_000, end: 900_050 },
      made: [{ start: 900_000, end: 900_050, note: null, isWhollyOff: false }],
      uses: [{ label: 'V1 001', start: 900_010, end: 900_035, note: null }],
    })
    expect(strips.get('B001C001')?.uses[0]?.note).toBe('5 frames past the end')
  })
})

describe('the ledger', () => {
  test('says why in a sentence, whatever the verdict', async () => {
    const why = async () => (await ledger()).find((row) => row.name === 'A001C001.mov')?.pairs[0]?.why
    expect(await why()).toMatch(/^All \d+ facts agree with the original, and so do its pictures\.$/)
    await without('A', async () => expect(await why()).toBe('The original is on volume “A”, which is away.'))
    await rename(join(cards, 'A/A001C001.mov'), join(cards, 'A/other.mov'))
    const check = async () => ennick.waitForJob((await ennick.call('check', params())).id)
    await check()
    expect(await why()).toBe('The original is not on volume “A”, which is here.')
    await rename(join(cards, 'A/other.mov'), join(cards, 'A/A001C001.mov'))
    await check()
    expect(await why()).toMatch(/agree/)
  })

  test('sound needs no proxy, and has a strip all the same', async () => {
    const row = (await ledger()).find((candidate) => candidate.name === 'T1.wav')
    expect(row).toMatchObject({ needsProxy: false, pairs: [], strip: { original: { start: 900_000, end: 900_050 } } })
  })
})

test('a clip knows where it is used', async () => {
  const clips = await ennick.clips(productionId)
  expect(clips.map((clip) => [clip.name, clip.uses])).toEqual([
    ['A001C001.mov', 1],
    ['A001C002.mov', 1],
    ['B001C001.mov', 1],
    ['T1.wav', 0],
  ])
  const detail = await ennick.call('readClip', { params: { clipId: clips[2]?.id ?? '' } })
  expect(detail.uses).toEqual([{ cutId, cutName: 'Views', event: '003', track: 'V1', state: 'short' }])
})

test('a path map is used at once, and the list of suggestions shrinks', async () => {
  const text = `TITLE: Mapped
001  AX V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* SOURCE FILE: Q:\\shoot\\cards\\A\\A001C001.mov
`
  const id = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'mapped.edl', text } })).id
  const read = () => ennick.call('readCut', { params: { cutId: id } })
  const before = await read()
  expect(before.events[0]?.by).toBe('name')
  expect(before.suggestedMappings).toEqual([{ from: 'Q:/shoot', to: ennick.media, matches: 1 }])
  await ennick.call('setPathMappings', { params: { productionId }, body: { mappings: before.suggestedMappings } })
  const after = await read()
  expect([after.events[0]?.by, after.suggestedMappings]).toEqual(['path', []])
  await ennick.call('removeCut', { params: { cutId: id } })
  await expect(read()).rejects.toMatchObject({ status: 404 })
})

test('an event that several originals claim is settled by a person, and that can be taken back', async () => {
  await mkdir(join(cards, 'C'))
  await makePicture(join(cards, 'C/A001C002.mov'), { seed: 8, timecode: '10:01:00:00' })
  await ennick.addVolume(productionId, 'C', join(cards, 'C'))
  const findings = async () =>
    (await ennick.call('listFindings', { params: { cutId } })).filter((finding) => finding.kind === 'ambiguous')
  const [ambiguous] = await findings()
  expect(ambiguous?.rivals.map((rival) => rival.path)).toEqual([
    join(cards, 'A/A001C002.mov'),
    join(cards, 'C/A001C002.mov'),
  ])
  const mend = await ennick.call('chooseClips', {
    params: { cutId },
    body: { choices: [{ positions: ambiguous?.events, clipId: ambiguous?.rivals[1]?.clipId }] },
  })
  expect(await findings()).toEqual([])
  expect((await cut()).events[1]).toMatchObject({ by: 'choice', originalPath: join(cards, 'C/A001C002.mov') })
  await ennick.call('undoMend', { params: { mendId: mend.id } })
  expect(await findings()).toHaveLength(1)
  await rm(join(cards, 'C'), { recursive: true })
})

describe('a production is corrected', () => {
  const finish = { name: 'Corrected', rate: { numerator: 25, denominator: 1 }, width: 640, height: 360 }
  let id: string
  const change = (values: object, apply: boolean) =>
    ennick.call('changeProduction', { params: { productionId: id }, body: { ...finish, ...values, apply } })

  test('what that changes is said before, and nothing is changed by asking', async () => {
    id = await ennick.addProduction('Corrected')
    await makePicture(join(ennick.media, 'corrected/Q1.mov'), { frames: 12 })
    await makeSound(join(ennick.media, 'corrected/Q1.wav'), 4800, 0, 1)
    await ennick.addVolume(id, 'Q', join(ennick.media, 'corrected'))
    expect((await change({}, false)).changes).toEqual([])
    const rate = { numerator: 24_000, denominator: 1001 }
    expect((await change({ rate, width: 1280, height: 720 }, false)).changes).toEqual([
      'At 23.976: 0 of 1 picture; at 25: 1.',
      '1 recording is counted at 23.976, not at 25.',
      'Recipes at the production’s raster make 1280 × 720, not 640 × 360.',
      'A cut leaves for the finish in the new raster.',
    ])
    const [production] = (await ennick.call('listProductions')).filter((each) => each.id === id)
    expect(production).toMatchObject(finish)
  })

  test('and then it is so, everywhere, with a line of history; a name that another has is refused', async () => {
    const rate = { numerator: 24_000, denominator: 1001 }
    expect((await change({ name: 'Put right', rate }, true)).applied).toBe(true)
    const [production] = (await ennick.call('listProductions')).filter((each) => each.id === id)
    expect(production).toMatchObject({ name: 'Put right', rate })
    const [line] = await ennick.call('history', { params: { productionId: id } })
    expect(line?.what).toBe(
      'The production was “Corrected”, 25 fps, 640 × 360, and is “Put right”, 23.976 fps, 640 × 360 now.',
    )
    const fit = await ennick.call('readFit', { params: { productionId: id } })
    expect(JSON.stringify(fit)).toContain('23.976')
    const [other] = (await ennick.call('listProductions')).filter((each) => each.id !== id)
    await expect(change({ name: other?.name }, true)).rejects.toThrow(/There is a production .* already/)
  })
})
