import { appendFile, copyFile, mkdir, readdir, readFile, rename, rm, stat, truncate, utimes, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { parseHashList } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let storage: string
let storageId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Receive')
  storage = join(ennick.media, 'storage')
  await mkdir(storage)
  storageId = await ennick.addVolume(productionId, 'RAID', storage)
})
afterAll(() => ennick.stop())

const clips = () => ennick.clips(productionId)
const clip = async (name: string) => (await clips()).find((candidate) => candidate.name === name)
const detail = async (name: string) => ennick.call('readClip', { params: { clipId: (await clip(name))?.id ?? '' } })
const volume = async (label: string) =>
  (await ennick.call('listVolumes', { params: { productionId } })).find((each) => each.label === label)
const rescan = async (volumeId: string) => ennick.waitForJob((await ennick.call('scanVolume', { params: { volumeId } })).id)
const offload = async (volumeId: string, folder: string, hash = 'xxh64') =>
  ennick.waitForJob((await ennick.call('offloadVolume', { params: { volumeId }, body: { destinationId: storageId, folder, hash } })).id)
/** A file of so many bytes that takes no space. */
const truncateTo = async (path: string, bytes: number): Promise<void> => {
  await writeFile(path, '')
  await truncate(path, bytes)
}
const small = { frames: 25, size: '64x36' }

