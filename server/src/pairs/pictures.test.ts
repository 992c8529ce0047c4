import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

const frames = 48
/** Pictures of nine clips; the last two look like the first two, and something else moves in them. */
const scenes = [1, 2, 3, 4, 5, 6, 7, 1, 2].map((set, index) => ({ set, movement: index }))
const originals = scenes.map((_, index) => `A00${index + 1}C001.mov`)
const ntsc = 6
const startOf = (number: number): string => `10:0${number}:00:00`

let ennick: Harness
let productionId: string
let card: string
let vendor: string
let vendorId: string

interface Proxy {
  readonly filters?: readonly string[]
  readonly words?: readonly string[]
  readonly timecode?: string | null
  readonly reel?: string | null
}

/** Makes a small proxy of an original, as some other hand would. */
async function makeProxy(number: number, path: string, proxy: Proxy = {}): Promise<void> {
  const { filters = ['scale=320:180'], words = [], timecode = startOf(number), reel = `A00${number}` } = proxy
  await mkdir(dirname(path), { recursive: true })
  const result = await run('ffmpeg', [
    ...['-v', 'error', '-y', '-i', join(card, originals[number - 1] as string), '-map', '0:v', '-map', '0:a'],
    ...['-vf', filters.join(','), '-map_metadata', '-1', '-map_metadata:s', '-1', '-write_tmcd', '0'],
    ...['-c:v', 'libx264', '-g', '1', '-crf', '28', '-pix_fmt', 'yuv420p', '-c:a', 'pcm_s16le', ...words],
    ...(timecode === null ? [] : ['-write_tmcd', '1', '-timecode', timecode]),
    ...(reel === null ? [] : ['-metadata:s:v:0', `reel_name=${reel}`, '-metadata', `reel_name=${reel}`]),
    path,
  ])
  if (result.exitCode !== 0) throw new Error(result.stderr)
}
const late = (by: number): string[] => [`tpad=start=${by}:start_mode=clone`, `trim=end_frame=${frames}`]
const small = 'scale=320:180'
const proxyName = (number: number): string => `A00${number}C001_proxy.mov`

beforeAll(async () => {
  ennick = await startHarness({ looks: true })
  productionId = await ennick.addProduction('Pictures')
  card = join(ennick.media, 'card')
  vendor = join(ennick.media, 'vendor')
  for (const [index, scene] of scenes.entries())
    await makePicture(join(card, originals[index] as string), {
      ...{ size: '640x360', frames, scene, reel: `A00${index + 1}` },
      timecode: index + 1 === ntsc ? '10:06:00;02' : startOf(index + 1),
      rate: index + 1 === ntsc ? '30000/1001' : '25',
    })
  await ennick.addVolume(productionId, 'CARD', card)
  await ennick.untilLooked(productionId)
})
afterAll(() => ennick.stop())

const offers = async () => ennick.call('listOffers', { params: { productionId } })
const offerOf = async (name: string) => (await offers()).find(({ path }) => path.endsWith(name))
const ledger = async () => (await ennick.call('listPairs', { params: { productionId } })).flatMap((row) => row.pairs)
const verdictOf = async (name: string) => {
  const pair = (await ledger()).find((each) => each.name === name)
  return pair && `${pair.verdict}: ${pair.why}`
}
const clipId = async (number: number) =>
  (await ennick.clips(productionId)).find(({ path }) => path === originals[number - 1])?.id
const accept = async (
  fileIds: unknown[],
  choices: { fileId?: string | undefined; clipId?: string | undefined }[] = [],
) => {
  await ennick.call('acceptOffers', { params: { productionId }, body: { fileIds, choices } })
  await ennick.untilLooked(productionId)
}
/** Brings in a folder of proxies and pairs what fits. */
async function receive(): Promise<void> {
  vendorId ??= await ennick.addVolume(productionId, 'VENDOR', vendor)
  await ennick.call('declareRole', { params: { volumeId: vendorId }, body: { path: '', role: 'proxy' } })
  await ennick.scan(vendorId)
  await ennick.untilLooked(productionId)
}

