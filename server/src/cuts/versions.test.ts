import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Versions')
  const card = join(ennick.media, 'card')
  for (const [index, name] of ['A001C001', 'A001C002', 'B001C001'].entries())
    await makePicture(join(card, `${name}.mov`), { frames: 100, seed: index, reel: name.slice(0, 4) })
  // The same name on two cards: nobody can tell which is meant but a person.
  for (const [index, folder] of ['x', 'y'].entries())
    await makePicture(join(card, folder, 'C001C001.mov'), { frames: 100, seed: 10 + index, reel: undefined })
  await makeSound(join(card, 'T1.wav'), 96_000 - 768, 10 * 3600 * 48_000)
  await ennick.addVolume(productionId, 'A001', card)
})
afterAll(() => ennick.stop())

const event = (
  number: number,
  reel: string,
  name: string,
  from: string,
  to: string,
  at: string,
  until: string,
  track = 'V',
) => `${String(number).padStart(3, '0')}  ${reel} ${track} C ${from} ${to} ${at} ${until}\n* FROM CLIP NAME: ${name}\n`
const first = `TITLE: Reel 1
${event(1, 'A001', 'A001C001.mov', '10:00:00:00', '10:00:01:00', '01:00:00:00', '01:00:01:00')}${event(2, 'AX', 'C001C001.mov', '10:00:00:00', '10:00:01:00', '01:00:01:00', '01:00:02:00')}${event(3, 'A001', 'A001C002.mov', '10:00:00:00', '10:00:01:00', '01:00:02:00', '01:00:03:00')}${event(4, 'AX', 'T1.wav', '10:00:00:00', '10:00:02:00', '01:00:00:00', '01:00:02:00', 'A')}`
/** An insert before everything, the last trimmed, a clip that was not used before; and all numbers are others. */
const second = `TITLE: Reel 1
${event(10, 'B001', 'B001C001.mov', '10:00:00:00', '10:00:01:00', '01:00:00:00', '01:00:01:00')}${event(11, 'A001', 'A001C001.mov', '10:00:00:00', '10:00:01:00', '01:00:01:00', '01:00:02:00')}${event(12, 'AX', 'C001C001.mov', '10:00:00:00', '10:00:01:00', '01:00:02:00', '01:00:03:00')}${event(13, 'A001', 'A001C002.mov', '10:00:00:00', '10:00:02:00', '01:00:03:00', '01:00:05:00')}${event(14, 'AX', 'T1.wav', '10:00:00:00', '10:00:02:00', '01:00:01:00', '01:00:03:00', 'A')}`

const add = (body: { fileName: string; text: string; nextOf?: string; takeGood?: boolean }) =>
  ennick.call('addCut', { params: { productionId }, body })

