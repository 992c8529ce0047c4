import { appendFile, cp, mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let card: string
let cardId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Promises')
  card = join(ennick.media, 'card')
  await makePicture(join(card, 'A001C001.mov'), { size: '640x360', seed: 1 })
  await makePicture(join(card, 'A001C002.mov'), { size: '640x360', seed: 2, timecode: '10:01:00:00' })
  await makePicture(join(card, 'A001C003.mov'), { size: '640x360', seed: 3, timecode: '10:02:00:00' })
  cardId = await ennick.addVolume(productionId, 'A001', card)
})
afterAll(() => ennick.stop())

const event = (number: number, name: string, reel: string, start: string, end: string): string => {
  const record = (at: number): string => `01:00:${String(at).padStart(2, '0')}:00`
  const times = `${start} ${end} ${record(number)} ${record(number + 1)}`
  return `${String(number).padStart(3, '0')}  ${reel} V C ${times}\n* FROM CLIP NAME: ${name}\n`
}
let cuts = 0
const addCut = async (...events: string[]): Promise<string> =>
  (
    await ennick.call('addCut', {
      params: { productionId },
      body: { fileName: `cut ${++cuts}.edl`, text: `TITLE: Cut ${cuts}\n${events.join('')}` },
    })
  ).id
const first = event(1, 'A001C001.mov', 'A001', '10:00:00:10', '10:00:01:10')
const read = async (cutId: string) => (await ennick.call('readCut', { params: { cutId } })).events
const states = async (cutId: string) => (await read(cutId)).map(({ state }) => state)
const findings = (cutId: string) => ennick.call('listFindings', { params: { cutId } })
const kinds = async (cutId: string) => (await findings(cutId)).map(({ kind }) => kind)
const check = async () => ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
const search = async (cutId: string, folder: string) => {
  const job = await ennick.call('search', { params: { cutId }, body: { folder, findingKeys: null } })
  expect((await ennick.waitForJob(job.id)).state).toBe('done')
  return ennick.call('readSearch', { params: { jobId: job.id } })
}
const clip = async (name: string) => (await ennick.clips(productionId)).find((each) => each.name === name)

describe('an original that is not what it was', () => {
  test('overwritten by other content: it blocks until that very content is accepted', async () => {
    const path = join(card, 'A001C001.mov')
    const cutId = await addCut(first)
    expect([await states(cutId), await kinds(cutId)]).toEqual([['on original'], []])
    const kept = await readFile(path)
    await rm(path)
    await makePicture(path, { size: '640x360', seed: 7 })
    await check()
    const [changed] = await findings(cutId)
    expect(changed).toMatchObject({ kind: 'original changed', severity: 'blocks handoff' })
    const preflight = () => ennick.call('readPreflight', { params: { cutId } })
    expect((await preflight()).ready).toBe(false)
    await ennick.call('decide', { params: { cutId }, body: { findingKey: changed?.key, reason: 'Regraded by hand' } })
    expect((await preflight()).ready).toBe(true)
    // Other content once more: what was accepted is not this one.
    await rm(path)
    await makePicture(path, { size: '640x360', seed: 8 })
    await check()
    expect((await preflight()).ready).toBe(false)
    await writeFile(path, kept)
    await check()
    expect(await kinds(cutId)).toEqual([])
  })

  test('damaged: it keeps its place and is named; never read at all: the event says so', async () => {
    const path = join(card, 'A001C001.mov')
    const kept = await readFile(path)
    const cutId = await addCut(first, event(2, 'B009C001.mov', 'B009', '11:00:00:00', '11:00:01:00'))
    await writeFile(path, kept.subarray(0, 20_000))
    await writeFile(join(card, 'B009C001.mov'), kept.subarray(0, 20_000))
    await ennick.scan(cardId)
    expect(await states(cutId)).toEqual(['original damaged', 'unresolved'])
    const found = await findings(cutId)
    expect(found.map(({ kind }) => kind)).toEqual(expect.arrayContaining(['original damaged', 'unresolved']))
    expect(found.find(({ kind }) => kind === 'unresolved')?.evidence[0]?.found).toContain('B009C001.mov is damaged')
    await writeFile(path, kept)
    await rm(join(card, 'B009C001.mov'))
    await ennick.scan(cardId)
    expect((await states(cutId))[0]).toBe('on original')
  })

  test('broken inside: it is tried, and named with its frames', async () => {
    const path = join(card, 'A001C002.mov')
    const cutId = await addCut(event(1, 'A001C002.mov', 'A001', '10:01:00:10', '10:01:01:10'))
    const kept = await readFile(path)
    const tried = async () => (await ennick.call('readPreflight', { params: { cutId } })).tried
    const attempt = async () =>
      (await ennick.waitForJob((await ennick.call('tryOriginals', { params: { cutId } })).id)).summary
    expect(await tried()).toEqual({ of: 1, done: 0 })
    expect(await attempt()).toBe('1 original decodes at head, quarters and tail')
    expect([await tried(), await kinds(cutId)]).toEqual([{ of: 1, done: 1 }, []])
    // The index of the file is whole; of its pictures, those in the middle are not.
    const broken = Buffer.from(kept)
    broken.fill(0x55, Math.floor(kept.length * 0.4), Math.floor(kept.length * 0.6))
    await writeFile(path, broken)
    await ennick.scan(cardId)
    expect(await attempt()).toBe('0 originals decode at head, quarters and tail · 1 damaged')
    expect((await findings(cutId)).find(({ kind }) => kind === 'original damaged')?.message).toMatch(
      /A001C002\.mov is damaged, and carries event 001: .*frames? \d+/,
    )
    expect(await states(cutId)).toEqual(['original damaged'])
    await writeFile(path, kept)
    await ennick.scan(cardId)
    expect([await states(cutId), await kinds(cutId)]).toEqual([['on original'], []])
  })

  test('gone before its volume left: it is gone, and not away', async () => {
    const gone = join(card, 'A001C003.mov')
    const cutId = await addCut(event(1, 'A001C003.mov', 'A001', '10:02:00:10', '10:02:01:10'))
    await rename(gone, join(ennick.media, 'A001C003.mov'))
    await check()
    await rename(card, `${card} out`)
    while ((await ennick.volume(productionId, 'A001'))?.isHere) await new Promise((done) => setTimeout(done, 200))
    expect(await states(cutId)).toEqual(['original gone'])
    expect((await findings(cutId))[0]?.message).toContain('was not on volume “A001” any more when that was last here')
    await rename(`${card} out`, card)
    while (!(await ennick.volume(productionId, 'A001'))?.isHere) await new Promise((done) => setTimeout(done, 200))
    await rename(join(ennick.media, 'A001C003.mov'), gone)
    await check()
    expect(await states(cutId)).toEqual(['on original'])
  })
})

