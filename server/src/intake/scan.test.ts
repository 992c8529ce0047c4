import { appendFile, copyFile, mkdir, readFile, rename, rm, stat, symlink, truncate, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Scans')
})
afterAll(() => ennick.stop())

const clips = () => ennick.clips(productionId)

test('a file gives all of its facts', async () => {
  const folder = join(ennick.media, 'facts')
  await makePicture(join(folder, 'drop.mov'), {
    rate: '30000/1001',
    frames: 60,
    timecode: '12:59:58;00',
    reel: 'DR01',
    channels: 0,
  })
  await makePicture(join(folder, 'four.mov'), { channels: 4, transfer: 'log100', pixelAspect: '2' })
  await makePicture(join(folder, 'op1a.mxf'), {
    size: '1280x720',
    codec: ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_lb', '-pix_fmt', 'yuv422p'],
    format: 'mxf',
    timecode: '01:00:00:00',
  })
  await makeSound(join(folder, 'take.wav'), 480_123, 9 * 3600 * 48_000)
  await ennick.addVolume(productionId, 'facts', folder)
  const list = await clips()
  const of = (name: string) => list.find((clip) => clip.name === name)
  expect(of('drop.mov')).toMatchObject({
    kind: 'picture',
    rate: { numerator: 30000, denominator: 1001 },
    startTimecode: '12:59:58;00',
    frames: 60,
    reel: 'DR01',
    channels: 'none',
    width: 320,
    height: 180,
  })
  expect(of('four.mov')).toMatchObject({ channels: '4 × mono', startTimecode: '10:00:00:00', frames: 50 })
  expect(of('op1a.mxf')).toMatchObject({ startTimecode: '01:00:00:00', frames: 50, reel: 'A001', channels: '2 × mono' })
  expect(of('take.wav')).toMatchObject({ kind: 'sound', channels: '4 ch', startTimecode: '09:00:00:00', frames: 250 })
  const detail = await ennick.call('readClip', { params: { clipId: of('four.mov')?.id ?? '' } })
  const facts = Object.fromEntries(
    detail.factGroups.flatMap((group) => group.facts.map((fact) => [fact.label, fact.value])),
  )
  expect(facts['Pixel aspect']).toBe('2:1, anamorphic')
  expect(facts.Colour).toContain('log: bt709 / log100')
  expect(facts['Stream 4']).toBe('mono, PCM 24 bit 48 kHz, 96000 samples')
})

test('what is no media is listed with its reason, and the scan goes on', async () => {
  const folder = join(ennick.media, 'bad')
  await makePicture(join(folder, 'good.mov'))
  await makePicture(join(folder, 'fast.mov'), { extra: ['-movflags', '+faststart'] })
  await makePicture(join(folder, 'whole.mxf'), {
    size: '1280x720',
    codec: ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_lb', '-pix_fmt', 'yuv422p'],
    format: 'mxf',
  })
  await makeSound(join(folder, 'cut.wav'), 96_000, 0)
  for (const [from, to] of [
    ['good.mov', 'cut off.mov'],
    ['fast.mov', 'cut off fast.mov'],
    ['whole.mxf', 'cut off.mxf'],
    ['cut.wav', 'cut off.wav'],
  ] as const) {
    await copyFile(join(folder, from), join(folder, to))
    await truncate(join(folder, to), Math.floor((await stat(join(folder, to))).size * 0.6))
  }
  await writeFile(join(folder, 'letter.mov'), 'Dear editor, the card is in my bag.\n'.repeat(20))
  await writeFile(join(folder, 'empty.mov'), '')
  await writeFile(join(folder, 'list.mov'), '#EXTM3U\n#EXTINF:1,\nhttp://127.0.0.1:1/x.ts\n')
  await writeFile(join(folder, 'notes.txt'), 'not counted as media')
  await writeFile(join(folder, '.DS_Store'), 'passed over')
  const volumeId = await ennick.addVolume(productionId, 'bad', folder)
  const problems = Object.fromEntries(
    (await ennick.call('listProblems', { params: { volumeId } })).map((file) => [file.path, file.problem]),
  )
  expect(problems['letter.mov']).toContain('a text file')
  expect(problems['list.mov']).toContain('a text file')
  expect(problems['empty.mov']).toContain('zero bytes')
  for (const name of ['cut off.mov', 'cut off fast.mov', 'cut off.mxf', 'cut off.wav'])
    expect(problems[name]).toContain('cut off')
  expect(Object.keys(problems)).toHaveLength(7)
  const volume = (await ennick.call('listVolumes', { params: { productionId } })).find((item) => item.id === volumeId)
  expect(volume).toMatchObject({ clips: 4, problems: 7, otherFiles: 1 })
})

