import { cp, mkdir, rename } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Backups')
})
afterAll(() => ennick.stop())

const pause = () => new Promise((resolve) => setTimeout(resolve, 5))
const media = (...names: string[]) => join(ennick.media, ...names)
const start = async (volumeId: string, destinationId: string, folder: string) =>
  (await ennick.call('offloadVolume', { params: { volumeId }, body: { destinationId, folder, hash: 'xxh64' } })).id
const offload = async (volumeId: string, destinationId: string, folder: string) =>
  ennick.waitForJob(await start(volumeId, destinationId, folder))

test('a second backup is one more copy of each clip, and makes none of its own', async () => {
  await makePicture(media('P001/P001C001.mov'), { seed: 31 })
  const card = await ennick.addVolume(productionId, 'P001', media('P001'), 'card')
  const homes = ['R-1', 'R-2']
  for (const label of homes) {
    await mkdir(media(label))
    const destination = await ennick.addVolume(productionId, label, media(label))
    // The second time there it is compared, and is no copy of itself.
    for (const _ of homes) expect((await offload(card, destination, 'P001')).state).toBe('done')
    await ennick.scan(destination)
  }
  const mine = (await ennick.clips(productionId)).filter(({ name }) => name === 'P001C001.mov')
  expect(mine).toMatchObject([{ volumeLabel: 'R-1' }])
  const { copies } = await ennick.call('readClip', { params: { clipId: mine[0]?.id ?? '' } })
  expect(copies.map(({ volumeLabel, isVerified }) => [volumeLabel, isVerified]).sort()).toEqual([
    ['P001', true],
    ['R-2', true],
  ])
  // With the first of them away the second is as good, until that is back.
  const text =
    'TITLE: M\n001  A001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: P001C001.mov\n'
  const { id: cutId } = await ennick.call('addCut', { params: { productionId }, body: { fileName: 'm.edl', text } })
  const home = async () => {
    const clip = (await ennick.clips(productionId)).find(({ name }) => name === 'P001C001.mov')
    return {
      at: [clip?.volumeLabel, clip?.presence],
      findings: await ennick.call('listFindings', { params: { cutId } }),
    }
  }
  const move = async (from: string, to: string, isHere: boolean) => {
    await rename(media(from), media(to))
    while ((await ennick.volume(productionId, 'R-1'))?.isHere !== isHere) await pause()
  }
  await move('R-1', 'R-1 in a bag', false)
  expect(await home()).toEqual({ at: ['R-2', 'here'], findings: [] })
  await move('R-1 in a bag', 'R-1', true)
  expect(await home()).toEqual({ at: ['R-1', 'here'], findings: [] })
  // A copy that was never read back is told, and mended from.
  await ennick.query('update clip_copies set is_verified = false')
  await move('R-1', 'R-1 in a bag', false)
  const [finding] = (await home()).findings
  expect(finding?.kind).toBe('volume away')
  expect(finding?.message).toMatch(/is here, at P001\/.*on “R-2”/)
  const asked = { folder: null, scopes: ['known'], findingKeys: null }
  const { id: searchJobId } = await ennick.call('search', { params: { cutId }, body: asked })
  await ennick.waitForJob(searchJobId)
  const { rows } = await ennick.call('readSearch', { params: { jobId: searchJobId } })
  expect(rows).toMatchObject([{ outcome: 'fits', candidateId: media('R-2/P001/P001C001.mov') }])
  const choices = rows.map(({ wantedId, candidateId }) => ({ wantedId, candidateId }))
  await ennick.call('repoint', { params: { cutId }, body: { searchJobId, choices } })
  expect(await ennick.call('listFindings', { params: { cutId } })).toEqual([])
})

test('a camera that writes to two cards at once shoots each clip once', async () => {
  await makePicture(media('Q001/Q001C001.mov'), { seed: 41, reel: 'Q001', timecode: '15:00:00:00' })
  await cp(media('Q001'), media('Q001 slot 2'), { recursive: true })
  await mkdir(media('R-3'))
  await ennick.addVolume(productionId, 'Q001', media('Q001'), 'card')
  const second = await ennick.addVolume(productionId, 'Q001 slot 2', media('Q001 slot 2'), 'card')
  const clip = async () => {
    const [one, ...more] = (await ennick.clips(productionId)).filter(({ name }) => name === 'Q001C001.mov')
    expect(more).toEqual([])
    const { copies, notices } = await ennick.call('readClip', { params: { clipId: one?.id ?? '' } })
    const others = copies.map(({ volumeLabel, isVerified }) => `${volumeLabel}${isVerified ? ', read back' : ''}`)
    return [one?.volumeLabel, others.sort(), notices.map(({ kind }) => kind)]
  }
  expect(await clip()).toEqual(['Q001', ['Q001 slot 2'], ['only on a card']])
  const storage = await ennick.addVolume(productionId, 'R-3', media('R-3'))
  expect((await offload(second, storage, 'Q001')).state).toBe('done')
  expect(await clip()).toEqual(['R-3', ['Q001', 'Q001 slot 2, read back'], []])
})