describe('the next version of a cut', () => {
  let firstId: string
  let secondId: string

  test('takes over what was chosen and decided for the same events, wherever they stand now', async () => {
    firstId = (await add({ fileName: 'reel 1 v1.edl', text: first })).id
    const params = { cutId: firstId }
    const { open } = await ennick.call('readPreflight', { params })
    const rivals = open.find(({ kind }) => kind === 'ambiguous')?.rivals ?? []
    expect(rivals).toHaveLength(2)
    const clipId = rivals[1]?.clipId as string
    await ennick.call('chooseClips', { params, body: { choices: [{ positions: [1], clipId }] } })
    const short = open.find(({ kind }) => kind === 'too short')
    await ennick.call('decide', { params, body: { findingKey: short?.key, reason: 'Silence there anyway' } })
    expect((await ennick.call('readPreflight', { params })).ready).toBe(true)

    const next = await add({ fileName: 'reel 1 v2.edl', text: second, nextOf: firstId })
    secondId = next.id
    expect(next).toMatchObject({ version: 2, isNewest: true, blocking: 0 })
    const detail = await ennick.call('readCut', { params: { cutId: secondId } })
    expect(detail.events.find(({ number }) => number === '012')).toMatchObject({ clipId, by: 'choice' })
    const preflight = await ennick.call('readPreflight', { params: { cutId: secondId } })
    expect(preflight.decided.map(({ decision }) => decision?.reason)).toEqual(['Silence there anyway'])
    const history = await ennick.call('history', { params: { productionId } })
    expect(history.map(({ what }) => what).join('\n')).toContain('1 choice went over')
  })

  test('is compared with the one before: what became of each event, and what it newly needs', async () => {
    const changes = await ennick.call('compareCuts', { params: { cutId: secondId } })
    expect(changes?.before).toMatchObject({ id: firstId, version: 1 })
    expect(changes?.changes.map(({ words, after }) => [after?.number, words])).toEqual([
      ['010', 'added'],
      ['011', 'moved 25 frames later (00:00:01:00)'],
      ['012', 'moved 25 frames later (00:00:01:00)'],
      ['013', 'trimmed: 25 frames more at the tail, moved 25 frames later (00:00:01:00)'],
      ['014', 'moved 25 frames later (00:00:01:00)'],
    ])
    expect(changes?.needs.map(({ clipName, isNew, ranges }) => [clipName, isNew, ranges])).toEqual([
      ['B001C001.mov', true, ['10:00:00:00 – 10:00:01:00']],
      ['A001C002.mov', false, ['10:00:01:00 – 10:00:02:00']],
    ])
    expect(await ennick.call('compareCuts', { params: { cutId: firstId } })).toBeNull()
    const back = await ennick.call('compareCuts', { params: { cutId: firstId }, query: { since: secondId } })
    expect(back?.counts).toMatchObject({ gone: 1, moved: 4, trimmed: 1 })
  })

  test('the older one is no longer the newest; a third follows the newest, whichever was named', async () => {
    const third = await add({ fileName: 'reel 1 v3.edl', text: second, nextOf: firstId })
    expect(third.version).toBe(3)
    const list = await ennick.call('listCuts', { params: { productionId } })
    expect(list.map(({ version, isNewest }) => [version, isNewest])).toEqual([
      [1, false],
      [2, false],
      [3, true],
    ])
    await ennick.call('removeCut', { params: { cutId: third.id } })
    const after = await ennick.call('listCuts', { params: { productionId } })
    expect(after.map(({ version, isNewest }) => [version, isNewest])).toEqual([
      [1, false],
      [2, true],
    ])
  })

  test('of a line the newest alone counts on Today and among the uses of a clip', async () => {
    const today = await ennick.call('today', { params: { productionId } })
    expect(today.cuts.map(({ id }) => id)).toEqual([secondId])
    const detail = await ennick.call('readCut', { params: { cutId: secondId } })
    const clipId = detail.events.find(({ number }) => number === '011')?.clipId as string
    const clip = await ennick.call('readClip', { params: { clipId } })
    expect(clip.uses.map(({ cutId }) => cutId)).toEqual([secondId])
  })

  test('a decision goes along with a trim, and holds for no frames that were not decided upon', async () => {
    const use = (from: string, to: string, until = '01:00:01:00') =>
      event(1, 'ZZ', 'D009C001.mov', from, to, '01:00:00:00', until)
    const part = use('10:00:00:10', '10:00:00:20', '01:00:00:10')
    const decided = await add({ fileName: 'decided 1.edl', text: use('10:00:00:00', '10:00:01:00') })
    const [open] = (await ennick.call('readPreflight', { params: { cutId: decided.id } })).open
    const body = { findingKey: open?.key, reason: 'The pickup comes on Friday' }
    expect((await ennick.call('decide', { params: { cutId: decided.id }, body })).ready).toBe(true)
    const next = async (text: string, nextOf: string) => {
      const { id } = await add({ fileName: 'decided, next.edl', text, nextOf })
      return { id, preflight: await ennick.call('readPreflight', { params: { cutId: id } }) }
    }
    const trimmed = await next(part, decided.id)
    expect(trimmed.preflight).toMatchObject({ ready: true, decided: [{ decision: { reason: body.reason } }] })
    const further = await next(
      part + event(2, 'ZZ', 'D009C001.mov', '10:00:05:00', '10:00:06:00', '01:00:00:10', '01:00:01:10'),
      trimmed.id,
    )
    expect(further.preflight).toMatchObject({ ready: false, decided: [] })
    expect(further.preflight.open).toMatchObject([{ decision: null, lapsed: { reason: body.reason } }])
    const history = (await ennick.call('history', { params: { productionId } })).map(({ what }) => what).join('\n')
    expect(history).toContain('1 decision of it did not: more is used now than was decided upon.')
    // Without the other event it is what was decided upon again; decided anew it holds for both.
    const again = await next(part, further.id)
    expect(again.preflight).toMatchObject({ ready: true, decided: [{ lapsed: null }] })
    const anew = { params: { cutId: further.id }, body: { ...body, findingKey: further.preflight.open[0]?.key } }
    expect(await ennick.call('decide', anew)).toMatchObject({ ready: true, open: [] })
  })

  test('a choice goes along with a trim, and not to other frames that nobody looked at', async () => {
    const use = (from: string, to: string) => event(1, 'AX', 'C001C001.mov', from, to, '01:00:00:00', '01:00:01:00')
    const chosen = await add({ fileName: 'rivals 1.edl', text: use('10:00:00:00', '10:00:01:00') })
    const rivals = (await ennick.call('readPreflight', { params: { cutId: chosen.id } })).open[0]?.rivals ?? []
    const clipId = rivals[0]?.clipId as string
    await ennick.call('chooseClips', { params: { cutId: chosen.id }, body: { choices: [{ positions: [0], clipId }] } })
    const landing = async (from: string, to: string, nextOf: string) => {
      const { id } = await add({ fileName: 'rivals.edl', text: use(from, to), nextOf })
      const [landed] = (await ennick.call('readCut', { params: { cutId: id } })).events
      return { id, state: landed?.state, by: landed?.by }
    }
    const trimmed = await landing('10:00:00:20', '10:00:01:20', chosen.id)
    expect(trimmed).toMatchObject({ state: 'on original', by: 'choice' })
    expect(await landing('10:00:02:00', '10:00:03:00', trimmed.id)).toMatchObject({ state: 'unresolved', by: null })
  })

  test('of a cut of another production it is refused, and nothing is kept', async () => {
    const other = await ennick.addProduction('Other')
    const body = { fileName: 'x.edl', text: first, nextOf: firstId }
    await expect(ennick.call('addCut', { params: { productionId: other }, body })).rejects.toMatchObject({
      code: 'not-found',
    })
    expect(await ennick.call('listCuts', { params: { productionId: other } })).toEqual([])
  })
})