test('large files of a kind that is not read are told, and no clip is made of them', async () => {
  const folder = join(ennick.media, 'unread')
  await mkdir(folder, { recursive: true })
  for (const name of ['A001.RAWX', 'A002.rawx', 'notes.txt']) await writeFile(join(folder, name), 'x')
  for (const name of ['A001.RAWX', 'A002.rawx']) await truncate(join(folder, name), 6_000_000)
  const volumeId = await ennick.addVolume(productionId, 'unread', folder)
  const volume = (await ennick.call('listVolumes', { params: { productionId } })).find(({ id }) => id === volumeId)
  expect(volume).toMatchObject({
    ...{ clips: 0, problems: 0, otherFiles: 3 },
    unreadKinds: [{ ending: '.rawx', files: 2, bytes: 12_000_000 }],
  })
})

/** The least of a layered still: a head, three empty sections and the picture itself, red, green and blue. */
function layeredStill(width: number, height: number): Buffer {
  const head = Buffer.alloc(26)
  head.write('8BPS')
  head.writeUInt16BE(1, 4)
  head.writeUInt16BE(3, 12)
  head.writeUInt32BE(height, 14)
  head.writeUInt32BE(width, 18)
  head.writeUInt16BE(8, 22)
  head.writeUInt16BE(3, 24)
  return Buffer.concat([head, Buffer.alloc(12), Buffer.alloc(2), Buffer.alloc(3 * width * height, 0x80)])
}

test('tapes and recordings of other containers are clips like any other', async () => {
  const folder = join(ennick.media, 'tapes')
  const dv = ['-c:v', 'dvvideo', '-pix_fmt', 'yuv420p']
  await makePicture(join(folder, 'TAPE.dv'), {
    size: '720x576',
    frames: 25,
    codec: dv,
    format: 'dv',
    extra: ['-c:a', 'pcm_s16le', '-ac', '2'],
    channels: 1,
  })
  await makePicture(join(folder, 'HDV.M2T'), {
    frames: 25,
    codec: ['-c:v', 'mpeg2video'],
    format: 'mpegts',
    extra: ['-c:a', 'mp2'],
  })
  await makeSound(join(folder, 'field.wav'), 48_000, 0, 1)
  await writeFile(join(folder, 'TITLE.psd'), layeredStill(8, 6))
  for (const [format, name] of [
    ['caf', 'field.caf'],
    ['w64', 'field.w64'],
  ] as const)
    expect(
      await run('ffmpeg', [
        '-v',
        'error',
        '-i',
        join(folder, 'field.wav'),
        '-c',
        'copy',
        '-f',
        format,
        join(folder, name),
      ]),
    ).toMatchObject({ exitCode: 0 })
  await ennick.addVolume(productionId, 'tapes', folder)
  const list = (await clips()).filter(({ name }) => /^(TAPE|HDV|field|TITLE)/.test(name))
  expect(list.map(({ name, frames }) => [name, frames]).sort()).toEqual([
    ['HDV.M2T', 25],
    ['TAPE.dv', 25],
    ['TITLE.psd', null],
    ['field.caf', 25],
    ['field.w64', 25],
    ['field.wav', 25],
  ])
})