describe('offload', () => {
  let card: string
  let cardId: string
  beforeAll(async () => {
    card = join(ennick.media, 'A001')
    await makePicture(join(card, 'CLIPS/A001C001.mov'), { ...small, seed: 1 })
    await makePicture(join(card, 'CLIPS/A001C002.mov'), { ...small, seed: 2, timecode: '10:01:00:00' })
    await writeFile(join(card, 'report.txt'), 'Clock was reset after lunch.\n')
    cardId = await ennick.addVolume(productionId, 'A001', card, 'card')
  })

  test('what is only on a card is told before anything is made of it', async () => {
    expect((await clip('A001C001.mov'))?.notice).toBe('only on a card')
    expect((await volume('A001'))?.onlyHere).toBe(2)
    const plan = await ennick.call('planMake', {
      params: { productionId },
      body: { clipIds: [(await clip('A001C001.mov'))?.id], recipeId: 'half-h264-intra' },
    })
    expect(plan.warnings[0]).toContain('only on a card (A001)')
  })

  test('a plan says what is copied and what will be left', async () => {
    const plan = await ennick.call('planOffload', {
      params: { volumeId: cardId },
      body: { destinationId: storageId, folder: 'A001', hash: 'md5' },
    })
    expect(plan).toMatchObject({ files: 3, already: 0, target: join(storage, 'A001'), blocked: null })
    expect(plan.leftBytes).toBe(plan.freeBytes - plan.bytes)
  })

  test('copies everything, reads it back, writes a manifest, and clips move to the copy', async () => {
    const before = await stat(join(card, 'CLIPS/A001C001.mov'))
    const job = await offload(cardId, 'A001')
    expect(job).toMatchObject({ state: 'done', summary: '3 files copied and read back' })
    const copy = await stat(join(storage, 'A001/CLIPS/A001C001.mov'))
    expect([copy.size, Math.floor(copy.mtimeMs)]).toEqual([before.size, Math.floor(before.mtimeMs)])
    expect((await readdir(join(storage, 'A001'))).sort()).toEqual(['CLIPS', 'ascmhl', 'report.txt'])
    const [manifestName] = (await readdir(join(storage, 'A001/ascmhl'))).filter((name) => name.endsWith('.mhl'))
    const list = parseHashList(await readFile(join(storage, 'A001/ascmhl', manifestName ?? ''), 'utf8'))
    expect(list.files.map((file) => file.path).sort()).toEqual(['CLIPS/A001C001.mov', 'CLIPS/A001C002.mov', 'report.txt'])
    expect(await readFile(join(storage, 'A001/ascmhl/ascmhl_chain.xml'), 'utf8')).toContain(manifestName)

    expect(await clip('A001C001.mov')).toMatchObject({ volumeLabel: 'RAID', path: 'A001/CLIPS/A001C001.mov', notice: '' })
    expect((await detail('A001C001.mov')).copies).toMatchObject([{ volumeLabel: 'A001', isVerified: true }])
    expect((await clips()).filter((each) => each.name === 'A001C001.mov')).toHaveLength(1)
    await rescan(storageId)
    await rescan(cardId)
    expect((await clips()).filter((each) => each.name.startsWith('A001C'))).toHaveLength(2)
    expect((await volume('A001'))?.onlyHere).toBe(0)
  })

  test('again: everything is there already, nothing is written twice', async () => {
    expect((await offload(cardId, 'A001')).summary).toBe('0 files copied and read back · 3 were there already')
  })

  test('a file of the same name and other content is never overwritten', async () => {
    await mkdir(join(storage, 'second/CLIPS'), { recursive: true })
    await writeFile(join(storage, 'second/CLIPS/A001C001.mov'), 'somebody else')
    const job = await offload(cardId, 'second', 'sha1')
    expect(job.summary).toContain('1 not copied')
    const { lines } = await ennick.call('readJobDetails', { params: { jobId: job.id } })
    expect(lines).toMatchObject([
      { path: 'CLIPS/A001C001.mov', state: 'not copied', detail: expect.stringContaining('Nothing is overwritten') },
    ])
    expect(await readFile(join(storage, 'second/CLIPS/A001C001.mov'), 'utf8')).toBe('somebody else')
  })

  test('a stopped run goes on where it was; what it noted is not read again', async () => {
    await mkdir(join(storage, 'third'), { recursive: true })
    const source = join(card, 'report.txt')
    await copyFile(source, join(storage, 'third/report.txt'))
    const { size, mtimeNs } = await stat(source, { bigint: true })
    const noted = {
      path: 'report.txt',
      sizeBytes: Number(size),
      mtimeMicros: Number(mtimeNs / 1000n),
      hash: 'feedfeedfeedfeed',
      kind: 'xxh64',
    }
    await writeFile(join(storage, 'third/.ennick-offload.jsonl'), `${JSON.stringify(noted)}\n{"path":"CLIPS/A0`)
    expect((await offload(cardId, 'third')).summary).toBe('2 files copied and read back · 1 were there already')
    const [name] = (await readdir(join(storage, 'third/ascmhl'))).filter((each) => each.endsWith('.mhl'))
    expect(await readFile(join(storage, 'third/ascmhl', name ?? ''), 'utf8')).toContain('feedfeedfeedfeed')
  })

  test.each([
    ['onto itself', () => ({ destinationId: cardId, folder: 'x', hash: 'xxh64' }), 'onto itself'],
    ['into a path', () => ({ destinationId: storageId, folder: 'a/../../b', hash: 'xxh64' }), 'one name'],
    ['under a hidden name', () => ({ destinationId: storageId, folder: '.x', hash: 'xxh64' }), 'hidden'],
  ])('%s is refused', async (_, body, message) => {
    await expect(ennick.call('offloadVolume', { params: { volumeId: cardId }, body: body() })).rejects.toThrow(message)
  })

  test('a card that leaves while its offload waits is offloaded when it comes back', async () => {
    const other = join(ennick.media, 'A009')
    await makePicture(join(other, 'A009C001.mov'), { ...small, seed: 5, reel: 'A009' })
    const otherId = await ennick.addVolume(productionId, 'A009', other, 'card')
    await rename(other, `${other} out`)
    const input = { kind: 'offload', volumeId: otherId, destinationId: storageId, folder: 'A009', hash: 'xxh64' }
    // The plan refuses a card that is away; this is one that left after the job was queued.
    const [job] = await ennick.query<{ id: string }>('insert into jobs (production_id, title, input) values ($1, $2, $3) returning id', [
      productionId,
      'Offload A009',
      input,
    ])
    await ennick.query(
      `select graphile_worker.add_job('light', payload => json_build_object('jobId', $1::text), job_key => $1, max_attempts => 100)`,
      [job?.id],
    )
    expect(await ennick.waitForJob(job?.id ?? '')).toMatchObject({
      state: 'failed',
      error: expect.stringContaining('goes on when it is back'),
    })
    await rename(`${other} out`, other)
    while ((await clip('A009C001.mov'))?.volumeLabel !== 'RAID') await new Promise((resolve) => setTimeout(resolve, 100))
    expect(await ennick.waitForJob(job?.id ?? '')).toMatchObject({ state: 'done', error: null })
  })

  test('a card pulled out in the middle of its scan: what was read is kept, and the rest is read when it is back', async () => {
    const card = join(ennick.media, 'A010')
    const picture = join(card, 'A010C001.mov')
    await makePicture(picture, { ...small, seed: 6, reel: 'A010' })
    // Each is content of its own, and none numbers on from another.
    for (const letter of 'ABCDEFGHIJKLMNOPQRSTUVWXYZ') {
      const path = join(card, letter, `${letter}.mov`)
      await mkdir(join(card, letter))
      await copyFile(picture, path)
      await appendFile(path, letter)
    }
    const { id } = await ennick.call('addVolume', { params: { productionId }, body: { label: 'A010', kind: 'card', rootPath: card } })
    const job = await ennick.call('scanVolume', { params: { volumeId: id } })
    const progress = async () =>
      (await ennick.call('listJobs', { params: { productionId } })).find((each) => each.id === job.id)?.progress?.done ?? 0
    while ((await progress()) === 0) await new Promise((resolve) => setTimeout(resolve, 20))
    await rename(card, `${card} out`)
    const stopped = await ennick.waitForJob(job.id)
    expect(stopped).toMatchObject({
      state: 'failed',
      error: expect.stringMatching(/left after \d+ of 27 files were read\. What was read is kept/),
    })
    await rename(`${card} out`, card)
    while ((await volume('A010'))?.clips !== 27) await new Promise((resolve) => setTimeout(resolve, 100))
    expect(await ennick.waitForJob(job.id)).toMatchObject({ state: 'done', error: null })
  })

  test('a card pulled out in the middle of a copy leaves nothing unfinished, and goes on when it is back', async () => {
    const card = join(ennick.media, 'A011')
    await makePicture(join(card, 'A011C001.mov'), { ...small, seed: 7, reel: 'A011' })
    await truncateTo(join(card, 'long.bin'), 3_000_000_000)
    const cardId = await ennick.addVolume(productionId, 'A011', card, 'card')
    const job = await ennick.call('offloadVolume', {
      params: { volumeId: cardId },
      body: { destinationId: storageId, folder: 'A011', hash: 'md5' },
    })
    const target = join(storage, 'A011')
    while (!(await readdir(target).catch(() => [])).some((name) => name.startsWith('.long.bin')))
      await new Promise((resolve) => setTimeout(resolve, 5))
    await rename(card, `${card} out`)
    // Whoever reads on from a card that was pulled out comes to an end that is none.
    await truncate(join(`${card} out`, 'long.bin'), 0)
    expect(await ennick.waitForJob(job.id)).toMatchObject({
      state: 'failed',
      error: expect.stringMatching(/“A011” left after \d of 2 files/),
    })
    expect((await readdir(target)).filter((name) => name.endsWith('.ennick-part') || name === 'long.bin')).toEqual([])
    await rename(`${card} out`, card)
    while ((await clip('A011C001.mov'))?.volumeLabel !== 'RAID') await new Promise((resolve) => setTimeout(resolve, 100))
    expect(await ennick.waitForJob(job.id)).toMatchObject({ state: 'done', error: null })
  })

  test('a file that changes while it is copied is refused, and the others go on', async () => {
    const card = join(ennick.media, 'A012')
    await makePicture(join(card, 'A012C001.mov'), { ...small, seed: 8, reel: 'A012' })
    await truncateTo(join(card, 'long.bin'), 3_000_000_000)
    const cardId = await ennick.addVolume(productionId, 'A012', card, 'card')
    const job = await ennick.call('offloadVolume', {
      params: { volumeId: cardId },
      body: { destinationId: storageId, folder: 'A012', hash: 'md5' },
    })
    const target = join(storage, 'A012')
    while (!(await readdir(target).catch(() => [])).some((name) => name.startsWith('.long.bin')))
      await new Promise((resolve) => setTimeout(resolve, 5))
    await truncate(join(card, 'long.bin'), 1000)
    const ended = await ennick.waitForJob(job.id)
    expect(ended).toMatchObject({ state: 'done', summary: '1 files copied and read back · 1 not copied' })
    expect((await ennick.call('readJobDetails', { params: { jobId: job.id } })).lines[0]).toMatchObject({
      path: 'long.bin',
      detail: expect.stringContaining('changed while it was copied'),
    })
    expect((await readdir(target)).sort()).toEqual(['A012C001.mov', 'ascmhl'])
  })
})

