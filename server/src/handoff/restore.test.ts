import { mkdir, readdir, readFile, rename, rm, symlink, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'
import { recordName } from './archive-record.ts'

let ennick: Harness
let shelf: string
let productionId: string
const folder = () => join(shelf, 'Mill')
const list = `TITLE: Mill
001  A001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001.mov
`
beforeAll(async () => {
  ennick = await startHarness()
  shelf = join(ennick.media, 'shelf')
  await mkdir(shelf)
  productionId = await ennick.addProduction('Mill')
  const params = { productionId }
  const [card, mixer] = [join(ennick.media, 'card'), join(ennick.media, 'mixer')]
  await makePicture(join(card, 'A001C001.mov'), { seed: 1 })
  await makePicture(join(card, 'small/A001C001.mov'), { seed: 1, size: '160x90' })
  await makeSound(join(mixer, 'T1.wav'), 480_000, 10 * 3600 * 48_000)
  await ennick.addVolume(productionId, 'A001', card)
  await ennick.addVolume(productionId, 'MIXER', mixer)
  const clips = await ennick.clips(productionId)
  const clipOf = (path: string) => clips.find((clip) => clip.path === path)?.id ?? ''
  for (const [field, value] of [
    ['scene', '12'],
    ['reel', 'A001'],
  ] as const) {
    const action = { kind: 'set' as const, clipIds: [clipOf('A001C001.mov')], field, value }
    await ennick.call('editClips', { params, body: { action, apply: true } })
  }
  const synced = await ennick.call('syncSound', { params, body: { clipIds: [], apply: true } })
  expect(synced.syncedTotal).toBeGreaterThan(0)
  const first = await ennick.call('addCut', { params, body: { fileName: 'mill.edl', text: list } })
  // Its second version names what nobody knows, which a person chose a clip for, and one that a person let stand.
  const open = (number: string, name: string) =>
    `${number}  X V C 10:00:00:10 10:00:01:10 01:00:0${+number}:00 01:00:0${+number + 1}:00\n* FROM CLIP NAME: ${name}\n`
  const body = {
    fileName: 'mill v2.edl',
    text: `${list}${open('002', 'Chosen')}${open('003', 'Open')}`,
    nextOf: first.id,
  }
  const { id: cutId } = await ennick.call('addCut', { params, body })
  const choices = [{ positions: [1], clipId: clipOf('A001C001.mov') }]
  await ennick.call('chooseClips', { params: { cutId }, body: { choices } })
  const findings = await ennick.call('listFindings', { params: { cutId } })
  const left = findings.find(({ events }) => events.includes(2))
  const reason = 'A title comes there.'
  await ennick.call('decide', { params: { cutId }, body: { findingKey: left?.key ?? '', reason } })
  // A file that was joined here and went out, of which a cut may come back.
  const entry = { name: 'p.mov', clipName: 'A001C001', clipId: clipOf('A001C001.mov'), reel: 'A001', startFrame: 0 }
  const entries = [{ ...entry, sourceStartFrame: 900_000, dropFrame: false, frames: 50 }]
  await ennick.query(
    `insert into joined_files (production_id, volume_id, path, recipe, entries, rate_numerator, rate_denominator,
       size_bytes, fingerprint) select production_id, id, 'joined/Day 1.mov', 'x', $2, 25, 1, 1, 'x' from volumes
     where production_id = $1 and kind = 'made'`,
    [productionId, JSON.stringify(entries)],
  )
  const job = await ennick.call('archive', { params, body: { folder: shelf, name: 'Mill' } })
  expect(await ennick.waitForJob(job.id)).toMatchObject({ state: 'done' })
})
afterAll(() => ennick.stop())

const restore = async (name: string, verifies = true) => {
  const made = await ennick.call('restore', { body: { folder: folder(), name, verifies } })
  const job = await ennick.waitForJob(made.job.id)
  const restored = await ennick.call('readRestore', { params: { productionId: made.productionId } })
  return { productionId: made.productionId, job, outcome: restored?.outcome }
}
const lineOf = async (id: string) => {
  const cuts = await ennick.call('listCuts', { params: { productionId: id } })
  return cuts.map(({ name, fileName, version }) => [name, fileName, version])
}

test('what it holds is told before anything is done', async () => {
  const plan = await ennick.call('planRestore', { body: { folder: folder() } })
  expect(plan).toMatchObject({ name: 'Mill', width: 640, lists: 2, blocked: null })
  expect(plan.volumes).toEqual([
    { label: 'A001', folder: 'A001', isThere: true },
    { label: 'MIXER', folder: 'MIXER', isThere: true },
  ])
  await expect(ennick.call('planRestore', { body: { folder: shelf } })).rejects.toThrow(/holds no archive/)
  await expect(ennick.call('planRestore', { body: { folder: '/etc' } })).rejects.toThrow()
})

test('a production comes back with its clips as they were described, and all versions of its cuts', async () => {
  const back = await restore('Mill again')
  expect(back.job).toMatchObject({ state: 'done' })
  const files = (await readdir(folder(), { recursive: true })).filter((name) =>
    /^(A001|MIXER)\/.*\.(mov|wav)$/.test(name),
  )
  expect(back.outcome).toMatchObject({ verified: files.length, troubleCount: 0, recipes: [] })
  expect(back.outcome?.cuts).toEqual([
    { name: 'Mill', version: 1, events: 1, onOriginal: 1 },
    { name: 'Mill', version: 2, events: 3, onOriginal: 2 },
  ])
  expect(await lineOf(back.productionId)).toEqual(await lineOf(productionId))
  const newest = (await ennick.call('listCuts', { params: { productionId: back.productionId } })).at(-1)
  const findings = await ennick.call('listFindings', { params: { cutId: newest?.id ?? '' } })
  const decided = findings.flatMap(({ decision, events }) => (decision ? [[events, decision.reason]] : []))
  expect(decided).toEqual([[[2], 'A title comes there.']])
  const said = async (id: string) => {
    const rows = await ennick.query<{
      name: string
      reel: string
      described: Record<string, { value: string }>
      id: string
    }>('select id, name, reel, described from clips where production_id = $1 order by name', [id])
    const names = new Map(rows.map((row) => [row.id, row.name]))
    return rows.map(({ name, reel, described: { soundLink, ...rest } }) => [
      ...[name, reel, rest],
      soundLink && JSON.parse(soundLink.value, (_, value) => names.get(value) ?? value),
    ])
  }
  expect(await said(back.productionId)).toEqual(await said(productionId))
  // Nothing was written into the archive, and the proxies can be made from it.
  expect((await readdir(folder())).filter((name) => !/^(A001|MIXER|ascmhl|lists .*)$/.test(name))).toEqual([])
  const text = 'TITLE: On joined\n001 X V C 01:00:00:05 01:00:00:15 01:00:00:00 01:00:00:10\n* FROM CLIP NAME: Day 1\n'
  const params = { productionId: back.productionId }
  const { id: cutId } = await ennick.call('addCut', { params, body: { fileName: 'joined.edl', text } })
  const [finding] = await ennick.call('listFindings', { params: { cutId } })
  const apart = { findingKeys: [finding?.key ?? ''], apply: true }
  const { cutId: next } = await ennick.call('takeApart', { params: { cutId }, body: apart })
  const { events } = await ennick.call('readCut', { params: { cutId: next ?? '' } })
  expect(events.map(({ state, sourceIn }) => [state, sourceIn])).toEqual([['on original', '10:00:00:05']])
  const clips = await ennick.clips(back.productionId)
  const body = { clipIds: clips.slice(0, 1).map(({ id }) => id), recipeId: 'half-h264-intra' }
  const made = await ennick.call('make', { params: { productionId: back.productionId }, body })
  expect(await ennick.waitForJob(made.jobs[0]?.id ?? '')).toMatchObject({ state: 'done' })
})

test('a name that is taken is refused, and a folder that is not there is told', async () => {
  await expect(restore('Mill')).rejects.toThrow(/production “Mill” already/)
  await rename(join(folder(), 'MIXER'), join(shelf, 'mixer away'))
  const plan = await ennick.call('planRestore', { body: { folder: folder() } })
  expect(plan.volumes.map(({ isThere }) => isThere)).toEqual([true, false])
  const { productionId: id, job, outcome } = await restore('Without its sound', false)
  expect([job.state, outcome?.verified]).toEqual(['done', null])
  expect((await ennick.clips(id)).map(({ path }) => path)).not.toContain('T1.wav')
  // The words of a recording that is not here are not said either.
  const [row] = await ennick.query<{ words: string }>(
    `select string_agg(described::text, ' ') as words from clips where production_id = $1`,
    [id],
  )
  expect(row?.words).not.toMatch(/T1|soundLink/)
  await rename(join(shelf, 'mixer away'), join(folder(), 'MIXER'))
})

test('a file that is not what was written, and a list that is none, are named; all else is here', async () => {
  const sound = join(folder(), 'MIXER/T1.wav')
  const [along] = (await readdir(folder())).filter((name) => name.startsWith('lists '))
  const cut = join(folder(), along ?? '', 'cut 2, version 2, mill v2.edl')
  const kept = [await readFile(sound), await readFile(cut)] as const
  const harmed = Buffer.from(kept[0])
  harmed[harmed.length - 1] = (harmed.at(-1) as number) ^ 1
  await writeFile(sound, harmed)
  await writeFile(cut, 'no list at all')
  const { job, outcome, productionId: id } = await restore('Harmed')
  expect(job).toMatchObject({
    state: 'failed',
    error: expect.stringMatching(/^2 files of the archive are not what was written: MIXER\/T1.wav/),
  })
  expect(outcome?.trouble.map(({ path }) => path)).toEqual(['MIXER/T1.wav', 'cut 2, version 2, mill v2.edl'])
  expect(outcome?.cuts.map(({ version }) => version)).toEqual([1])
  // Set right, it goes on: what is read is not read twice.
  await writeFile(sound, kept[0])
  await writeFile(cut, kept[1])
  await ennick.call('retryJob', { params: { jobId: job.id } })
  expect(await ennick.waitForJob(job.id)).toMatchObject({ state: 'done' })
  expect(await lineOf(id)).toEqual(await lineOf(productionId))
})

test('a record that names what is outside, or is of no archive of ours, is refused', async () => {
  const strange = join(shelf, 'Strange')
  const along = join(strange, 'lists 2026-01-01T00-00-00')
  await mkdir(along, { recursive: true })
  const [newest] = (await readdir(folder())).filter((name) => name.startsWith('lists '))
  const record = JSON.parse(await readFile(join(folder(), newest ?? '', recordName), 'utf8'))
  const plan = async (change: object) => {
    await writeFile(join(along, recordName), JSON.stringify({ ...record, ...change }))
    return ennick.call('planRestore', { body: { folder: strange } })
  }
  for (const name of ['../Mill/A001', '..', '/etc'])
    await expect(plan({ volumes: [{ label: 'X', folder: name, box: {} }] })).rejects.toThrow(/no record of an archive/)
  await expect(plan({ ennickArchive: 2 })).rejects.toThrow(/may be of a newer one/)
  await expect(plan({ cuts: [{ ...record.cuts[0], file: '../../card/A001C001.mov' }] })).rejects.toThrow(/no record/)
  await writeFile(join(along, recordName), '{"ennickArchive":')
  await expect(ennick.call('planRestore', { body: { folder: strange } })).rejects.toThrow(/is damaged/)
  // Nothing is read through a link, and nothing of what it leads to is told.
  const secret = join(ennick.media, 'secret')
  await writeFile(secret, 'a secret of somebody')
  await rm(join(along, recordName))
  await symlink(secret, join(along, recordName))
  const led = await ennick.call('planRestore', { body: { folder: strange } }).catch((error) => String(error.message))
  expect(led).toMatch(/is a link/)
  expect(led).not.toMatch(/somebody/)
  await rm(join(along, recordName))
  // A link that leads out of what may be used is no volume.
  await symlink('/etc', join(strange, 'A001'))
  await plan({})
  await expect(
    ennick.call('restore', { body: { folder: strange, name: 'Led away', verifies: false } }),
  ).rejects.toThrow()
  const names = (await ennick.call('listProductions', {})).map(({ name }) => name)
  expect(names).not.toContain('Led away')
  await rm(strange, { recursive: true })
})
