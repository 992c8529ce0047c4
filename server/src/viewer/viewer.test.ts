import { readFile, rename, rm, symlink, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let drive: string
const h264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '1', '-pix_fmt', 'yuv420p']

beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Viewed')
  drive = join(ennick.media, 'drive')
  await makePicture(join(drive, 'W1.mov'), { frames: 30, channels: 1, codec: h264, timecode: '10:00:00:00' })
  await makePicture(join(drive, 'W2.mov'), { frames: 30, seed: 1, timecode: '11:00:00:00' })
  await makePicture(join(drive, 'W3.mov'), { frames: 30, seed: 2, timecode: '12:00:00:00' })
  await ennick.addVolume(productionId, 'DRIVE', drive)
  const body = { clipIds: [await clipId('W1')], recipeId: 'half-h264-intra' }
  const { jobs } = await ennick.call('make', { params: { productionId }, body })
  for (const { id } of jobs) expect((await ennick.waitForJob(id)).state).toBe('done')
})
afterAll(() => ennick.stop())

const clipId = async (title: string): Promise<string> =>
  (await ennick.clips(productionId)).find((clip) => clip.title === title)?.id ?? ''
const view = async (title: string) => ennick.call('readView', { params: { clipId: await clipId(title) } })
const choose = (shown: string) => ennick.call('setShown', { params: { productionId }, body: { shown } })

/** Asks for media as a browser does. */
async function media(path: string, headers: Record<string, string> = {}) {
  const response = await fetch(`${ennick.url}${path}`, { headers })
  return { response, bytes: Buffer.from(await response.arrayBuffer()) }
}
const sideAddress = async (title: string, what: string, sideId = 'original') =>
  `/api/clips/${await clipId(title)}/sides/${sideId}/${what}`

describe('the choice of what is shown', () => {
  test('holds for all clips, and one can be set apart from it; what is absent is said', async () => {
    expect((await view('W1')).shown).toMatchObject({ choice: 'proxies first', reason: 'it has a proxy', isOwn: false })
    expect((await view('W2')).shown).toMatchObject({
      sideId: 'original',
      reason: 'it has no proxy, so its original is shown',
    })
    await choose('proxies alone')
    expect((await view('W2')).shown).toMatchObject({ sideId: null, reason: 'it has no proxy' })
    const id = await clipId('W2')
    await ennick.call('setClipShown', { params: { clipId: id }, body: { shown: 'originals' } })
    expect((await view('W2')).shown).toMatchObject({ choice: 'originals', sideId: 'original', isOwn: true })
    expect(await ennick.call('readShown', { params: { productionId } })).toEqual({
      choice: 'proxies alone',
      apart: [{ clipId: id, title: 'W2', choice: 'originals' }],
    })
    await ennick.call('setClipShown', { params: { clipId: id }, body: { shown: null } })
    await choose('originals')
    expect((await view('W1')).shown).toMatchObject({ sideId: 'original', reason: 'originals are shown' })
    await choose('proxies first')
  })

  test('sides say which file each is, where it is, and how its frames stand beside the original’s', async () => {
    const [original, proxy] = (await view('W1')).sides
    expect(original).toMatchObject({ id: 'original', kind: 'original', raster: '320 × 180', playsAsItIs: true })
    expect(original).toMatchObject({ presence: 'here', volumeLabel: 'DRIVE', path: 'W1.mov', tracks: [''], frames: 30 })
    expect(proxy).toMatchObject({ kind: 'proxy', raster: '160 × 90', verdict: 'proven', basis: 'timecode' })
    expect(proxy?.comparison?.every(({ agrees }) => agrees)).toBe(true)
  })
})