test('any file name is a plain file name', async () => {
  const folder = join(ennick.media, 'names')
  const names = [
    'with space.mov',
    'it\'s "quoted".mov',
    'seq_%03d.mov',
    '-i.mov',
    'two\nlines.mov',
    'http:x.mov',
    'concat:a|b.mov',
    'Mühle.mov',
    'Mu\u0308hle 2.mov',
    '[0:v];x,y=z\\.mov',
    'th%d.png',
  ]
  await makePicture(join(folder, 'source'), { frames: 5 })
  await makePicture(join(folder, 'still'), {
    frames: 1,
    codec: ['-c:v', 'png', '-pix_fmt', 'rgb24', '-update', '1'],
    format: 'image2',
    channels: 0,
    timecode: null,
    reel: null,
  })
  for (const name of names) await copyFile(join(folder, name.endsWith('png') ? 'still' : 'source'), join(folder, name))
  await rm(join(folder, 'source'))
  await rm(join(folder, 'still'))
  const volumeId = await ennick.addVolume(productionId, 'names', folder)
  expect(await ennick.call('listProblems', { params: { volumeId } })).toEqual([])
  const found = (await clips()).filter((clip) => clip.volumeLabel === 'names').map((clip) => clip.name)
  // Shown in one form, whichever the file system used.
  expect(found.sort()).toEqual(names.map((name) => name.normalize('NFC')).sort())
  expect((await clips()).find((clip) => clip.name === 'th%d.png')?.kind).toBe('still')
})

test('a file whose name is no text is listed, not lost', async () => {
  const folder = join(ennick.media, 'bytes')
  await makePicture(join(folder, 'good.mov'), { frames: 5 })
  await copyFile(join(folder, 'good.mov'), Buffer.from(join(folder, 'café.mov'), 'latin1'))
  const volumeId = await ennick.addVolume(productionId, 'bytes', folder)
  expect((await ennick.call('listProblems', { params: { volumeId } })).map((file) => file.problem)).toEqual([
    expect.stringContaining('not written in UTF-8'),
  ])
})

test('a second scan of an unchanged volume probes nothing; a changed or removed file is noticed', async () => {
  const folder = join(ennick.media, 'again')
  for (const name of ['a', 'b', 'c'])
    await makePicture(join(folder, `${name}.mov`), { frames: 5, seed: name.charCodeAt(0) })
  const volumeId = await ennick.addVolume(productionId, 'again', folder)
  expect((await ennick.scan(volumeId)).summary).toBe('3 media files · 0 read · 3 unchanged')
  await makePicture(join(folder, 'a.mov'), { frames: 8 })
  await rm(join(folder, 'b.mov'))
  expect((await ennick.scan(volumeId)).summary).toBe('2 media files · 1 read · 1 unchanged · 1 gone')
  const list = (await clips()).filter((clip) => clip.volumeLabel === 'again')
  expect(list.map((clip) => [clip.name, clip.presence, clip.frames])).toEqual([
    ['a.mov', 'here', 8],
    ['b.mov', 'gone', 5],
    ['c.mov', 'here', 5],
  ])
})

test('what an earlier version read less of is told, and read once more though nothing changed', async () => {
  const folder = join(ennick.media, 'before')
  await makePicture(join(folder, 'BEFORE.mov'), { frames: 20 })
  const volumeId = await ennick.addVolume(productionId, 'before', folder)
  const toReadAgain = async () => (await ennick.volume(productionId, 'before'))?.toReadAgain
  expect(await toReadAgain()).toBe(0)
  await ennick.query(
    `update files set to_read_again = true, facts = jsonb_set(facts, '{picture,frames}', '25') where volume_id = $1`,
    [volumeId],
  )
  expect(await toReadAgain()).toBe(1)
  expect((await ennick.scan(volumeId)).summary).toContain('1 read · 0 unchanged')
  expect((await clips()).find(({ name }) => name === 'BEFORE.mov')?.frames).toBe(20)
  expect(await toReadAgain()).toBe(0)
  expect((await ennick.scan(volumeId)).summary).toContain('0 read · 1 unchanged')
})

