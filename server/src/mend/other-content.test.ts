import { copyFile, mkdir, rename } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let drive: string
let volumeId: string
let cutId: string
let number = 0
beforeAll(async () => {
  ennick = await startHarness()
  for (const [name, seed] of [
    ['tide', 1],
    ['wheel', 2],
    ['tide, regraded', 3],
  ] as const)
    await makePicture(join(ennick.media, 'shot', `${name}.mov`), { seed, reel: null })
})
afterAll(() => ennick.stop())

/** Two shots of one length and start; a cut that uses both. */
beforeEach(async () => {
  productionId = await ennick.addProduction(`Other content ${++number}`)
  drive = join(ennick.media, String(number))
  await mkdir(drive)
  for (const name of ['tide', 'wheel']) await put(name, `${name}.mov`)
  volumeId = await ennick.addVolume(productionId, 'TIDE-1', drive)
  const text = ['tide', 'wheel'].map(
    (name, index) =>
      `00${index + 1}  AX V C 10:00:00:10 10:00:01:10 01:00:0${index}:00 01:00:0${index + 1}:00\n* FROM CLIP NAME: ${name}.mov\n`,
  )
  cutId = (
    await ennick.call('addCut', {
      params: { productionId },
      body: { fileName: 'm.edl', text: `TITLE: M\n${text.join('')}` },
    })
  ).id
})

const put = (shot: string, path: string) => copyFile(join(ennick.media, 'shot', `${shot}.mov`), join(drive, path))
const move = async (from: string, to: string) => {
  await rename(join(drive, from), join(drive, to))
  await ennick.scan(volumeId)
}
const moved = async () =>
  (await ennick.call('listMoved', { params: { volumeId } })).map(({ name, is }) => `${name} → ${is.path}`)
const notices = async () =>
  (await ennick.clips(productionId)).map(({ path, presence, notice }) => `${path} ${presence} ${notice}`.trim())
const findings = async () =>
  (await ennick.call('listFindings', { params: { cutId } }))
    .filter(({ severity }) => severity === 'blocks handoff')
    .map(({ kind, message }) => `${kind}: ${message}`)

test('two originals whose names were swapped are not found again by what took their places', async () => {
  await rename(join(drive, 'tide.mov'), join(drive, 'between.mov'))
  await rename(join(drive, 'wheel.mov'), join(drive, 'tide.mov'))
  await move('between.mov', 'wheel.mov')
  expect(await notices()).toEqual(['tide.mov here original changed', 'wheel.mov here original changed'])
  await move('tide.mov', 'elsewhere.mov')
  // What lies elsewhere is the wheel; the tide lies under its name.
  expect(await moved()).toEqual([])
  expect(await findings()).toEqual([
    expect.stringMatching(/^moved: tide.mov is no longer at its place, but the same content is at wheel.mov/),
    expect.stringMatching(/^original changed: wheel.mov/),
  ])
})

test('one that was delivered again and moved is gone, until what it was lies somewhere', async () => {
  await put('tide, regraded', 'tide.mov')
  await ennick.scan(volumeId)
  await move('tide.mov', 'tide again.mov')
  expect(await moved()).toEqual([])
  // What came is a clip of its own, which somebody may choose.
  expect(await notices()).toContain('tide again.mov here')
  expect(await findings()).toEqual([expect.stringMatching(/^file gone: tide.mov/)])
  await put('tide', 'tide as it was.mov')
  await ennick.scan(volumeId)
  expect(await moved()).toEqual(['tide → tide as it was.mov'])
  await ennick.call('repointMoved', { params: { volumeId } })
  expect(await notices()).toContain('tide as it was.mov here')
  expect(await findings()).toEqual([])
})

test('what was accepted is what it is looked for by', async () => {
  await put('tide, regraded', 'tide.mov')
  await ennick.scan(volumeId)
  const [tide] = (await ennick.clips(productionId)).filter(({ name }) => name === 'tide.mov')
  await ennick.call('acceptRedelivered', {
    params: { productionId },
    body: { clipIds: [tide?.id], reason: 'regraded', apply: true },
  })
  await move('tide.mov', 'tide again.mov')
  expect(await moved()).toEqual(['tide → tide again.mov'])
})