describe('what is no original', () => {
  test('a copy of our own proxy and a re-export are refused, and never on original', async () => {
    const shelf = join(ennick.media, 'shelf')
    const { jobs } = await ennick.call('make', {
      params: { productionId },
      body: { clipIds: [(await clip('A001C002.mov'))?.id], recipeId: 'half-h264-intra' },
    })
    expect((await ennick.waitForJob(jobs[0]?.id ?? '')).state).toBe('done')
    const ledger = await ennick.call('listPairs', { params: { productionId } })
    const pairId = ledger.flatMap(({ pairs }) => pairs)[0]?.id ?? ''
    const made = (await ennick.call('readPair', { params: { pairId } })).madeFiles[0]?.path as string
    await mkdir(shelf)
    await cp(made, join(shelf, 'A001C002.mov'))
    await makePicture(join(shelf, 'export/A001C002.mov'), { size: '320x180', seed: 2, timecode: '10:01:00:00' })
    const cutId = await addCut(event(1, 'A001C002.mov', 'A001', '10:01:00:10', '10:01:01:10'))
    const original = join(card, 'A001C002.mov')
    await rename(original, join(ennick.media, 'kept.mov'))
    await check()
    const { rows, jobId } = await search(cutId, shelf)
    expect(rows[0]).toMatchObject({ outcome: 'refused', candidateId: null })
    expect(rows[0]?.rated.map(({ refusal, mayBeOpened }) => [refusal, mayBeOpened])).toEqual([
      [expect.stringMatching(/it is no original|smaller re-export/), true],
      [expect.stringMatching(/it is no original|smaller re-export/), true],
    ])
    // By hand, with a reason, which the mend keeps; the finding stays.
    const choice = { wantedId: rows[0]?.wantedId, candidateId: join(shelf, 'A001C002.mov') }
    const repoint = (choices: object[]) =>
      ennick.call('repoint', { params: { cutId }, body: { searchJobId: jobId, choices } })
    await expect(repoint([choice])).rejects.toMatchObject({ code: 'refused-choice' })
    const mend = await repoint([{ ...choice, reason: 'The card is lost for good' }])
    expect(mend.changes[0]?.label).toContain('Reason: The card is lost for good')
    expect(await states(cutId)).toEqual(['on proxy'])
    expect(await kinds(cutId)).toContain('original is a proxy')
    await ennick.call('undoMend', { params: { mendId: mend.id } })
    await rename(join(ennick.media, 'kept.mov'), original)
    await check()
    expect(await states(cutId)).toEqual(['on original'])
  })

  test('a camera’s proxies elsewhere are told from originals; a person may say otherwise', async () => {
    const twins = join(ennick.media, 'twins')
    await makePicture(join(twins, 'T001C001.mov'), { size: '320x180', reel: 'T001', timecode: '12:00:00:00', seed: 21 })
    const twinsId = await ennick.addVolume(productionId, 'TWINS', twins)
    const large = join(ennick.media, 'large')
    await makePicture(join(large, 'T001C001.mov'), { size: '640x360', reel: 'T001', timecode: '12:00:00:00', seed: 21 })
    await ennick.addVolume(productionId, 'LARGE', large)
    const cutId = await addCut(event(1, 'T001C001.mov', 'T001', '12:00:00:10', '12:00:01:10'))
    const landed = async () => (await read(cutId))[0]?.originalPath
    expect(await landed()).toBe(join(large, 'T001C001.mov'))
    const declare = (role: string | null) =>
      ennick.call('declareRole', { params: { volumeId: twinsId }, body: { path: '', role } })
    await declare('original')
    expect((await read(cutId))[0]).toMatchObject({ state: 'unresolved', originalPath: null })
    expect((await declare(null)).roles).toEqual([])
    expect(await landed()).toBe(join(large, 'T001C001.mov'))
    // Said to be proxies, they are clips no more: they are offered to their originals.
    expect((await declare('proxy')).roles).toEqual([{ path: '', role: 'proxy' }])
    expect((await ennick.clips(productionId)).filter(({ volumeLabel }) => volumeLabel === 'TWINS')).toEqual([])
    const offers = await ennick.call('listOffers', { params: { productionId } })
    expect(offers).toEqual([expect.objectContaining({ path: 'T001C001.mov', outcome: 'fits', agrees: true })])
    await declare(null)
    expect(await ennick.call('listOffers', { params: { productionId } })).toEqual([])
    await expect(
      ennick.call('declareRole', { params: { volumeId: twinsId }, body: { path: '../card', role: 'proxy' } }),
    ).rejects.toMatchObject({ code: 'bad-place' })
  })

  test('a picture event never lands on sound of its name', async () => {
    await makeSound(join(card, 'S1.wav'), 240_000, 0)
    await ennick.scan(cardId)
    expect(await states(await addCut(event(1, 'S1.wav', 'AX', '00:00:00:00', '00:00:01:00')))).toEqual(['unresolved'])
  })
})

