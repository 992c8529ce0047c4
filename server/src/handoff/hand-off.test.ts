import { mkdir, readdir, readFile, rename, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { parseAle } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { xxh64 } from '@node-rs/xxhash'
import { handoffFolder } from '../config.ts'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let card: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Handoffs')
  card = join(ennick.media, 'card')
  await makePicture(join(card, 'A001C001.mov'), { seed: 1 })
  await makePicture(join(card, 'DR01.mov'), {
    rate: '30000/1001',
    frames: 60,
    timecode: '12:59:58;00',
    reel: 'DR01',
    seed: 2,
  })
  // 768 samples short of its 50th frame.
  await makeSound(join(card, 'T1.wav'), 96_000 - 768, 10 * 3600 * 48_000)
  await ennick.addVolume(productionId, 'A001', card)
})
afterAll(() => ennick.stop())

const addCut = async (fileName: string, text: string) =>
  (await ennick.call('addCut', { params: { productionId }, body: { fileName, text } })).id
const handOff = (cutId: string) => ennick.call('handOff', { params: { cutId } })
const preflight = (cutId: string) => ennick.call('readPreflight', { params: { cutId } })
const plain = `TITLE: Plain
001  A001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001_proxy.mov
* SOURCE FILE: P:\\proxies\\A001C001_proxy.mov
`
const time = (value: number, rate: number) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate })
const mixed = JSON.stringify({
  OTIO_SCHEMA: 'Timeline.1',
  name: 'Two rates',
  global_start_time: time(90_000, 25),
  tracks: {
    OTIO_SCHEMA: 'Stack.1',
    children: [
      {
        OTIO_SCHEMA: 'Track.1',
        kind: 'Video',
        children: [
          {
            OTIO_SCHEMA: 'Clip.1',
            name: 'DR01.mov',
            source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(1_402_540, 29.97), duration: time(30, 29.97) },
            metadata: { cmx_3600: { reel: 'DR01' } },
          },
        ],
      },
    ],
  },
})

test('a cut on proxies leaves on originals, with checksums that are true', async () => {
  const handoff = await handOff(await addCut('plain.edl', plain))
  expect(await readdir(handoff.folder)).toEqual(
    expect.arrayContaining(['Plain, online.edl', 'Plain, online.otio', 'Plain report.html', 'manifest.json']),
  )
  for (const file of handoff.files) {
    const content = await readFile(join(handoff.folder, file.name))
    expect([content.length, xxh64(content).toString(16).padStart(16, '0')]).toEqual([file.bytes, file.xxh64])
  }
  const list = await readFile(join(handoff.folder, 'Plain, online.edl'), 'utf8')
  expect(list).toContain(`* SOURCE FILE: ${join(card, 'A001C001.mov')}`)
  expect(list).not.toMatch(/proxy/i)
  const manifest = JSON.parse(await readFile(join(handoff.folder, 'manifest.json'), 'utf8'))
  expect(manifest.originals).toEqual([
    expect.objectContaining({ clip: 'A001C001', volume: 'A001', path: join(card, 'A001C001.mov') }),
  ])
  expect((await readFile(join(handoff.folder, 'Plain cut list.pdf'))).subarray(0, 5).toString()).toBe('%PDF-')
  expect(await readFile(join(handoff.folder, 'Plain cut list.html'), 'utf8')).toContain('A001C001.mov')
  expect(await readFile(join(handoff.folder, 'Plain pull list.csv'), 'utf8')).toContain(
    `A001C001.mov,A001,10:00:00:10,10:00:01:10,A001,${join(card, 'A001C001.mov')}`,
  )
  expect(parseAle(await readFile(join(handoff.folder, 'Plain pull list.ale'), 'utf8')).rows).toHaveLength(1)
  const served = await fetch(
    `${ennick.url}/api/handoffs/${handoff.id}/files/${encodeURIComponent('Plain, online.edl')}`,
  )
  expect([served.status, await served.text()]).toEqual([200, list])
  expect(served.headers.get('content-disposition')).toContain("filename*=UTF-8''Plain%2C%20online.edl")
  expect((await fetch(`${ennick.url}/api/handoffs/${handoff.id}/files/..%2F..%2Fdatabase-secret`)).status).toBe(404)
})