describe('notes', () => {
  test('keep what they were seen on, and can be taken back', async () => {
    const id = await clipId('W1')
    const sides = (await view('W1')).sides
    const write = (sideId: string | undefined, kind: string, text: string) =>
      ennick.call('addViewNote', { params: { clipId: id }, body: { frame: 12, text, kind, sideId } })
    await write(sides[1]?.id, 'approved', '')
    await write('original', 'note', 'focus is soft')
    const { notes } = await view('W1')
    expect(notes.map(({ timecode, kind, seenOn, isOnOriginal }) => [timecode, kind, seenOn, isOnOriginal])).toEqual([
      ['10:00:00:12', 'approved', 'the proxy, 160 × 90, H.264', false],
      ['10:00:00:12', 'note', 'the original, 320 × 180, H.264', true],
    ])
    // Of what is delivered again under its name nothing was seen.
    const others = async () => (await view('W1')).notes.map(({ isOfAnother }) => isOfAnother)
    expect(await others()).toEqual([false, false])
    await ennick.query(`update files set fingerprint = 'other' where path = 'W1.mov'`)
    expect(await others()).toEqual([true, true])
    await ennick.query(`update files set fingerprint = first_fingerprint where path = 'W1.mov'`)
    await expect(write('original', 'note', '  ')).rejects.toThrow('Write what is to be noted.')
    for (const note of notes) await ennick.call('removeViewNote', { params: { clipId: id, noteId: note.id } })
    expect((await view('W1')).notes).toEqual([])
    const [line] = (await ennick.call('readClip', { params: { clipId: id } })).history
    expect(line?.what).toBe('A note on W1 was taken back: focus is soft.')
  })

  test('a note of another clip is not taken back in its name', async () => {
    const [one, other] = [await clipId('W1'), await clipId('W2')]
    const body = { frame: 0, text: 'stays', kind: 'note', sideId: 'original' }
    await ennick.call('addViewNote', { params: { clipId: one }, body })
    const noteId = (await view('W1')).notes[0]?.id ?? ''
    await expect(ennick.call('removeViewNote', { params: { clipId: other, noteId } })).rejects.toThrow(/not here/)
    expect((await view('W1')).notes).toHaveLength(1)
  })

  test('in and out points are kept with the clip, in their order', async () => {
    const params = { clipId: await clipId('W2') }
    await ennick.call('setMarks', { params, body: { inFrame: 4, outFrame: 20 } })
    expect((await view('W2')).marks).toEqual({ inFrame: 4, outFrame: 20 })
    await expect(ennick.call('setMarks', { params, body: { inFrame: 9, outFrame: 8 } })).rejects.toThrow(/before/)
  })
})

describe('media', () => {
  test('a file that browsers play is streamed by ranges, byte for byte', async () => {
    const file = await readFile(join(drive, 'W1.mov'))
    const address = await sideAddress('W1', 'file')
    const whole = await media(address)
    expect(whole.response.headers.get('content-type')).toBe('video/mp4')
    expect(whole.bytes.equals(file)).toBe(true)
    const part = await media(address, { range: 'bytes=100-199' })
    expect([part.response.status, part.response.headers.get('content-range')]).toEqual([
      206,
      `bytes 100-199/${file.length}`,
    ])
    expect(part.bytes.equals(file.subarray(100, 200))).toBe(true)
    expect((await media(address, { range: `bytes=${file.length}-` })).response.status).toBe(416)
  })

  test('a frame comes in three sizes, none of them larger than it is', async () => {
    const part = (await view('W1')).sides[0]?.parts[0]
    const sizes = ['small', 'screen', 'full'].map((size) => media(`/api/files/${part?.fileId}/frames/7?size=${size}`))
    for (const { response, bytes } of await Promise.all(sizes)) {
      expect(response.status).toBe(200)
      // Start of image, ITU-T T.81, table B.1.
      expect(bytes.subarray(0, 2).toString('hex')).toBe('ffd8')
    }
    expect((await media(`/api/files/${part?.fileId}/frames/30?size=screen`)).response.status).toBe(404)
  })

  test('what is rendered says what a player has to know before its first bytes', async () => {
    const typeOf = async (query: string): Promise<string | null> => {
      const { response, bytes } = await media(await sideAddress('W1', `play.mp4?${query}`))
      expect(response.status).toBe(200)
      await writeFile(join(ennick.media, 'rendered.mp4'), bytes)
      return response.headers.get('content-type')
    }
    const streams = async (): Promise<string> => {
      const words = ['-v', 'error', '-show_entries', 'stream=codec_name,profile,level', '-of', 'csv=p=0']
      return (await run('ffprobe', [...words, join(ennick.media, 'rendered.mp4')])).stdout.toString()
    }
    expect(await typeOf('from=0')).toBe('video/mp4; codecs="avc1.42c02a, flac"')
    expect(await streams()).toMatch(/^h264,Constrained Baseline,42\nflac,/)
    expect(await typeOf('from=0&tracks=')).toBe('video/mp4; codecs="avc1.42c02a"')
    expect((await streams()).trim()).toBe('h264,Constrained Baseline,42')
  })

  test('what is no clip, no side or behind the end is told', async () => {
    const nobody = '00000000-0000-4000-8000-000000000000'
    expect((await media(`/api/clips/${nobody}/sides/original/play.mp4`)).response.status).toBe(404)
    expect((await media(await sideAddress('W1', 'file', nobody))).response.status).toBe(404)
    expect((await media(await sideAddress('W1', '../../../etc/passwd'))).response.status).toBe(404)
    expect((await media(await sideAddress('W1', 'play.mp4?from=30'))).response.status).toBe(416)
    expect((await media(await sideAddress('W1', 'play.mp4?tracks=a'))).response.status).toBe(400)
  })

  test('a file that was exchanged is not shown as the one that is known, and no link is followed', async () => {
    const path = join(drive, 'W3.mov')
    const { sides } = await view('W3')
    const fileId = sides[0]?.parts[0]?.fileId
    const secret = join(ennick.media, 'secret.mov')
    await writeFile(secret, 'not of this volume')
    await rename(path, `${path}.aside`)
    await symlink(secret, path)
    for (const address of [
      await sideAddress('W3', 'file'),
      await sideAddress('W3', 'play.mp4'),
      `/api/files/${fileId}/frames/0?size=screen`,
    ]) {
      const { response, bytes } = await media(address)
      expect([address, response.status]).toEqual([address, 409])
      expect(bytes.toString()).not.toContain('not of this volume')
    }
    await rm(path)
    const gone = await media(await sideAddress('W3', 'play.mp4'))
    expect([gone.response.status, gone.bytes.toString()]).toEqual([
      404,
      expect.stringContaining('W3.mov is not on volume “DRIVE” any more.'),
    ])
    await rename(`${path}.aside`, path)
  })
})