describe('a manifest', () => {
  const manifestOf = async () => (await volume('RAID'))?.manifests.find((each) => each.path.startsWith('A001/'))
  const verify = async () => {
    const job = await ennick.waitForJob(
      (await ennick.call('verifyManifest', { params: { manifestId: (await manifestOf())?.id ?? '' } })).id,
    )
    return { job, lines: (await ennick.call('readJobDetails', { params: { jobId: job.id } })).lines }
  }
  test('says that all is well, and what is missing, changed or extra', async () => {
    expect((await verify()).job.summary).toBe('All 3 files match')
    const path = join(storage, 'A001/CLIPS/A001C002.mov')
    const bytes = await readFile(path)
    const { atime, mtime } = await stat(path)
    bytes[100] = (bytes[100] as number) ^ 1
    await writeFile(path, bytes)
    await utimes(path, atime, mtime)
    await rm(join(storage, 'A001/report.txt'))
    await writeFile(join(storage, 'A001/new.txt'), 'x')
    const { job, lines } = await verify()
    expect(job.summary).toBe('1 files match · 3 do not')
    expect(lines.map((line) => [line.path, line.state]).sort()).toEqual([
      ['CLIPS/A001C002.mov', 'changed'],
      ['new.txt', 'extra'],
      ['report.txt', 'missing'],
    ])
  })
  test('that was cut off is told with its path', async () => {
    const path = join(storage, (await manifestOf())?.path ?? '')
    await writeFile(path, (await readFile(path, 'utf8')).slice(0, 300))
    const { job } = await verify()
    expect(job).toMatchObject({ state: 'failed', error: expect.stringContaining('no media hash list') })
    expect(job.error).toContain(path)
  })
  test('that came with a volume is found', async () => {
    const drive = join(ennick.media, 'from a friend')
    await mkdir(join(drive, 'B/ascmhl'), { recursive: true })
    await writeFile(join(drive, 'B/a.txt'), 'x')
    await writeFile(
      join(drive, 'B/ascmhl/0001_B_2026-11-04_180512Z.mhl'),
      '<hashlist version="2.0"><hashes><hash><path size="1">a.txt</path><md5>9dd4e461268c8034f5c8564e155c67a6</md5></hash></hashes></hashlist>',
    )
    const driveId = await ennick.addVolume(productionId, 'FRIEND', drive)
    const { manifests } = await ennick.call('findManifests', { params: { volumeId: driveId } })
    expect(manifests).toMatchObject([{ path: 'B/ascmhl/0001_B_2026-11-04_180512Z.mhl', files: 1 }])
    const job = await ennick.waitForJob((await ennick.call('verifyManifest', { params: { manifestId: manifests[0]?.id ?? '' } })).id)
    expect(job.summary).toBe('All 1 files match')
  })
})

