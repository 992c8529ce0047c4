import { copyFile, mkdir, readFile, rename, rm, symlink, writeFile } from 'node:fs/promises'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Arrive')
})
afterAll(() => ennick.stop())

const clips = () => ennick.clips(productionId)
const clip = async (name: string) => (await clips()).find((candidate) => candidate.name === name)
const detail = async (name: string) => ennick.call('readClip', { params: { clipId: (await clip(name))?.id ?? '' } })
const volume = (label: string) => ennick.volume(productionId, label)
const small = { frames: 25, size: '64x36' }

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
    expect(row).toMatchObject({
      title: 'mist',
      kind: 'picture',
      frames: 30,
      notice: 'gap in stills',
      described: { day: 'day 3' },
    })
    expect(row?.facts.files).toBe(28)
    expect((await detail('mist_####.jpg')).notices[0]?.message).toContain('frames 11 to 12 missing')
    expect((await ennick.scan(volumeId)).summary).toContain('0 read · 1 unchanged')
    // Stills come from no reel: a rule for reels leaves them alone unless it is told otherwise.
    const reels = async (ofAllKinds: boolean) => {
      const source = { kind: 'first-characters' as const, count: 4 }
      const action = { kind: 'reel' as const, clipIds: [row?.id ?? ''], source, ofAllKinds, onlyEmpty: true }
      return ennick.call('editClips', { params: { productionId }, body: { action, apply: false } })
    }
    expect((await reels(false)).refused[0]?.reason).toBe('It is a still, or stills: those are left as they are.')
    expect((await reels(true)).total).toBe(1)
    const { jobs } = await ennick.call('make', {
      params: { productionId },
      body: { clipIds: [row?.id], recipeId: 'production-prores-proxy' },
    })
    const job = await ennick.waitForJob(jobs[0]?.id ?? '')
    expect([job.state, job.error]).toEqual(['done', null])
    expect((await clip('mist_####.jpg'))?.proxy).toBe('proven')
    await copyFile(join(folder, 'mist_0001.jpg'), join(folder, 'mist_0011.jpg'))
    expect((await ennick.scan(volumeId)).summary).toContain('1 read')
    expect((await clip('mist_####.jpg'))?.facts.files).toBe(29)
    expect((await clips()).filter((each) => each.volumeLabel === 'STILLS')).toHaveLength(1)
  })

  test('numbered stills in a folder of any name are decoded, and its name is no order to the decoder', async () => {
    const asked: string[] = []
    const listener = createServer((request, response) => {
      asked.push(request.url ?? '')
      response.end()
    })
    await new Promise<void>((resolve) => listener.listen(0, '127.0.0.1', resolve))
    const { port } = listener.address() as AddressInfo
    // Of a folder of this name a line of a list would be made that fetches an address.
    const folder = join(ennick.media, `odd/it's "x"\nfile 'http:`, `127.0.0.1:${port}`, `x.jpg'\n#`)
    await mkdir(folder, { recursive: true })
    for (let number = 1; number <= 8; number++)
      await copyFile(
        join(ennick.media, 'stills/day 3/mist/mist_0001.jpg'),
        join(folder, `still%03d_${String(number).padStart(4, '0')}.jpg`),
      )
    await ennick.addVolume(productionId, 'ODD', join(ennick.media, 'odd'))
    const [row] = (await clips()).filter((each) => each.volumeLabel === 'ODD')
    expect(row).toMatchObject({ frames: 8 })
    const { jobs } = await ennick.call('make', {
      params: { productionId },
      body: { clipIds: [row?.id], recipeId: 'production-prores-proxy' },
    })
    expect(await ennick.waitForJob(jobs[0]?.id ?? '')).toMatchObject({ state: 'done', error: null })
    expect(asked).toEqual([])
    listener.close()
  })

  test('a take over several files is one clip, and its proxy runs through all of them', async () => {
    const folder = join(ennick.media, 'spans')
    for (const [index, timecode] of ['10:00:00:00', '10:00:01:00', '10:00:02:00'].entries())
      await makePicture(join(folder, `B004C001_${index + 1}.mov`), {
        frames: index === 2 ? 10 : 25,
        size: '64x36',
        timecode,
        reel: 'B004',
      })
    await ennick.addVolume(productionId, 'SPANS', folder)
    const list = (await clips()).filter((each) => each.volumeLabel === 'SPANS')
    expect(list).toMatchObject([{ title: 'B004C001', frames: 60, startTimecode: '10:00:00:00', facts: { files: 3 } }])
    const { jobs } = await ennick.call('make', {
      params: { productionId },
      body: { clipIds: [list[0]?.id], recipeId: 'half-h264-intra' },
    })
    const job = await ennick.waitForJob(jobs[0]?.id ?? '')
    expect([job.state, job.error]).toEqual(['done', null])
    const made = (await ennick.call('listPairs', { params: { productionId } })).find(
      (row) => row.clipId === list[0]?.id,
    )
    expect(made?.pairs[0]?.name).toBe('B004C001_proxy.mov')

    // A damaged frame is told by the file that it is in, and by its place in the whole take.
    const second = join(folder, 'B004C001_2.mov')
    const packets = [
      '-v',
      'error',
      '-select_streams',
      'v',
      '-show_entries',
      'packet=pos,size',
      '-of',
      'csv=p=0',
      second,
    ]
    const [size, at] = ((await run('ffprobe', packets)).stdout.split('\n')[8] as string).split(',').map(Number) as [
      number,
      number,
    ]
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
    expect(await ennick.call('acceptOffers', { params: { productionId }, body: { fileIds: [offer?.fileId] } })).toEqual(
      { paired: 1 },
    )
    expect((await clips()).find((each) => each.volumeLabel === 'CAMB')).toMatchObject({
      proxy: 'matched',
      proxyRaster: '160×90',
    })
    expect(await ennick.call('listOffers', { params: { productionId } })).toEqual([])
  })

  /** Adds a recorder's notes to a sound file, byte for byte as they are given. */
  async function addNotes(path: string, notes: string): Promise<void> {
    const text = Buffer.from(notes)
    const head = Buffer.alloc(8)
    head.write('iXML', 0, 'latin1')
    head.writeUInt32LE(text.length, 4)
    const wave = Buffer.concat([await readFile(path), head, text, Buffer.alloc(text.length % 2)])
    wave.writeUInt32LE(wave.length - 8, 4)
    await writeFile(path, wave)
  }

  test('a zero character in a recorder’s notes costs nothing, and other files are read beside it', async () => {
    const folder = join(ennick.media, 'zeroes')
    for (const [name, scene] of [
      ['Z1.wav', '12\0A'],
      ['Z2.wav', '\0'],
      ['Z3.wav', 'x'.repeat(100_000)],
      ['Z4.wav', '14B'],
    ] as const) {
      await makeSound(join(folder, name), 4800, 0, 1)
      await addNotes(join(folder, name), `<BWFXML><SCENE>${scene}</SCENE><NOTE>mill\0wheel</NOTE></BWFXML>`)
    }
    const volumeId = await ennick.addVolume(productionId, 'ZERO', folder, 'recorder')
    expect((await ennick.scan(volumeId)).state).toBe('done')
    const rows = (await clips()).filter((each) => each.volumeLabel === 'ZERO')
    expect(rows.map((row) => [row.name, row.described.scene?.length ?? 0])).toEqual([
      ['Z1.wav', 3],
      ['Z2.wav', 0],
      ['Z3.wav', 8000],
      ['Z4.wav', 3],
    ])
  })

  test('a recorder’s notes name the clip, and what is odd in them is told', async () => {
    const folder = join(ennick.media, 'recorder')
    await makeSound(join(folder, 'T1.wav'), 48_000, 9 * 3600 * 48_000, 2)
    await addNotes(
      join(folder, 'T1.wav'),
      '<BWFXML><SCENE>12A</SCENE><TAKE>3</TAKE><CIRCLED>TRUE</CIRCLED><SPEED><TIMECODE_RATE>30000/1001</TIMECODE_RATE><TIMECODE_FLAG>NDF</TIMECODE_FLAG></SPEED><TRACK_LIST><TRACK_COUNT>9</TRACK_COUNT><TRACK><NAME>MIX</NAME></TRACK><TRACK><NAME>BOOM</NAME></TRACK></TRACK_LIST></BWFXML>',
    )
    await ennick.addVolume(productionId, 'REC', folder, 'recorder')
    const row = (await clips()).find((each) => each.volumeLabel === 'REC')
    expect(row).toMatchObject({
      described: { scene: '12A', take: '3', circled: 'yes' },
      facts: { tracks: 'MIX, BOOM' },
    })
    // 32400 s are 971028.97 frames at 29.97: the label is that of the frame in which the sound begins.
    expect(row?.startTimecode).toBe('08:59:27:18')
    const told = await detail('T1.wav')
    expect(told.tracks).toEqual(['MIX', 'BOOM'])
    expect(told.described).toContainEqual({ field: 'scene', title: 'Scene', value: '12A', from: 'file' })
    expect(told.notices.map((notice) => notice.message).join()).toContain('claims 9 tracks and lists 2')
    const waveform = await fetch(`${ennick.url}/api/clips/${row?.id}/waveform.png`)
    expect([waveform.status, waveform.headers.get('content-type')]).toEqual([200, 'image/png'])
    // A file that has become a list of other files, or a link out of the volume, shows nothing of them.
    await makeSound(join(folder, 'T2.wav'), 24_000, 0, 2)
    const volumeId = (await volume('REC'))?.id as string
    await ennick.scan(volumeId)
    const second = (await clips()).find((each) => each.name === 'T2.wav')
    const picture = async () => {
      const answer = await fetch(`${ennick.url}/api/clips/${second?.id}/waveform.png`)
      return [answer.status, (await answer.json()).code]
    }
    await writeFile(join(folder, 'T2.wav'), `ffconcat version 1.0\nfile '${join(folder, 'T1.wav')}'\n`)
    expect(await picture()).toEqual([404, 'no-waveform'])
    await rm(join(folder, 'T2.wav'))
    await makeSound(join(ennick.media, 'private.wav'), 24_000, 0, 2)
    await symlink(join(ennick.media, 'private.wav'), join(folder, 'T2.wav'))
    expect(await picture()).toEqual([404, 'no-waveform'])
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
      ennick.call('addVolume', {
        params: { productionId },
        body: { label: 'M2', kind: 'card', rootPath: join(ennick.media, 'M2') },
      }),
    ).rejects.toThrow('carries the marker of “M1”')
  })

  test('one that lies elsewhere is told so by hand; a label that is taken is asked, not guessed', async () => {
    const place = join(ennick.media, 'N1')
    await makePicture(join(place, 'N1C001.mov'), { ...small, seed: 8, reel: 'N1' })
    const volumeId = await ennick.addVolume(productionId, 'N1', place)
    await rename(place, join(ennick.media, 'N1 elsewhere'))
    const moved = await ennick.call('moveVolume', {
      params: { volumeId },
      body: { rootPath: join(ennick.media, 'N1 elsewhere') },
    })
    expect(moved).toMatchObject({ isHere: true, rootPath: join(ennick.media, 'N1 elsewhere') })
    await mkdir(join(ennick.media, 'N2'))
    await expect(
      ennick.call('addVolume', {
        params: { productionId },
        body: { label: 'N1', kind: 'card', rootPath: join(ennick.media, 'N2') },
      }),
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
  const ids = (await clips())
    .filter((each) => each.name === 'B005C001.mov' || each.name === 'T1.wav')
    .map((each) => each.id)
  const ask = () => ennick.call('readNeeds', { params: { productionId }, body: { clipIds: ids } })
  expect(await ask()).toMatchObject({ unmeasured: 1 })
  await ennick.waitForJob((await ennick.call('measureClips', { params: { productionId }, body: { clipIds: ids } })).id)
  const needs = await ask()
  expect(needs.unmeasured).toBe(0)
  expect(needs.clips.find((each) => each.name === 'B005C001')?.plays).toEqual(expect.any(Number))
  expect(needs.clips.find((each) => each.name === 'T1')?.suggestion).toBe('cut as it is')
  expect(needs.choices[0]).toMatchObject({ name: 'Cut as it is', bytes: 0 })
  // With what nothing was made here, the minutes are those of decoding, and say that they are the least.
  const least = new Map(needs.choices.map(({ name, atLeast }) => [name, atLeast]))
  expect([least.get('Cut as it is'), least.get('Source size, FFV1, lossless')]).toEqual([false, true])
  // On a volume that is read slowly the trouble is told to be that.
  await ennick.query(
    `insert into read_speeds (volume_id, bytes_per_second)
     select volume_id, 1000 from files join clip_files on file_id = files.id where clip_id = $1
     on conflict (volume_id) do update set bytes_per_second = 1000`,
    [ids[0]],
  )
  // How busy this machine was while it decoded is no matter here.
  await ennick.query('update decode_speeds set frames_per_second = 1000')
  const slow = (await ask()).clips.find((each) => each.name === 'B005C001')
  expect(slow).toMatchObject({
    reads: 0,
    suggestion: 'proxy',
    reason: expect.stringContaining('reading is the trouble'),
  })
})
