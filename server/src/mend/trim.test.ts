import { join } from 'node:path'
import { edl, rate } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { connect } from '../store/database.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let cutId: string
const text = `TITLE: Too long
001  A001 V C 10:00:00:00 10:00:02:02 01:00:00:00 01:00:02:02
* FROM CLIP NAME: A001C001.mov
002  A001 V C 10:01:00:00 10:01:01:00 01:00:02:02 01:00:03:02
* FROM CLIP NAME: A001C002.mov
003  A001 V C 10:01:01:00 10:01:02:01 01:00:03:02 01:00:04:03
* FROM CLIP NAME: A001C002.mov
004  A001 V C 10:00:00:00 10:00:02:01 01:00:04:03 01:00:06:04
* FROM CLIP NAME: A001C001.mov
005  A001 V C 10:01:00:00 10:01:00:00 01:00:06:04 01:00:06:04
005  A001 V D 010 10:01:00:10 10:01:01:10 01:00:06:04 01:00:07:04
* TO CLIP NAME: A001C002.mov
`
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Trims')
  const card = join(ennick.media, 'card')
  // Two seconds each, where the cut wants a frame or two more.
  await makePicture(join(card, 'A001C001.mov'), { seed: 1, frames: 50 })
  await makePicture(join(card, 'A001C002.mov'), { seed: 2, frames: 50, timecode: '10:01:00:00' })
  await ennick.addVolume(productionId, 'A001', card)
  cutId = (
    await ennick.call('addCut', {
      params: { productionId },
      body: { fileName: 'too long.edl', text: `${text}006  A001 V C bad line\n`, takeGood: true },
    })
  ).id
})
afterAll(() => ennick.stop())

const short = async (id: string) =>
  (await ennick.call('listFindings', { params: { cutId: id } })).filter(({ kind }) => kind === 'too short')
const trim = async (id: string, findingKeys: string[]) =>
  ennick.call('trim', { params: { cutId: id }, body: { findingKeys } })
const everything = async () => ({
  cuts: await ennick.query('select id, name, line_id, version, source_text, besides from cuts order by id'),
  events: await ennick.query('select * from events order by cut_id, position'),
  decisions: await ennick.query('select * from decisions order by cut_id, finding_key'),
})

test('what can be trimmed says by how much; a use before a transition does not offer it', async () => {
  const findings = await short(cutId)
  expect(findings.map(({ eventNumbers, trim: by, mends }) => [eventNumbers[0], by, mends])).toEqual([
    ['001', '2 frames at the tail', ['repoint', 'trim']],
    ['003', '1 frame at the tail', ['repoint', 'trim']],
    ['004', null, ['repoint']],
  ])
  const [first, , last] = findings
  await expect(trim(cutId, [first?.key ?? '', last?.key ?? ''])).rejects.toMatchObject({ code: 'cannot-trim' })
  const steps = await ennick.call('readOrderOfWork', { params: { cutId } })
  expect(steps.map(({ kind, keys, blocking, blockingAfter }) => [kind, keys.length, blocking, blockingAfter])).toEqual([
    ['search', 1, 1, 2],
    ['trim', 2, 2, 0],
  ])
})