describe('what arrives', () => {
  test('numbered stills are one clip, gaps are told, and a proxy keeps their time', async () => {
    const folder = join(ennick.media, 'stills/day 3/mist')
    for (let number = 1; number <= 30; number++) {
      if (number === 11 || number === 12) continue
      const path = join(folder, `mist_${String(number).padStart(4, '0')}.jpg`)
      if (number === 1)
        await makePicture(path, {
          frames: 1,
          size: '64x36',
          channels: 0,
          timecode: null,
          reel: null,
          format: 'image2',
          extra: ['-update', '1'],
        })
      else await copyFile(join(folder, 'mist_0001.jpg'), path)
    }
    const volumeId = await ennick.addVolume(productionId, 'STILLS', join(ennick.media, 'stills'))
    const row = await clip('mist_####.jpg')
    expect(row).toMatchObject({ title: 'mist', kind: 'picture', frames: 30, notice: 'gap in stills', described: { day: 'day 3' } })
    expect(row?.facts.files).toBe(28)
    expect((await detail('mist_####.jpg')).notices[0]?.message).toContain('frames 11 to 12 missing')
    expect((await rescan(volumeId)).summary).toContain('0 read · 1 unchanged')
    const { jobs } = await ennick.call('make', {
      params: { productionId },
      body: { clipIds: [row?.id], recipeId: 'production-prores-proxy' },
    })
    const job = await ennick.waitForJob(jobs[0]?.id ?? '')
    expect([job.state, job.error]).toEqual(['done', null])
    expect((await clip('mist_####.jpg'))?.proxy).toBe('sound')
    await copyFile(join(folder, 'mist_0001.jpg'), join(folder, 'mist_0011.jpg'))
    expect((await rescan(volumeId)).summary).toContain('1 read')
    expect((await clip('mist_####.jpg'))?.facts.files).toBe(29)
    expect((await clips()).filter((each) => each.volumeLabel === 'STILLS')).toHaveLength(1)
  })

  test('a take over several files is one clip, and its proxy runs through all of them', async () => {
    const folder = join(ennick.media, 'spans')
    for (const [index, timecode] of ['10:00:00:00', '10:00:01:00', '10:00:02:00'].entries())
      await makePicture(join(folder, `B004C001_${index + 1}.mov`), { frames: index === 2 ? 10 : 25, size: '64x36', timecode, reel: 'B004' })
    await ennick.addVolume(productionId, 'SPANS', folder)
    const list = (await clips()).filter((each) => each.volumeLabel === 'SPANS')
    expect(list).toMatchObject([{ title: 'B004C001', frames: 60, startTimecode: '10:00:00:00', facts: { files: 3 } }])
    const { jobs } = await ennick.call('make', { params: { productionId }, body: { clipIds: [list[0]?.id], recipeId: 'half-h264-intra' } })
    const job = await ennick.waitForJob(jobs[0]?.id ?? '')
    expect([job.state, job.error]).toEqual(['done', null])
    const made = (await ennick.call('listPairs', { params: { productionId } })).find((row) => row.clipId === list[0]?.id)
    expect(made?.pairs[0]?.name).toBe('B004C001_proxy.mov')

    // A damaged frame is told by the file that it is in, and by its place in the whole take.
    const second = join(folder, 'B004C001_2.mov')
    const packets = ['-v', 'error', '-select_streams', 'v', '-show_entries', 'packet=pos,size', '-of', 'csv=p=0', second]
    const [size, at] = ((await run('ffprobe', packets)).stdout.split('\n')[8] as string).split(',').map(Number) as [number, number]
    const bytes = await readFile(second)
    bytes.fill(0xff, at + Math.floor(size / 3), at + Math.floor(size / 2))
    await writeFile(second, bytes)
    const { jobs: again } = await ennick.call('make', {
      params: { productionId },
      body: { clipIds: [list[0]?.id], recipeId: 'review-h264' },
    })
    expect((await ennick.waitForJob(again[0]?.id ?? '')).error).toMatch(
      /B004C001_2\.mov is damaged: frame 33 \(10:00:01:08\) cannot be decoded/,
    )
  })

  test('a camera’s own proxy beside its original is offered, not listed as one more original', async () => {
    const folder = join(ennick.media, 'camera B')
    await makePicture(join(folder, 'B005C001.mov'), { frames: 25, size: '320x180', reel: 'B005' })
    await makePicture(join(folder, 'SUB/B005C001.mov'), { frames: 25, size: '160x90', reel: 'B005' })
    await ennick.addVolume(productionId, 'CAMB', folder)
    expect((await clips()).filter((each) => each.volumeLabel === 'CAMB')).toHaveLength(1)
    const [offer] = await ennick.call('listOffers', { params: { productionId } })
    expect(offer).toMatchObject({ path: 'SUB/B005C001.mov', clipName: 'B005C001', agrees: true, raster: '160×90' })
    expect(await ennick.call('acceptOffers', { params: { productionId }, body: { fileIds: [offer?.fileId] } })).toEqual({ paired: 1 })
    expect((await clips()).find((each) => each.volumeLabel === 'CAMB')).toMatchObject({ proxy: 'sound', proxyRaster: '160×90' })
    expect(await ennick.call('listOffers', { params: { productionId } })).toEqual([])
  })

  test('proxies that are uploaded first wait, and find their originals when the card comes', async () => {
    const uploads = join(ennick.media, 'uploads')
    await mkdir(uploads)
    await ennick.addVolume(productionId, 'UPLINK', uploads, 'upload')
    await makePicture(join(ennick.media, 'aside/B006C001_proxy.mov'), { frames: 25, size: '160x90', reel: 'B006' })
    const bytes = await readFile(join(ennick.media, 'aside/B006C001_proxy.mov'))
    // It grows for a while: half of it is no movie, and must not be read as one.
    const growing = join(uploads, 'B006C001_proxy.mov')
    await writeFile(growing, bytes.subarray(0, bytes.length / 2))
    await new Promise((resolve) => setTimeout(resolve, 1500))
    await appendFile(growing, bytes.subarray(bytes.length / 2))
    while (((await volume('UPLINK'))?.waitingProxies ?? 0) === 0) await new Promise((resolve) => setTimeout(resolve, 200))
    expect(await volume('UPLINK')).toMatchObject({ problems: 0, clips: 0, isWatched: true })
    await makePicture(join(ennick.media, 'B006/B006C001.mov'), { frames: 25, size: '320x180', reel: 'B006' })
    await ennick.addVolume(productionId, 'B006', join(ennick.media, 'B006'), 'card')
    expect((await volume('UPLINK'))?.waitingProxies).toBe(0)
    const [offer] = await ennick.call('listOffers', { params: { productionId } })
    expect(offer).toMatchObject({ volumeLabel: 'UPLINK', clipName: 'B006C001', agrees: true })
  })

  test('a recorder’s notes name the clip, and what is odd in them is told', async () => {
    const folder = join(ennick.media, 'recorder')
    await makeSound(join(folder, 'T1.wav'), 48_000, 9 * 3600 * 48_000, 2)
    const text = Buffer.from(
      '<BWFXML><SCENE>12A</SCENE><TAKE>3</TAKE><CIRCLED>TRUE</CIRCLED><SPEED><TIMECODE_RATE>30000/1001</TIMECODE_RATE><TIMECODE_FLAG>NDF</TIMECODE_FLAG></SPEED><TRACK_LIST><TRACK_COUNT>9</TRACK_COUNT><TRACK><NAME>MIX</NAME></TRACK><TRACK><NAME>BOOM</NAME></TRACK></TRACK_LIST></BWFXML>',
    )
    const head = Buffer.alloc(8)
    head.write('iXML', 0, 'latin1')
    head.writeUInt32LE(text.length, 4)
    const wave = Buffer.concat([await readFile(join(folder, 'T1.wav')), head, text, Buffer.alloc(text.length % 2)])
    wave.writeUInt32LE(wave.length - 8, 4)
    await writeFile(join(folder, 'T1.wav'), wave)
    await ennick.addVolume(productionId, 'REC', folder, 'recorder')
    const row = (await clips()).find((each) => each.volumeLabel === 'REC')
    expect(row).toMatchObject({ described: { scene: '12A', take: '3', circled: 'yes' }, facts: { tracks: 'MIX, BOOM' } })
    // 32400 s are 971028.97 frames at 29.97: the label is that of the frame in which the sound begins.
    expect(row?.startTimecode).toBe('08:59:27:18')
    const told = await detail('T1.wav')
    expect(told.tracks).toEqual(['MIX', 'BOOM'])
    expect(told.described).toContainEqual({ field: 'scene', title: 'Scene', value: '12A', from: 'file' })
    expect(told.notices.map((notice) => notice.message).join()).toContain('claims 9 tracks and lists 2')
    const waveform = await fetch(`${ennick.url}/api/clips/${row?.id}/waveform.png`)
    expect([waveform.status, waveform.headers.get('content-type')]).toEqual([200, 'image/png'])
  })
})