test('six at once are six handoffs, each whole in a folder of its own, and a folder that was there stays as it was', async () => {
  const cutId = await addCut('at once.edl', plain.replace('TITLE: Plain', 'TITLE: At once'))
  const seconds = [0, 1, 2, 3, 4, 5, 6, 7].map((later) =>
    new Date(Date.now() + 1000 * later).toISOString().slice(0, 19).replaceAll(':', '-'),
  )
  for (const second of seconds) await mkdir(join(handoffFolder(ennick.config.dataFolder), `At once ${second}`))
  const made = await Promise.all(Array.from({ length: 6 }, () => handOff(cutId)))
  expect(new Set(made.map((handoff) => handoff.folder)).size).toBe(6)
  for (const handoff of made) {
    expect((await readdir(handoff.folder)).sort()).toEqual([
      'At once cut list.html',
      'At once cut list.pdf',
      'At once events.csv',
      'At once pull list.ale',
      'At once pull list.csv',
      'At once report.html',
      'At once, online.edl',
      'At once, online.otio',
      'At once, online.xml',
      'manifest.json',
    ])
    expect(
      (await fetch(`${ennick.url}/api/handoffs/${handoff.id}/files/${encodeURIComponent('At once, online.edl')}`))
        .status,
    ).toBe(200)
  }
  for (const second of seconds)
    expect(await readdir(join(handoffFolder(ennick.config.dataFolder), `At once ${second}`))).toEqual([])
  expect((await readdir(handoffFolder(ennick.config.dataFolder))).filter((name) => name.startsWith('.'))).toEqual([])
})

test('what a format cannot say is left out with the reason, in the list and in the report', async () => {
  const handoff = await handOff(await addCut('two rates.otio', mixed))
  expect(handoff.files.map((file) => file.name)).toEqual([
    'Two rates, online.otio',
    'Two rates, online.xml',
    'Two rates cut list.html',
    'Two rates cut list.pdf',
    'Two rates events.csv',
    'Two rates pull list.csv',
    'Two rates pull list.ale',
    'Two rates report.html',
    'manifest.json',
  ])
  expect(handoff.leftOut).toEqual([{ name: 'CMX 3600 EDL', reason: expect.stringContaining('29.97') }])
  const text = (name: string) => readFile(join(handoff.folder, `Two rates ${name}`), 'utf8')
  expect(await text('report.html')).toContain('CMX 3600 EDL was left out')
  // Its list says nothing of drop-frame: everywhere the source is written as its original counts.
  for (const name of ['report.html', 'cut list.html', 'events.csv', 'pull list.csv'])
    expect([name, await text(name)]).toEqual([name, expect.stringContaining('12:59:58;04')])
})

test('a name that is no file name becomes one, and never leaves the folder of handoffs', async () => {
  const handoff = await handOff(await addCut('odd.edl', plain.replace('TITLE: Plain', 'TITLE: ../../x: "a/b" *')))
  expect(handoff.folder.startsWith(`${handoffFolder(ennick.config.dataFolder)}/`)).toBe(true)
  expect(handoff.folder.slice(handoffFolder(ennick.config.dataFolder).length + 1)).not.toContain('/')
})

test('a name that is too long for a disk is shortened, between two characters', async () => {
  const handoff = await handOff(await addCut('long.edl', plain.replace('TITLE: Plain', `TITLE: ${'潮🌊'.repeat(60)}`)))
  const { name = '' } = handoff.files.find((file) => file.name.endsWith('.edl')) ?? {}
  expect(name).toMatch(/^(潮🌊)+潮?, online\.edl$/u)
  expect(await readFile(join(handoff.folder, name), 'utf8')).toContain('A001C001')
})

describe('decisions', () => {
  const short = `TITLE: Short
001  AX A C 10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00
* FROM CLIP NAME: T1.wav
`
  test('a fraction of a frame blocks until somebody says why it may stay, and again when that is withdrawn', async () => {
    const cutId = await addCut('short.edl', short)
    const [open] = (await preflight(cutId)).open
    expect(open).toMatchObject({ kind: 'too short', message: expect.stringContaining('0.4 frame at the tail') })
    await expect(handOff(cutId)).rejects.toMatchObject({ code: 'preflight' })
    const body = { findingKey: open?.key, reason: 'Silence there anyway' }
    expect((await ennick.call('decide', { params: { cutId }, body })).ready).toBe(true)
    expect((await ennick.call('withdrawDecision', { params: { cutId }, body: { findingKey: open?.key } })).ready).toBe(
      false,
    )
    await ennick.call('decide', { params: { cutId }, body: { ...body, reason: 'Silence there, heard it' } })
    const handoff = await handOff(cutId)
    expect(handoff.decisions).toEqual([expect.objectContaining({ reason: 'Silence there, heard it' })])
    const history = await ennick.call('history', { params: { productionId } })
    expect(history.filter((line) => /Decided|withdrawn|Handed off/.test(line.what)).length).toBeGreaterThanOrEqual(4)
  })

  test('on something that is not wrong cannot be made', async () => {
    const cutId = await addCut('plain again.edl', plain)
    await expect(
      ennick.call('decide', { params: { cutId }, body: { findingKey: 'nothing', reason: 'because' } }),
    ).rejects.toMatchObject({
      code: 'no-finding',
    })
  })
})