describe('proxies by another hand', () => {
  test('healthy and faulty ones find their originals, with their faults, and are paired as decided', async () => {
    const folder = join(ennick.media, 'vendor')
    const proxy = (name: string, change: object) =>
      makePicture(join(folder, 'PROXY', name), { size: '320x180', ...change })
    await proxy('A001C001_proxy.mov', { seed: 1 })
    await proxy('A001C002_proxy.mov', { seed: 2, timecode: '10:01:00:02' })
    await proxy('A001C003_proxy.mov', { seed: 3, timecode: '10:02:00:00', frames: 49 })
    await proxy('X999C001_proxy.mov', { seed: 4, timecode: '20:00:00:00', reel: 'X999', frames: 33 })
    const vendorId = await ennick.addVolume(productionId, 'VENDOR', folder)
    await ennick.call('declareRole', { params: { volumeId: vendorId }, body: { path: 'PROXY', role: 'proxy' } })
    const offers = await ennick.call('listOffers', { params: { productionId } })
    const offer = (name: string) => offers.find(({ path }) => path.endsWith(name))
    expect(offer('A001C001_proxy.mov')).toMatchObject({ outcome: 'fits', clipName: 'A001C001', agrees: true })
    expect(offer('A001C002_proxy.mov')).toMatchObject({
      outcome: 'likely',
      clipId: null,
      differences: [expect.stringMatching(/^timecode: 10:01:00:00 \/ 10:01:00:02/)],
    })
    expect(offer('A001C003_proxy.mov')).toMatchObject({ agrees: false })
    expect(offer('A001C003_proxy.mov')?.differences.join()).toContain('length')
    expect(offer('X999C001_proxy.mov')).toMatchObject({ outcome: 'waits', clipId: null })
    const fileId = offer('A001C002_proxy.mov')?.fileId
    const clipId = (await clip('A001C002.mov'))?.id
    const accept = (body: object) => ennick.call('acceptOffers', { params: { productionId }, body })
    expect(await accept({ fileIds: [offer('A001C001_proxy.mov')?.fileId, fileId] })).toEqual({ paired: 1 })
    expect(await accept({ fileIds: [], choices: [{ fileId, clipId }] })).toEqual({ paired: 1 })
    const ledger = await ennick.call('listPairs', { params: { productionId } })
    const adopted = ledger.flatMap(({ pairs }) => pairs).filter(({ origin }) => origin === 'adopted')
    const verdict = (name: string) => adopted.find((pair) => pair.name === name)?.verdict
    expect(verdict('A001C001_proxy.mov')).toBe('matched')
    expect(verdict('A001C002_proxy.mov')).toBe('mismatched')
    // Two frames late and nothing else: a copy gets the right stamp, the adopted file is not touched.
    const late = adopted.find((pair) => pair.name === 'A001C002_proxy.mov')
    const file = join(folder, 'PROXY/A001C002_proxy.mov')
    const before = await readFile(file)
    const [mend] = await ennick.call('restamp', { params: { productionId }, body: { pairIds: [late?.id] } })
    const mendState = async () =>
      (await ennick.call('listMends', { params: { productionId } })).find(({ id }) => id === mend?.id)?.state
    while ((await mendState()) === 'waiting') await new Promise((done) => setTimeout(done, 50))
    expect(await mendState()).toBe('done')
    const inUse = async () =>
      (await ennick.call('listPairs', { params: { productionId } }))
        .flatMap(({ pairs }) => pairs)
        .filter((pair) => pair.name === 'A001C002_proxy.mov' && pair.recipe === null)
        .map(({ origin, verdict }) => [origin, verdict])
    expect(await inUse()).toEqual([['made', 'matched']])
    expect((await readFile(file)).equals(before)).toBe(true)
    await ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
    expect(await inUse()).toEqual([['adopted', 'mismatched']])
    const right = adopted.find((pair) => pair.name === 'A001C001_proxy.mov')
    await expect(
      ennick.call('restamp', { params: { productionId }, body: { pairIds: [right?.id] } }),
    ).rejects.toMatchObject({ code: 'not-a-stamp' })
    // A mixed scan afterwards leaves them what they are.
    await appendFile(join(folder, 'notes.txt'), 'x')
    await ennick.scan(vendorId)
    expect((await ennick.clips(productionId)).filter(({ volumeLabel }) => volumeLabel === 'VENDOR')).toEqual([])
  })
})