describe('volumes', () => {
  test('one that was marked is known beside its old place', async () => {
    const place = join(ennick.media, 'M1')
    await makePicture(join(place, 'M1C001.mov'), { ...small, seed: 7, reel: 'M1' })
    const volumeId = await ennick.addVolume(productionId, 'M1', place, 'card')
    await ennick.call('markVolume', { params: { volumeId } })
    await rename(place, `${place} 1`)
    while ((await volume('M1'))?.rootPath !== `${place} 1`) await new Promise((resolve) => setTimeout(resolve, 100))
    expect((await volume('M1'))?.isHere).toBe(true)
    expect((await clip('M1C001.mov'))?.presence).toBe('here')
    await mkdir(join(ennick.media, 'M2'))
    await copyFile(join(`${place} 1`, '.ennick-volume.json'), join(ennick.media, 'M2/.ennick-volume.json'))
    await expect(
      ennick.call('addVolume', { params: { productionId }, body: { label: 'M2', kind: 'card', rootPath: join(ennick.media, 'M2') } }),
    ).rejects.toThrow('carries the marker of “M1”')
  })

  test('one that lies elsewhere is told so by hand; a label that is taken is asked, not guessed', async () => {
    const place = join(ennick.media, 'N1')
    await makePicture(join(place, 'N1C001.mov'), { ...small, seed: 8, reel: 'N1' })
    const volumeId = await ennick.addVolume(productionId, 'N1', place)
    await rename(place, join(ennick.media, 'N1 elsewhere'))
    const moved = await ennick.call('moveVolume', { params: { volumeId }, body: { rootPath: join(ennick.media, 'N1 elsewhere') } })
    expect(moved).toMatchObject({ isHere: true, rootPath: join(ennick.media, 'N1 elsewhere') })
    await mkdir(join(ennick.media, 'N2'))
    await expect(
      ennick.call('addVolume', { params: { productionId }, body: { label: 'N1', kind: 'card', rootPath: join(ennick.media, 'N2') } }),
    ).rejects.toThrow('two of one label cannot be told apart')
    const changed = await ennick.call('changeVolume', {
      params: { volumeId },
      body: { label: 'N1 blue', kind: 'drive', notes: 'top shelf', isWatched: false },
    })
    expect(changed).toMatchObject({ label: 'N1 blue', notes: 'top shelf' })
    expect((await clip('N1C001.mov'))?.volumeLabel).toBe('N1 blue')
  })

  test('what is no media is listed, with the rule for what is passed over', async () => {
    const place = join(ennick.media, 'mixed')
    await mkdir(place)
    await writeFile(join(place, 'checklist.txt'), 'boots')
    await writeFile(join(place, '.hidden'), 'x')
    const volumeId = await ennick.addVolume(productionId, 'MIXED', place)
    const others = await ennick.call('listOtherFiles', { params: { volumeId } })
    expect(others).toMatchObject({ paths: ['checklist.txt'], total: 1 })
    expect(others.rule).toContain('begin with a dot')
  })
})

test('how fast clips decode is measured in the background, and says which need help', async () => {
  const ids = (await clips()).filter((each) => each.name === 'B005C001.mov' || each.name === 'T1.wav').map((each) => each.id)
  const ask = () => ennick.call('readNeeds', { params: { productionId }, body: { clipIds: ids } })
  expect(await ask()).toMatchObject({ unmeasured: 1 })
  await ennick.waitForJob((await ennick.call('measureClips', { params: { productionId }, body: { clipIds: ids } })).id)
  const needs = await ask()
  expect(needs.unmeasured).toBe(0)
  expect(needs.clips.find((each) => each.name === 'B005C001')?.plays).toBeGreaterThanOrEqual(1)
  expect(needs.clips.find((each) => each.name === 'T1')?.suggestion).toBe('cut as it is')
  expect(needs.choices[0]).toMatchObject({ name: 'Cut as it is', bytes: 0 })
})