test('numbered stills leave as long as every one of them is there', async () => {
  const stills = join(ennick.media, 'stills')
  await mkdir(stills)
  const words = ['-v', 'error', '-f', 'lavfi', '-i', 'testsrc2=s=64x36:r=25:d=1', join(stills, 'mill.%04d.png')]
  expect(await run('ffmpeg', words)).toMatchObject({ exitCode: 0 })
  await ennick.addVolume(productionId, 'STILLS', stills)
  const list = (title: string) =>
    `TITLE: ${title}\n001  AX V C 00:00:00:02 00:00:00:12 01:00:00:00 01:00:00:10\n* FROM CLIP NAME: mill.####.png\n`
  const cutId = await addCut('stills.edl', list('Stills'))
  expect((await preflight(cutId)).ready).toBe(true)
  expect((await handOff(cutId)).name).toContain('Stills')
  await rename(join(stills, 'mill.0009.png'), join(stills, 'away.png'))
  await expect(handOff(cutId)).rejects.toThrow(/mill\.####\.png on “STILLS” was here at the last look and is not now/)
  await rename(join(stills, 'away.png'), join(stills, 'mill.0009.png'))
  await writeFile(join(stills, 'mill.0009.png'), 'something else')
  await expect(handOff(cutId)).rejects.toThrow(/mill\.####\.png on “STILLS” is another than at the last look/)
})

test('an original that left since the last look stops the handoff, and nothing is written', async () => {
  const cutId = await addCut('leaving.edl', plain.replace('TITLE: Plain', 'TITLE: Leaving'))
  expect((await preflight(cutId)).ready).toBe(true)
  await rename(join(card, 'A001C001.mov'), join(card, 'elsewhere.mov'))
  await expect(handOff(cutId)).rejects.toMatchObject({
    code: 'original-left',
    message: expect.stringContaining('A001C001.mov on “A001” was here at the last look'),
  })
  expect((await readdir(handoffFolder(ennick.config.dataFolder))).some((name) => name.startsWith('Leaving'))).toBe(
    false,
  )
  await rename(join(card, 'elsewhere.mov'), join(card, 'A001C001.mov'))
  expect((await handOff(cutId)).name).toContain('Leaving')
})

test('what was decided about an original does not excuse that it left', async () => {
  const use = `TITLE: Decided\n001  AX A C 10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00\n* FROM CLIP NAME: T1.wav\n`
  const cutId = await addCut('decided.edl', use)
  const { open } = await preflight(cutId)
  expect(open.map(({ kind }) => kind)).toEqual(['too short'])
  const body = { findingKey: open[0]?.key, reason: 'Silence there anyway' }
  expect(await ennick.call('decide', { params: { cutId }, body })).toMatchObject({ ready: true })
  await rename(join(card, 'T1.wav'), join(card, 'elsewhere.wav'))
  await expect(handOff(cutId)).rejects.toMatchObject({ code: 'original-left' })
  await rename(join(card, 'elsewhere.wav'), join(card, 'T1.wav'))
  expect((await handOff(cutId)).decisions).toEqual([{ ...body, decidedAt: expect.any(String) }])
})

test('a place that cannot be written is told, and leaves no half a handoff', async () => {
  const folder = handoffFolder(ennick.config.dataFolder)
  await rename(folder, `${folder} aside`)
  await writeFile(folder, 'a file where the folder should be')
  const cutId = await addCut('nowhere.edl', plain.replace('TITLE: Plain', 'TITLE: Nowhere'))
  await expect(handOff(cutId)).rejects.toMatchObject({ code: 'cannot-write' })
  expect(
    (await ennick.call('listHandoffs', { params: { productionId } })).some((handoff) => handoff.cutId === cutId),
  ).toBe(false)
})

test('what is decided upon may have a long name; a decision that is withdrawn is told in words', async () => {
  const name = Array.from({ length: 4000 }, (_, at) => xxh64(String(at), 0n).toString(36)[3]).join('')
  const text = plain.replace('A001C001_proxy.mov', name).replace(/A001C001_proxy/, 'none')
  const params = { cutId: await addCut('long.edl', text) }
  const [open] = await ennick.call('listFindings', { params })
  const findingKey = open?.key ?? ''
  for (const reason of ['A title comes there.', 'A title comes there, says Ines.'])
    expect(await ennick.call('decide', { params, body: { findingKey, reason } })).toMatchObject({ ready: true })
  const [decided] = await ennick.call('listFindings', { params })
  expect(decided?.decision?.reason).toBe('A title comes there, says Ines.')
  await ennick.call('withdrawDecision', { params, body: { findingKey } })
  expect((await preflight(params.cutId)).ready).toBe(false)
  const [line] = await ennick.query<{ what: string }>('select what from history order by id desc limit 1')
  expect(line?.what).toBe(`Decision withdrawn: ${open?.message}`)
})