test('all of a kind are trimmed at once, as the next version; the one before stays, and so do gaps', async () => {
  const before = await everything()
  const [first, second] = await short(cutId)
  const keys = [first?.key ?? '', second?.key ?? '']
  const { mend, cutId: next } = await trim(cutId, keys)
  expect(mend.title).toBe('Trim 2 uses of “Too long”, as version 2')
  expect(mend.changes.map(({ label }) => label)).toEqual([
    'event 001 on V1 gives up 2 frames at the tail',
    'event 003 on V1 gives up 1 frame at the tail',
  ])
  expect((await short(next)).map(({ eventNumbers }) => eventNumbers[0])).toEqual(['004'])
  // The kept list is a list that says exactly this.
  const [list] = await ennick.query<{ text: string }>('select source_text as text from cuts where id = $1', [next])
  const read = (each: string) => edl.read(each, { rate: rate(25), fileName: 'x.edl' }).events
  const was = read(text)
  const wanted = was.map(({ number, source, record }) => {
    const by = number === '001' ? 2 : number === '003' ? 1 : 0
    return [source.startFrame, source.endFrame - by, record.startFrame, record.endFrame - by]
  })
  expect(
    read(list?.text ?? '').map(({ source, record }) => [
      source.startFrame,
      source.endFrame,
      record.startFrame,
      record.endFrame,
    ]),
  ).toEqual(wanted)
  expect((await ennick.call('readCut', { params: { cutId } })).events[0]?.state).toBe('short')
  // What was left out of the list when it was read is told of this version too.
  const left = await ennick.query(
    'select left_out from cuts where line_id = (select line_id from cuts where id = $1)',
    [next],
  )
  expect(left.map(({ left_out: out }) => (out as unknown[]).length)).toEqual([1, 1])

  // Somebody who still looks at the version before is told, and nothing is done.
  await expect(trim(cutId, keys)).rejects.toMatchObject({ status: 409, code: 'mend-conflict' })
  const key = (await short(next))[0]?.key ?? ''
  await ennick.call('decide', { params: { cutId: next }, body: { findingKey: key, reason: 'the editor knows' } })
  await expect(ennick.call('undoMend', { params: { mendId: mend.id } })).rejects.toMatchObject({
    code: 'mend-conflict',
  })
  await ennick.call('withdrawDecision', { params: { cutId: next }, body: { findingKey: key } })
  const undone = await ennick.call('undoMend', { params: { mendId: mend.id } })
  expect(undone.state).toBe('undone')
  expect(await everything()).toEqual(before)
})

test('of two who trim at once one is told; a later version keeps the trim', async () => {
  const keys = (await short(cutId)).slice(0, 2).map(({ key }) => key)
  // Both have looked before either is let into the line of versions.
  const { pool, close } = connect(ennick.config.databaseUrl)
  const holder = await pool.connect()
  await holder.query('begin')
  await holder.query('select 1 from cuts where id = $1 for update', [cutId])
  const asked = Promise.allSettled([trim(cutId, keys), trim(cutId, keys)])
  await ennick.untilWaiting(2)
  await holder.query('commit')
  holder.release()
  await close()
  const both = await asked
  expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected'])
  const done = both.find((each) => each.status === 'fulfilled')
  const { mend, cutId: next } = (done as PromiseFulfilledResult<Awaited<ReturnType<typeof trim>>>).value
  const body = { fileName: 'later.edl', text, nextOf: next }
  const later = await ennick.call('addCut', { params: { productionId }, body })
  await expect(ennick.call('undoMend', { params: { mendId: mend.id } })).rejects.toMatchObject({
    message: expect.stringContaining('Version 3'),
  })
  await ennick.call('removeCut', { params: { cutId: later.id } })
  expect((await ennick.call('undoMend', { params: { mendId: mend.id } })).state).toBe('undone')
})

test('what was decided on a use that was short by more is told while it is short by less, and does not hold', async () => {
  const reason = 'Two frames of black are taken from the shelf.'
  const listOf = (until: string) => `TITLE: Less short
001  A001 V C 10:00:00:00 10:00:02:${until} 01:00:00:00 01:00:02:${until}
* FROM CLIP NAME: A001C001.mov
`
  const add = async (until: string, nextOf?: string) => {
    const body = { fileName: 'less short.edl', text: listOf(until), ...(nextOf && { nextOf }) }
    return (await ennick.call('addCut', { params: { productionId }, body })).id
  }
  const first = await add('02')
  const [two] = await short(first)
  await ennick.call('decide', { params: { cutId: first }, body: { findingKey: two?.key, reason } })
  expect(await short(first)).toMatchObject([{ decision: { reason }, lapsed: null }])
  // The version after the next still knows it.
  const second = await add('01', first)
  for (const cut of [second, await add('01', second)])
    expect(await short(cut)).toMatchObject([
      { trim: '1 frame at the tail', decision: null, lapsed: { reason, because: 'it stands otherwise' } },
    ])
})