test('of two offloads of one card at once each makes a backup', async () => {
  for (let number = 1; number <= 12; number++) await makeSound(media('T001', `T${number}.wav`), 4800, 1000 * number, 1)
  const card = await ennick.addVolume(productionId, 'T001', media('T001'), 'card')
  for (const label of ['R-4', 'R-5']) {
    await mkdir(media(label))
    await ennick.addVolume(productionId, label, media(label))
  }
  const volumes = await Promise.all(['R-4', 'R-5'].map(async (label) => (await ennick.volume(productionId, label))?.id))
  const jobs = await Promise.all(volumes.map((id) => start(card, id ?? '', 'T001')))
  for (const id of jobs) expect((await ennick.waitForJob(id)).state).toBe('done')
  const [known] = await ennick.query<{ clips: number; homes: number; copies: number }>(
    `select count(distinct clips.id)::int as clips, count(distinct link.file_id)::int as homes,
       count(distinct copy.file_id)::int as copies
     from clips join clip_files link on link.clip_id = clips.id join clip_copies copy on copy.clip_id = clips.id
     where clips.production_id = $1 and clips.described->'cameFrom'->>'value' = 'T001'`,
    [productionId],
  )
  expect(known).toEqual({ clips: 12, homes: 12, copies: 24 })
})

test.each(['card', 'drive'])(
  'what a camera or a vendor made small of the clips of a %s is copied with them',
  async (kind) => {
    const production = await ennick.addProduction(`Small ones of a ${kind}`)
    const [first, second] = [media(`${kind} U001`), media(`${kind} U001 by hand`)]
    const shot = { seed: 51, reel: 'U001', timecode: '16:00:00:00', frames: 25 }
    const other = { ...shot, seed: 52, timecode: '17:00:00:00' }
    await makePicture(join(first, 'CLIP/U001C001.mov'), { ...other, size: '640x360' })
    await makePicture(join(first, 'edit/U001C001.mov'), { ...other, size: '320x180' })
    await makePicture(join(first, 'CLIP/U001C002.mov'), { ...shot, size: '640x360' })
    await makePicture(join(first, 'SUB/U001C002S03.mov'), { ...shot, size: '160x90' })
    await ennick.addVolume(production, 'U001', first, kind)
    const names = async () => (await ennick.clips(production)).map(({ name }) => name)
    const offers = async () =>
      (await ennick.call('listOffers', { params: { productionId: production } })).map(
        ({ fileId, volumeLabel, path, rivals }) => ({
          fileId,
          clipId: rivals[0]?.clipId,
          place: `${volumeLabel}/${path}`,
        }),
      )
    const places = async () => (await offers()).map(({ place }) => place)
    expect([await names(), await places()]).toEqual([
      ['U001C001.mov', 'U001C002.mov'],
      ['U001/SUB/U001C002S03.mov', 'U001/edit/U001C001.mov'],
    ])
    const choices = (await offers()).filter(({ place }) => place.includes('edit'))
    const accept = async (body: object) =>
      ennick.call('acceptOffers', { params: { productionId: production }, body: { fileIds: [], ...body } })
    expect(choices).toHaveLength(1)
    expect(await accept({ choices: choices.map(({ fileId, clipId }) => ({ fileId, clipId })) })).toEqual({ paired: 1 })
    await cp(first, second, { recursive: true })
    const copyId = await ennick.addVolume(production, 'BY HAND', second)
    // The pair has its file, and of the other one that is offered which stays.
    const stays = kind === 'card' ? 'BY HAND/SUB/U001C002S03.mov' : 'U001/SUB/U001C002S03.mov'
    expect([await names(), await places()]).toEqual([['U001C001.mov', 'U001C002.mov'], [stays]])
    // In whatever order the ledger keeps its rows: the newest version of a row lies last.
    for (const volume of ['U001', 'BY HAND']) {
      await ennick.query(
        `update files set seen_at = now() from volumes
         where volumes.id = volume_id and label = $1 and volumes.production_id = $2`,
        [volume, production],
      )
      expect(await places()).toEqual([stays])
    }
    // Without that it takes its place, and the pair is what it was.
    await rename(join(first, 'edit'), media(`${kind} edit`))
    await ennick.scan((await ennick.volume(production, 'U001'))?.id ?? '')
    await ennick.scan(copyId)
    const back = (await offers()).filter(({ place }) => place === 'BY HAND/edit/U001C001.mov')
    expect(await accept({ choices: back.map(({ fileId, clipId }) => ({ fileId, clipId })) })).toEqual({ paired: 1 })
    const pairs = (await ennick.call('listPairs', { params: { productionId: production } })).flatMap((row) => row.pairs)
    expect(pairs.map(({ name, verdict }) => [name, verdict === 'proxy gone'])).toEqual([['U001C001.mov', false]])
  },
)