test('a copy that holds another original meanwhile is that, as it is, once its clip is pointed at it', async () => {
  const second = join(ennick.media, `${number}, second`)
  await mkdir(second)
  await copyFile(join(drive, 'tide.mov'), join(second, 'tide.mov'))
  await ennick.addVolume(productionId, 'TIDE-2', second)
  await rename(join(drive, 'wheel.mov'), join(second, 'tide.mov'))
  await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
  const { id } = await ennick.call('search', { params: { cutId }, body: { folder: second, findingKeys: null } })
  await ennick.waitForJob(id)
  const { rows } = await ennick.call('readSearch', { params: { jobId: id } })
  const choices = rows.flatMap(({ wantedId, candidateId }) => (candidateId ? [{ wantedId, candidateId }] : []))
  expect(choices).toHaveLength(1)
  const mend = await ennick.call('repoint', { params: { cutId }, body: { searchJobId: id, choices } })
  expect(await findings()).toEqual([])
  expect((await ennick.clips(productionId)).map(({ path, notice }) => [path, notice])).toEqual([
    ['tide.mov', ''],
    ['tide.mov', ''],
  ])
  await ennick.call('undoMend', { params: { mendId: mend.id } })
  expect(await notices()).toEqual(['tide.mov here', 'wheel.mov gone'])
})

test('a repoint that is taken back leads to what the original was, whatever lies at its place since', async () => {
  const second = join(ennick.media, `${number}, second`)
  await mkdir(second)
  await rename(join(drive, 'tide.mov'), join(second, 'tide.mov'))
  await ennick.scan(volumeId)
  const secondId = await ennick.addVolume(productionId, 'TIDE-2', second)
  const mend = await ennick.call('repointMoved', { params: { volumeId: secondId } })
  expect(await findings()).toEqual([])
  // Another file gets the place meanwhile, and comes in as a clip of its own.
  await put('tide, regraded', 'tide.mov')
  await ennick.scan(volumeId)
  await ennick.call('undoMend', { params: { mendId: mend.id } })
  expect(await findings()).toEqual([expect.stringMatching(/^(original changed|ambiguous)/)])
  const clips = await ennick.clips(productionId)
  expect(clips.filter(({ path }) => path === 'tide.mov').map(({ notice }) => notice)).toContain('original changed')
  await ennick.scan(volumeId)
  expect((await ennick.clips(productionId)).map(({ notice }) => notice)).toContain('original changed')
})

test('an acceptance is not taken back beneath a repoint, nor a repoint beneath an acceptance', async () => {
  const undo = (mendId: string | undefined) => ennick.call('undoMend', { params: { mendId: mendId ?? '' } })
  const accept = async (path: string) => {
    const [clip] = (await ennick.clips(productionId)).filter((each) => each.path === path)
    const body = { clipIds: [clip?.id], reason: 'regraded', apply: true }
    return (await ennick.call('acceptRedelivered', { params: { productionId }, body })).mend?.id
  }
  await put('tide, regraded', 'tide.mov')
  await ennick.scan(volumeId)
  const accepted = await accept('tide.mov')
  await move('tide.mov', 'tide again.mov')
  const { id: repointed } = await ennick.call('repointMoved', { params: { volumeId } })
  await expect(undo(accepted)).rejects.toThrow(/A later mend rests on this one/)
  await put('tide', 'tide again.mov')
  await ennick.scan(volumeId)
  const again = await accept('tide again.mov')
  await expect(undo(repointed)).rejects.toThrow(/A later mend rests on this one/)
  for (const mendId of [again, repointed, accepted]) await undo(mendId)
  expect(await findings()).toEqual([expect.stringMatching(/^moved: tide.mov .* at tide again.mov/)])
})

describe('an original that was moved to another drive', () => {
  let second: string
  let secondId: string
  beforeEach(async () => {
    second = join(ennick.media, `${number}, second`)
    await mkdir(second)
    await rename(join(drive, 'tide.mov'), join(second, 'found.mov'))
    await ennick.scan(volumeId)
    secondId = await ennick.addVolume(productionId, 'TIDE-2', second)
    await rename(drive, `${drive}, out`)
    while ((await ennick.volume(productionId, 'TIDE-1'))?.isHere) await new Promise((done) => setTimeout(done, 50))
  })

  test('is what that drive holds of it, also once the first one leaves', async () => {
    await ennick.scan(secondId)
    expect(await notices()).toEqual(['tide.mov gone', 'wheel.mov away'])
    expect(await ennick.query('select name from clips where production_id = $1', [productionId])).toHaveLength(2)
    // Once the clip has its file again, the other one is a clip of its own: seen at once, though no file was read.
    await rename(`${drive}, out`, drive)
    await put('tide', 'tide.mov')
    while (!(await ennick.volume(productionId, 'TIDE-1'))?.isHere) await new Promise((done) => setTimeout(done, 50))
    await ennick.scan(volumeId)
    expect(await notices()).toEqual(['tide.mov here', 'wheel.mov here'])
    await ennick.scan(secondId)
    expect(await notices()).toContain('found.mov here')
  })

  test('and is another recording by then comes in as that, and is not told to have changed', async () => {
    await copyFile(join(ennick.media, 'shot', 'wheel.mov'), join(second, 'found.mov'))
    await ennick.scan(secondId)
    expect(await notices()).toEqual(['found.mov here', 'tide.mov gone', 'wheel.mov away'])
    await rename(`${drive}, out`, drive)
  })
})