test('a moved file becomes no second clip', async () => {
  const folder = join(ennick.media, 'moved')
  await makePicture(join(folder, 'one.mov'), { frames: 5, seed: 3 })
  const volumeId = await ennick.addVolume(productionId, 'moved', folder)
  await mkdir(join(folder, 'sub'))
  await rename(join(folder, 'one.mov'), join(folder, 'sub/other.mov'))
  await ennick.scan(volumeId)
  expect(
    (await clips()).filter((clip) => clip.volumeLabel === 'moved').map((clip) => [clip.name, clip.presence]),
  ).toEqual([['one.mov', 'gone']])
})

test('one that was moved and moved back leaves no clip behind', async () => {
  const folder = join(ennick.media, 'moved back')
  await makePicture(join(folder, 'day 1/back.mov'), { frames: 5, seed: 6 })
  const volumeId = await ennick.addVolume(productionId, 'moved back', folder)
  for (const [from, to] of [
    ['day 1', 'D01'],
    ['D01', 'day 1'],
  ] as const) {
    await rename(join(folder, from), join(folder, to))
    await ennick.scan(volumeId)
  }
  expect(
    (await clips()).filter((clip) => clip.volumeLabel === 'moved back').map((clip) => [clip.path, clip.presence]),
  ).toEqual([['day 1/back.mov', 'here']])
})

test('originals are never written to', async () => {
  const path = join(ennick.media, 'still/x.mov')
  await makePicture(path, { frames: 5 })
  const [before, { mtimeMs }] = [await readFile(path), await stat(path)]
  const volumeId = await ennick.addVolume(productionId, 'still', join(ennick.media, 'still'))
  await ennick.scan(volumeId)
  expect((await readFile(path)).equals(before)).toBe(true)
  expect((await stat(path)).mtimeMs).toBe(mtimeMs)
})

test('a link out of the volume is not followed', async () => {
  const folder = join(ennick.media, 'linked')
  await makePicture(join(ennick.media, 'outside/x.mov'), { frames: 5 })
  await mkdir(folder)
  await symlink(join(ennick.media, 'outside'), join(folder, 'out'))
  const volumeId = await ennick.addVolume(productionId, 'linked', folder)
  const volume = (await ennick.call('listVolumes', { params: { productionId } })).find((item) => item.id === volumeId)
  expect(volume?.files).toBe(0)
})

test('a volume that is taken away is away, and back when it is back', async () => {
  const folder = join(ennick.media, 'coming')
  await makePicture(join(folder, 'x.mov'), { frames: 5, seed: 8 })
  const volumeId = await ennick.addVolume(productionId, 'coming', folder)
  const isHere = async () =>
    (await ennick.call('listVolumes', { params: { productionId } })).find((item) => item.id === volumeId)?.isHere
  const until = async (wanted: boolean) => {
    while ((await isHere()) !== wanted) await new Promise((resolve) => setTimeout(resolve, 100))
  }
  await rename(folder, `${folder} (in the bag)`)
  await until(false)
  expect((await clips()).find((clip) => clip.volumeLabel === 'coming')?.presence).toBe('away')
  await expect(ennick.scan(volumeId)).resolves.toMatchObject({
    state: 'failed',
    error: expect.stringContaining('does not exist'),
  })
  await rename(`${folder} (in the bag)`, folder)
  await until(true)
  expect((await clips()).find((clip) => clip.volumeLabel === 'coming')?.presence).toBe('here')
})