describe('a list with bad lines', () => {
  const bad = `${first}hello\n005  A001 V C 10:00:00:99 10:00:01:00 01:00:05:00 01:00:06:00\n`

  test('is refused with every one of them, and nothing of it is kept', async () => {
    const before = await ennick.call('listCuts', { params: { productionId } })
    await expect(add({ fileName: 'bad.edl', text: bad })).rejects.toMatchObject({
      code: 'bad-list',
      message: expect.stringContaining('2 parts of it are wrong'),
      details: { faults: [{ location: 'line 10' }, { location: 'line 11' }] },
    })
    expect(await ennick.call('listCuts', { params: { productionId } })).toHaveLength(before.length)
  })

  test('gives its good events on request, and tells the bad ones', async () => {
    const cut = await add({ fileName: 'bad.edl', text: bad, takeGood: true })
    expect(cut).toMatchObject({ events: 4, leftOut: 2 })
    const { leftOut } = await ennick.call('readCut', { params: { cutId: cut.id } })
    expect(leftOut.map(({ location }) => location)).toEqual(['line 10', 'line 11'])
  })
})

test('the list as it was read can be had again', async () => {
  const { id } = await add({ fileName: 'Rolle 1 Übergänge.edl', text: first })
  const response = await fetch(`${ennick.url}/api/cuts/${id}/list`)
  expect(await response.text()).toBe(first)
  expect(response.headers.get('content-disposition')).toContain(encodeURIComponent('Rolle 1 Übergänge.edl'))
})

test('what each format would lose is told before a handoff', async () => {
  const wipe = second.replace('C 10:00:00:00 10:00:01:00 01:00:01:00', 'W012 005 10:00:00:00 10:00:01:00 01:00:01:00')
  const { id } = await add({ fileName: 'wipe.edl', text: wipe })
  const formats = await ennick.call('readFormats', { params: { cutId: id } })
  const losses = Object.fromEntries(formats.map(({ format, losses }) => [format, losses]))
  expect(losses.otio?.find(({ name }) => name.startsWith('Wipes'))).toMatchObject({
    carried: 'as a remark',
    events: ['011'],
  })
  expect(losses.xmeml?.some(({ name }) => name.startsWith('Wipes'))).toBe(false)
  expect(formats.every(({ reason }) => reason === null)).toBe(true)
})

test('the order of tracks is turned over, and back again', async () => {
  const layers = `TITLE: Layers
${event(1, 'A001', 'A001C001.mov', '10:00:00:00', '10:00:01:00', '01:00:00:00', '01:00:01:00')}${event(2, 'A001', 'A001C002.mov', '10:00:00:00', '10:00:01:00', '01:00:00:00', '01:00:01:00', 'V3')}`
  const { id } = await add({ fileName: 'layers.edl', text: layers })
  const flip = (from: string, to: string) => ennick.call('flipTracks', { params: { cutId: id }, body: { from, to } })
  const placed = async () =>
    (await ennick.call('readCut', { params: { cutId: id } })).events.map(({ track, originalName }) => [
      track,
      originalName,
    ])
  const before = await placed()
  expect((await flip('V3', 'V1')).tracks.map(({ name }) => name)).toEqual(['V1', 'V3'])
  expect(await placed()).toEqual([
    ['V3', 'A001C001.mov'],
    ['V1', 'A001C002.mov'],
  ])
  await flip('V1', 'V3')
  expect(await placed()).toEqual(before)
  await expect(flip('V1', 'A1')).rejects.toMatchObject({ code: 'bad-tracks' })
})