test('a cut is watched as the frames of its clips, in the order of the record', async () => {
  const text = `TITLE: Watch me
001  A001 V C 11:00:00:05 11:00:00:15 01:00:00:10 01:00:00:20
* FROM CLIP NAME: W2.mov
002  A001 V C 10:00:00:00 10:00:00:10 01:00:00:00 01:00:00:10
* FROM CLIP NAME: W1.mov
003  A001 V C 10:00:00:00 10:00:00:10 01:00:00:20 01:00:01:05
* FROM CLIP NAME: nobody.mov
004  A001 A C 10:00:00:00 10:00:00:10 01:00:00:00 01:00:00:10
* FROM CLIP NAME: W1.mov
`
  const cut = await ennick.call('addCut', { params: { productionId }, body: { fileName: 'watch me.edl', text } })
  const watch = await ennick.call('readCutWatch', { params: { cutId: cut.id } })
  expect(
    watch.events.map(({ number, clipName, startFrame, endFrame, record }) => [
      ...[number, clipName, startFrame, endFrame, record],
    ]),
  ).toEqual([
    ['002', 'W1', 0, 10, '01:00:00:00'],
    ['001', 'W2', 5, 15, '01:00:00:10'],
  ])
  expect(watch.without).toBe(1)
  expect((await view('W2')).uses).toMatchObject([{ startFrame: 5, endFrame: 15 }])
})

test('a clip of another rate than its cut is watched from its label on', async () => {
  const slow = join(ennick.media, 'slow')
  await makePicture(join(slow, 'W4.mov'), { frames: 30, seed: 3, timecode: '10:00:00:00', rate: '24000/1001' })
  await ennick.addVolume(productionId, 'SLOW', slow)
  const text = 'TITLE: Slow\n001  A001 V C 10:00:00:10 10:00:00:20 01:00:00:00 01:00:00:10\n* FROM CLIP NAME: W4.mov\n'
  const cut = await ennick.call('addCut', { params: { productionId }, body: { fileName: 'slow.edl', text } })
  const watch = await ennick.call('readCutWatch', { params: { cutId: cut.id } })
  // Ten frames at 25 are 9.6 of its own.
  expect(watch.events).toMatchObject([{ clipName: 'W4', startFrame: 9, endFrame: 20 }])
  expect((await view('W4')).uses).toMatchObject([{ startFrame: 9, endFrame: 20 }])
})