test('reels are set from file names after a preview, and the change is in the history', async () => {
  const folder = join(ennick.media, 'reels')
  for (const name of ['B001C001', 'B001C002', 'x'])
    await makePicture(join(folder, `${name}.mov`), { frames: 5, reel: null, seed: name.length })
  await ennick.addVolume(productionId, 'reels', folder)
  const ids = (await clips()).filter((clip) => clip.volumeLabel === 'reels').map((clip) => clip.id)
  const action = { kind: 'reel', clipIds: ids, source: { kind: 'pattern', pattern: '^([A-Z]\\d{3})' } }
  const preview = await ennick.call('editClips', { params: { productionId }, body: { action, apply: false } })
  expect(preview).toMatchObject({
    applied: false,
    total: 2,
    refused: [{ name: 'x.mov', reason: 'The rule does not fit its name.' }],
  })
  expect(preview.warnings.join()).toContain('B001C001.mov and B001C002.mov would both be reel B001')
  expect((await clips()).filter((clip) => clip.volumeLabel === 'reels').every((clip) => clip.reel === null)).toBe(true)
  await ennick.call('editClips', { params: { productionId }, body: { action, apply: true } })
  const ofReels = (await clips()).filter((clip) => clip.volumeLabel === 'reels')
  expect(ofReels.map((clip) => clip.reel)).toEqual(['B001', 'B001', null])
  expect(ofReels[0]?.notice).toContain('reel overlap')
  const detail = await ennick.call('readClip', { params: { clipId: preview.changes[0]?.clipId ?? '' } })
  expect(detail.described).toContainEqual({ field: 'reel', title: 'Reel', value: 'B001', from: 'rule' })
  expect(detail.edits[0]).toMatchObject({ field: 'Reel', before: '', after: 'B001', isUndone: false })

  // A reel that is there stays unless a person says otherwise, and sound is left alone.
  const other = { ...action, source: { kind: 'first-characters', count: 2 } }
  const stays = await ennick.call('editClips', { params: { productionId }, body: { action: other, apply: false } })
  expect(stays).toMatchObject({ total: 1, refusedTotal: 2 })
  expect(stays.refused[0]?.reason).toBe('It has the reel B001 already.')
  const body = { action: { ...other, onlyEmpty: false }, apply: false }
  expect((await ennick.call('editClips', { params: { productionId }, body })).total).toBe(3)
  const sound = (await clips()).find(({ kind }) => kind === 'sound')
  const ofSound = async (ofAllKinds: boolean) =>
    ennick.call('editClips', {
      params: { productionId },
      body: { action: { ...other, clipIds: [sound?.id], ofAllKinds, onlyEmpty: false }, apply: false },
    })
  expect((await ofSound(false)).refused[0]?.reason).toBe('It is sound: those are left as they are.')
  expect((await ofSound(true)).total).toBe(1)
})

test('a growing file is read again when it has changed', async () => {
  const path = join(ennick.media, 'growing/x.wav')
  await makeSound(path, 4800, 0)
  const volumeId = await ennick.addVolume(productionId, 'growing', join(ennick.media, 'growing'))
  await appendFile(path, Buffer.alloc(100))
  expect((await ennick.scan(volumeId)).summary).toContain('1 read')
})

test('a name that its disk writes otherwise, in case or Unicode form, is the same file still', async () => {
  const own = await ennick.addProduction('Spelling')
  const folder = join(ennick.media, 'spelling')
  await makePicture(join(folder, 'DAY/É1.mov'.normalize('NFC')), { frames: 10, seed: 41 })
  await makePicture(join(folder, 'DAY/two.mov'), { frames: 10, seed: 42 })
  const volumeId = await ennick.addVolume(own, 'spelling', folder)
  const before = new Map((await ennick.clips(own)).map((clip) => [clip.name, clip.id]))
  // As a disk that does not tell these apart: both ways of writing lead to it, and it lists one of them.
  await rename(join(folder, 'DAY'), join(folder, 'day'))
  await symlink(join(folder, 'day'), join(folder, 'DAY'))
  expect((await ennick.scan(volumeId)).summary).toBe('2 media files · 0 read · 2 unchanged')
  const after = await ennick.clips(own)
  expect(new Map(after.map((clip) => [clip.name, clip.id]))).toEqual(before)
  expect(after.map(({ path }) => path).sort()).toEqual(['day/two.mov', 'day/É1.mov'])
  expect(after.map(({ presence }) => presence)).toEqual(['here', 'here'])
  // Where the disk tells them apart, another name is another file.
  await rm(join(folder, 'DAY'))
  await rename(join(folder, 'day/two.mov'), join(folder, 'day/TWO.mov'))
  await ennick.scan(volumeId)
  expect((await ennick.clips(own)).find(({ name }) => name === 'two.mov')?.presence).toBe('gone')
})