describe('proxies by another hand', () => {
  test('healthy ones are paired and proven by their pictures, whatever their size, codec, curve or bars', async () => {
    await makeProxy(1, join(vendor, proxyName(1)))
    await makeProxy(2, join(vendor, proxyName(2)), { filters: [small, "curves=all='0/0 0.3/0.12 0.7/0.9 1/1'"] })
    await makeProxy(3, join(vendor, proxyName(3)), { filters: ['scale=160:90'], words: ['-crf', '34'] })
    await receive()
    expect((await offers()).map(({ outcome, agrees }) => [outcome, agrees])).toEqual(Array(3).fill(['fits', true]))
    await accept((await offers()).map(({ fileId }) => fileId))
    for (const number of [1, 2, 3]) expect(await verdictOf(proxyName(number))).toMatch(/^proven: .* so do its pictures/)
  })

  test('a renamed one without a word is found by its pictures alone, also among look-alikes', async () => {
    const nothing = { timecode: null, reel: null }
    await makeProxy(8, join(vendor, 'selects/wide shot ok.mov'), { ...nothing, filters: [small] })
    await receive()
    const offer = await offerOf('wide shot ok.mov')
    expect([offer?.outcome, offer?.clipName]).toEqual(['fits', 'A008C001'])
    expect(offer?.reason).toMatch(/pictures/)
  })

  test('every fault of its stamp and its length is named', async () => {
    const faults = {
      4: { timecode: '10:04:02:00' },
      5: { timecode: null },
      [ntsc]: { timecode: '10:06:00:02' },
      7: { filters: [small, `trim=end_frame=${frames - 1}`] },
      9: { words: ['-map', '-0:a:1'] },
    }
    for (const [number, fault] of Object.entries(faults))
      await makeProxy(Number(number), join(vendor, proxyName(Number(number))), fault)
    await receive()
    await accept((await offers()).filter(({ outcome }) => outcome === 'fits').map(({ fileId }) => fileId))
    expect(await verdictOf(proxyName(4))).toMatch(/^mismatched: timecode: 50 frames later/)
    expect(await verdictOf(proxyName(5))).toMatch(/^mismatched: timecode: one has a timecode/)
    expect(await verdictOf(proxyName(ntsc))).toMatch(/^mismatched: .*drop flag/)
    expect(await verdictOf(proxyName(7))).toMatch(/^mismatched: length: 1 frame short/)
    expect(await verdictOf(proxyName(9))).toMatch(/^mismatched: channels: 1 channel missing/)
    // None of them shows anything but its original.
    for (const pair of await ledger()) expect(pair.why).not.toMatch(/pictures:|other pictures/)
  })

  test('pictures that run late are caught to the frame, and a shape that is pulled is told', async () => {
    await makeProxy(1, join(vendor, 'late', proxyName(1)), { filters: [small, ...late(1)] })
    await makeProxy(3, join(vendor, 'late', proxyName(3)), { filters: [small, ...late(2)] })
    await makeProxy(2, join(vendor, 'late', proxyName(2)), { filters: ['scale=320:240', 'setsar=1'] })
    await receive()
    const three = (await offers()).filter(({ path }) => path.startsWith('late/'))
    expect(three.map(({ outcome }) => outcome)).toEqual(['fits', 'fits', 'fits'])
    await accept(three.map(({ fileId }) => fileId))
    const late1 = (await ledger()).filter(({ name }) => name === proxyName(1)).map(({ why }) => why)
    expect(late1).toContain('pictures: its pictures run 1 frame late')
    const late3 = (await ledger()).filter(({ name }) => name === proxyName(3)).map(({ why }) => why)
    expect(late3).toContain('pictures: its pictures run 2 frames late')
    const shape = (await ledger()).filter(({ name }) => name === proxyName(2)).map(({ why }) => why)
    expect(shape).toContain('shape: the picture would look stretched or squeezed')
  })

  test('one that shows another clip is never paired by itself; paired by hand, the right clip is named', async () => {
    // Named and stamped as the fourth, it shows the fifth; and as the first, it shows its look-alike.
    await makeProxy(5, join(vendor, 'swapped', proxyName(4)), { timecode: startOf(4), reel: 'A004' })
    await makeProxy(8, join(vendor, 'swapped', proxyName(1)), { timecode: startOf(1), reel: 'A001' })
    await receive()
    const swapped = (await offers()).filter(({ path }) => path.startsWith('swapped/'))
    expect(swapped.map(({ outcome }) => outcome)).not.toContain('fits')
    expect(swapped).toHaveLength(2)
    await accept(
      [],
      [
        { fileId: swapped.find(({ path }) => path.endsWith(proxyName(4)))?.fileId, clipId: await clipId(4) },
        { fileId: swapped.find(({ path }) => path.endsWith(proxyName(1)))?.fileId, clipId: await clipId(1) },
      ],
    )
    const why = (await ledger()).map((pair) => pair.why)
    expect(why).toContain('pictures: it shows the pictures of A005C001.mov')
    expect(why).toContain('pictures: it shows the pictures of A008C001.mov')
  })

  test('another rate, and what cannot be read at all, is told and not paired', async () => {
    await makeProxy(2, join(vendor, 'bad/A002C001_24.mov'), { words: ['-r', '24'] })
    const readable = await readFile(join(vendor, proxyName(1)))
    await writeFile(join(vendor, 'bad/A003C001_half.mov'), readable.subarray(0, readable.length / 3))
    await writeFile(join(vendor, 'bad/A004C001_none.mov'), '')
    await receive()
    const outcomes = (await offers()).filter(({ path }) => path.startsWith('bad/')).map(({ outcome }) => outcome)
    expect(outcomes).not.toContain('fits')
    const problems = await ennick.call('listProblems', { params: { volumeId: vendorId } })
    expect(problems.map(({ path }) => path)).toEqual(
      expect.arrayContaining(['bad/A003C001_half.mov', 'bad/A004C001_none.mov']),
    )
  })
})