test('a sequence with markers, scale and raster, kept and read again, leaves in each format that can say it', async () => {
  const rate = '<rate><timebase>25</timebase><ntsc>FALSE</ntsc></rate>'
  const basic =
    '<filter><effect><effectid>basic</effectid><parameter><parameterid>scale</parameterid><value>220</value></parameter></effect></filter>'
  const file = `<file id="f"><pathurl>file:///P:/proxies/A001C001_proxy.mov</pathurl>${rate}<duration>100</duration>
    <timecode>${rate}<frame>900000</frame><reel><name>A001</name></reel></timecode>
    <media><video><samplecharacteristics><width>160</width><height>90</height></samplecharacteristics></video></media></file>`
  const text = `<?xml version="1.0"?><!DOCTYPE xmeml><xmeml version="5"><sequence><name>Small</name>${rate}
    <media><video><format><samplecharacteristics><width>960</width><height>540</height></samplecharacteristics></format>
    <track><clipitem><name>A001C001_proxy.mov</name>${rate}<start>0</start><end>50</end><in>10</in><out>60</out>${file}${basic}</clipitem></track></video></media>
    <marker><name>look</name><comment>here</comment><in>12</in><out>-1</out></marker></sequence></xmeml>`
  const cut = await add({ fileName: 'small.xml', text })
  expect(cut.raster).toEqual({ width: 960, height: 540 })
  const detail = await ennick.call('readCut', { params: { cutId: cut.id } })
  expect(detail.markers).toEqual([{ record: '00:00:00:12', name: 'look', note: 'here' }])
  // 600 % would fill 960 × 540 with 160 × 90: 220 % is a good third of that.
  expect(detail.events[0]?.scale).toBe('220 %: 600 % for a medium of 160 × 90, 36.6667 % of the editor’s own')
  const formats = await ennick.call('readFormats', { params: { cutId: cut.id } })
  expect(formats.map(({ format, reason }) => [format, reason])).toEqual([
    ['otio', null],
    ['xmeml', null],
    ['edl', null],
  ])
  const { checks } = await ennick.call('readPreflight', { params: { cutId: cut.id } })
  expect(checks.find(({ id }) => id === 'format')).toMatchObject({ result: 'needs a look' })
  const handoff = await ennick.call('handOff', { params: { cutId: cut.id }, body: { xmemlVersion: 4 } })
  const written = await readFile(join(handoff.folder, 'Small, online.xml'), 'utf8')
  expect(written).toContain('<xmeml version="4">')
  // The production's raster, and of the scale what the editor did: the original is 320 × 180, which a scale of 200 % makes 640 × 360.
  expect(written).toMatch(/<width>640<\/width>\s*<height>360<\/height>/)
  expect(written).not.toMatch(/proxy|proxies/)
  const raster = /<file[\s\S]*?<width>(\d+)<\/width>/.exec(written)?.[1]
  const scale = Number(/<parameterid>scale<\/parameterid>[\s\S]*?<value>([\d.]+)<\/value>/.exec(written)?.[1])
  expect((scale * Number(raster)) / 640).toBeCloseTo(36.6667, 3)
})

test('what is known of a cut is true after every change to it, whoever made it', async () => {
  const { id } = await add({ fileName: 'kept.edl', text: first })
  const read = async () => ennick.call('readCut', { params: { cutId: id } })
  expect((await read()).events[0]?.clipName).toBe('A001C001.mov')
  await ennick.query(
    `update events set event = jsonb_set(event, '{clipName}', '"B001C001.mov"') where cut_id = $1 and position = 0`,
    [id],
  )
  expect((await read()).events[0]?.clipName).toBe('B001C001.mov')
  await ennick.query('delete from events where cut_id = $1 and position > 0', [id])
  expect((await read()).events).toHaveLength(1)
  await ennick.query(`update cuts set name = 'Another name' where id = $1`, [id])
  expect((await read()).cut.name).toBe('Another name')
  await ennick.query('update clips set reel = $1', ['Z999'])
  expect((await read()).events[0]?.state).toBe('unresolved')
})