describe('a mend', () => {
  test('for one cut covers what the others use; for one event leaves the others where they are', async () => {
    const reel = join(ennick.media, 'reel')
    await makePicture(join(reel, 'M001C001.mov'), { reel: 'M001', timecode: '15:00:00:00', frames: 50, seed: 31 })
    await ennick.addVolume(productionId, 'REEL', reel)
    const long = event(2, 'M001C001.mov', 'M001', '15:00:01:10', '15:00:02:10')
    const cutId = await addCut(event(1, 'M001C001.mov', 'M001', '15:00:00:05', '15:00:01:05'), long)
    const otherId = await addCut(event(1, 'M001C001.mov', 'M001', '15:00:00:00', '15:00:01:00'))
    expect([await states(cutId), await states(otherId)]).toEqual([['on original', 'short'], ['on original']])
    const longer = join(ennick.media, 'longer')
    await makePicture(join(longer, 'M001C001.mov'), { reel: 'M001', timecode: '15:00:00:00', frames: 90, seed: 32 })
    const { rows, jobId } = await search(cutId, longer)
    const [row] = rows
    await ennick.call('repoint', {
      params: { cutId },
      body: {
        searchJobId: jobId,
        choices: [{ wantedId: row?.wantedId, candidateId: row?.rated[0]?.candidateId }],
      },
    })
    expect([await states(cutId), await states(otherId)]).toEqual([['on original', 'on original'], ['on original']])
    expect((await read(otherId))[0]?.originalPath).toBe(join(reel, 'M001C001.mov'))
    expect((await read(cutId)).map(({ originalPath }) => originalPath)).toEqual([
      join(reel, 'M001C001.mov'),
      join(longer, 'M001C001.mov'),
    ])
    // The one that both cuts use is lost: what covers one cut alone is refused.
    await rename(join(reel, 'M001C001.mov'), join(ennick.media, 'away.mov'))
    await check()
    const part = join(ennick.media, 'part')
    await makePicture(join(part, 'M001C001.mov'), { reel: 'M001', timecode: '15:00:00:04', frames: 46, seed: 33 })
    const judged = await search(cutId, part)
    expect(judged.rows.find(({ label }) => label === 'M001C001.mov')?.rated[0]?.refusal).toMatch(
      /too short: event 001 on V1 of “Cut \d+” needs 4 frames at the head more/,
    )
  })
})