test('decoding whole compares every picture: what the few places do not show is named with its frame', async () => {
  const path = join(ennick.media, 'long/L001C001.mov')
  await makePicture(path, { size: '320x180', frames: 200, scene: { set: 8, movement: 2 }, timecode: '14:00:00:00' })
  await ennick.addVolume(productionId, 'LONG', dirname(path))
  const proxies = join(ennick.media, 'long proxies')
  await mkdir(proxies)
  const codec = ['-c:v', 'libx264', '-g', '1', '-crf', '28', '-pix_fmt', 'yuv420p', '-c:a', 'copy']
  const stamp = ['-timecode', '14:00:00:00', '-metadata:s:v:0', 'reel_name=A001']
  // Frame 77 is black, between two of the places that are looked at.
  const black = ['-vf', "drawbox=t=fill:c=black:enable='eq(n,77)'"]
  const made = join(proxies, 'L001C001_proxy.mov')
  expect(
    (await run('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:v', '-map', '0:a', ...black, ...codec, ...stamp, made]))
      .exitCode,
  ).toBe(0)
  const volumeId = await ennick.addVolume(productionId, 'LONG PROXIES', proxies)
  await ennick.call('declareRole', { params: { volumeId }, body: { path: '', role: 'proxy' } })
  await ennick.untilLooked(productionId)
  await accept([(await offerOf('L001C001_proxy.mov'))?.fileId])
  expect(await verdictOf('L001C001_proxy.mov')).toMatch(/^proven/)
  const pair = (await ledger()).find(({ name }) => name === 'L001C001_proxy.mov')
  const job = await ennick.call('decodePairs', { params: { productionId }, body: { pairIds: [pair?.id] } })
  await ennick.waitForJob(job.id)
  expect(await verdictOf('L001C001_proxy.mov')).toBe('mismatched: pictures: frame 77 is black')
})

test('a scan asks for no look when nothing can be looked at; a person may ask for one', async () => {
  const looks = async () => (await ennick.query(`select from jobs where input->>'kind' = 'look'`)).length
  const name = proxyName(2)
  await ennick.query(`update pairs set proof = null, pictures_compared = null where name = $1`, [name])
  await ennick.query(`update files set is_gone = true where path like '%' || $1`, [name])
  const before = await looks()
  const [volume] = await ennick.query<{ id: string }>(`select id from volumes where label = 'LONG'`)
  await ennick.scan(volume?.id as string)
  expect(await looks()).toBe(before)
  await ennick.query(`update files set is_gone = false where path like '%' || $1`, [name])
  const ask = () => ennick.call('comparePictures', { params: { productionId } })
  await ennick.waitForJob((await ask()).id)
  expect(await verdictOf(name)).toMatch(/^proven/)
})

test('an original that cannot be decoded in its middle is named without anybody asking', async () => {
  const path = join(ennick.media, 'second/B001C001.mov')
  await makePicture(path, { size: '640x360', frames, scene: { set: 9, movement: 3 } })
  const bytes = await readFile(path)
  // The pictures of a quarter of the file are overwritten; its head, its tail and its index stay.
  bytes.fill(0x55, Math.floor(bytes.length * 0.4), Math.floor(bytes.length * 0.65))
  await writeFile(path, bytes)
  await ennick.addVolume(productionId, 'SECOND', dirname(path))
  await ennick.untilLooked(productionId)
  const [row] = await ennick.query<{ complaint: string }>(
    `select complaint from original_trials trial join files file on file.id = trial.file_id where path = 'B001C001.mov'`,
  )
  expect(row?.complaint).toMatch(/B001C001\.mov.*frame/)
})
