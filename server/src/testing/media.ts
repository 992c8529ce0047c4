import { mkdir, rm, writeFile } from 'node:fs/promises'
import { dirname } from 'node:path'
import { reserveCharacters, reserveComment } from '@ennick/core'
import { joinAtomFiles } from '../engine/atom-set.ts'
import { run } from '../engine/process.ts'

export interface TestPicture {
  readonly size?: string
  readonly rate?: string
  readonly frames?: number
  readonly timecode?: string | null
  readonly reel?: string | null
  readonly channels?: number
  readonly codec?: readonly string[]
  readonly pixelAspect?: string
  readonly transfer?: string
  readonly format?: string
  /** Changes the picture, so that two files of equal facts differ in content. */
  readonly seed?: number
  /** What it shows, in place of a test picture. */
  readonly scene?: TestScene
  readonly extra?: readonly string[]
}

/** Something to be seen: a set that stands still, and what moves in it. Scenes of one set look alike. */
export interface TestScene {
  readonly set: number
  readonly movement: number
}

/** The encoder's words for a scene: soft shapes, a little grain, and two boxes on their ways. */
export function sceneFilter({ set, movement }: TestScene, size: string, rate: string): string {
  const shapes = Array.from({ length: 12 }, (_, index) => {
    const number = (set * 131 + index * 57) % 997
    const [x, y] = [(number * 37) % 560, (number * 91) % 300]
    const grey = (40 + ((number * 71) % 190)).toString(16).padStart(2, '0')
    return `drawbox=x=${x}*iw/640:y=${y}*ih/360:w=iw/5:h=ih/4:t=fill:c=0x${grey}${grey}${grey}`
  })
  const box = (number: number, colour: string): string => {
    const step = 3 + ((movement * 5 + number * 3) % 9)
    const x = `mod(${movement * 71 + number * 190}+n*${step}\\,W-w)`
    return `[s${number}];color=${colour}:s=70x70:r=${rate}[b${number}];[s${number}][b${number}]overlay=shortest=1:x=${x}:y=${(movement * 47 + number * 120) % 280}`
  }
  return `color=0x606060:s=${size}:r=${rate},${shapes.join(',')},gblur=sigma=8,noise=alls=5:allf=t:all_seed=${set}${box(1, 'white')}${box(2, 'black')}`
}

/** Makes a small real recording with the real encoder. */
export async function makePicture(path: string, picture: TestPicture = {}): Promise<void> {
  const {
    size = '320x180',
    rate = '25',
    frames = 50,
    timecode = '10:00:00:00',
    reel = 'A001',
    channels = 2,
    seed = 0,
  } = picture
  await mkdir(dirname(path), { recursive: true })
  const [numerator, denominator = 1] = rate.split('/').map(Number) as [number, number?]
  const samples = Math.round((frames * 48_000 * denominator) / numerator)
  const transfer = picture.transfer ?? 'bt709'
  const shown = picture.scene
    ? sceneFilter(picture.scene, size, rate)
    : `testsrc2=s=${size}:r=${rate},hue=h=${seed * 40}`
  const source = `${shown},trim=end_frame=${frames},setsar=${picture.pixelAspect ?? '1'},setparams=color_primaries=bt709:color_trc=${transfer}:colorspace=bt709,format=yuv420p`
  const sounds = Array.from({ length: channels }, (_, index) => [
    '-f',
    'lavfi',
    '-i',
    `sine=f=${200 + index * 100}:r=48000,atrim=end_sample=${samples}`,
  ]).flat()
  const maps = Array.from({ length: channels }, (_, index) => ['-map', `${index + 1}:a`]).flat()
  const codec = picture.codec ?? ['-c:v', 'mjpeg', '-q:v', '5', '-pix_fmt', 'yuvj420p']
  await ffmpeg([
    ...['-f', 'lavfi', '-i', source, ...sounds, '-map', '0:v', ...maps, '-r', rate, ...codec, '-c:a', 'pcm_s24le'],
    ...['-color_primaries', 'bt709', '-color_trc', transfer, '-colorspace', 'bt709'],
    ...(timecode === null ? [] : ['-timecode', timecode]),
    ...(reel === null ? [] : ['-metadata:s:v:0', `reel_name=${reel}`, '-metadata', `reel_name=${reel}`]),
    ...(picture.extra ?? []),
    ...['-f', picture.format ?? 'mov', `file:${path}`],
  ])
}

/** Twelve small numbered stills of a moving picture. */
export async function makeStills(folder: string, name: string): Promise<void> {
  await mkdir(folder, { recursive: true })
  const source = ['-f', 'lavfi', '-i', 'testsrc2=s=64x36', '-frames:v', '12']
  await ffmpeg([...source, `file:${folder}/${name}.%04d.png`])
}

/** Makes a recorder's file of some samples that starts some samples after midnight. */
export async function makeSound(path: string, samples: number, timeReference: number, channels = 4): Promise<void> {
  await mkdir(dirname(path), { recursive: true })
  const inputs = Array.from({ length: channels }, (_, index) => [
    '-f',
    'lavfi',
    '-i',
    `sine=f=${150 + index * 50}:r=48000,atrim=end_sample=${samples}`,
  ]).flat()
  const merge = `${Array.from({ length: channels }, (_, index) => `[${index}:a]`).join('')}amerge=inputs=${channels}[a]`
  await ffmpeg([
    ...inputs,
    '-filter_complex',
    merge,
    '-map',
    '[a]',
    '-c:a',
    'pcm_s24le',
    '-write_bext',
    '1',
    '-metadata',
    `time_reference=${timeReference}`,
    '-f',
    'wav',
    `file:${path}`,
  ])
}

/** A recording of given samples, one array a channel, as a recorder writes it. */
export async function makeRecording(
  path: string,
  channels: readonly Float32Array[],
  { sampleRate = 48_000, timeReference }: { sampleRate?: number; timeReference: number | null },
): Promise<void> {
  await withRawSound(path, channels, async (raw) => {
    const stamp = timeReference === null ? [] : ['-write_bext', '1', '-metadata', `time_reference=${timeReference}`]
    await ffmpeg([
      ...['-f', 'f32le', '-ar', String(sampleRate), '-ac', String(channels.length), '-i', raw],
      ...['-c:a', 'pcm_s24le', ...stamp, '-f', 'wav', `file:${path}`],
    ])
  })
}

/** A camera's file with given samples as its scratch track, of 25 pictures a second. */
export async function makeShot(
  path: string,
  scratch: Float32Array,
  { timecode, reel }: { timecode: string | null; reel: string },
): Promise<void> {
  const picture = `${path}.picture.mov`
  const frames = Math.floor(scratch.length / 1920)
  await makePicture(picture, { size: '160x90', frames, channels: 0, timecode, reel })
  await withRawSound(path, [scratch], async (raw) => {
    await ffmpeg([
      ...['-i', picture, '-f', 'f32le', '-ar', '48000', '-ac', '1', '-i', raw, '-map', '0:v', '-map', '1:a'],
      ...['-c:v', 'copy', '-c:a', 'pcm_s16le', ...(timecode === null ? [] : ['-timecode', timecode])],
      ...['-metadata:s:v:0', `reel_name=${reel}`, '-f', 'mov', `file:${path}`],
    ])
  })
  await rm(picture)
}

/** A clip of a second whose tracks are files of their own (MXF OP-Atom), as a cutting room or a camera writes them. */
export async function makeTrackSet(
  base: string,
  {
    tones,
    timecode,
    reel,
    name,
    size = '640x360',
  }: { tones: readonly number[]; timecode: string; reel: string; name: string; size?: string },
): Promise<string[]> {
  await mkdir(dirname(base), { recursive: true })
  const paths = [`${base}_V1.mxf`, ...tones.map((_, index) => `${base}_A${index + 1}.mxf`)]
  const room = '.'.repeat(reserveCharacters(paths.length, { name, reel }))
  const said = ['-timecode', timecode, '-metadata', `reel_name=${reel}`, '-metadata', `material_package_name=${name}`]
  const ending = [...said, '-metadata', `comment_${reserveComment}=${room}`, '-f', 'mxf_opatom']
  await ffmpeg([
    ...[
      '-f',
      'lavfi',
      '-i',
      `testsrc2=s=640x360:r=25,trim=end_frame=25,scale=${size.replace('x', ':')},format=yuv422p`,
    ],
    ...tones.flatMap((tone) => ['-f', 'lavfi', '-i', `sine=f=${tone}:r=48000,atrim=end_sample=48000`]),
    ...['-map', '0:v', '-c:v', 'dnxhd', '-profile:v', 'dnxhr_lb', ...ending, paths[0] as string],
    ...tones.flatMap((_, index) => [
      ...['-map', `${index + 1}:a`, '-c:a', 'pcm_s24le', '-ar', '48000', '-mxf_audio_edit_rate', '25', ...ending],
      paths[index + 1] as string,
    ]),
  ])
  const complaint = await joinAtomFiles(paths)
  if (complaint !== null) throw new Error(complaint)
  return paths
}

async function withRawSound(
  path: string,
  channels: readonly Float32Array[],
  task: (raw: string) => Promise<void>,
): Promise<void> {
  await mkdir(dirname(path), { recursive: true })
  const length = channels[0]?.length ?? 0
  const woven = new Float32Array(length * channels.length)
  for (const [channel, samples] of channels.entries())
    for (let index = 0; index < length; index++) woven[index * channels.length + channel] = samples[index] as number
  const raw = `${path}.raw`
  await writeFile(raw, new Uint8Array(woven.buffer))
  await task(raw).finally(() => rm(raw))
}

export async function ffmpeg(args: readonly string[]): Promise<void> {
  const result = await run('ffmpeg', ['-hide_banner', '-nostdin', '-v', 'error', '-y', ...args])
  if (result.exitCode !== 0) throw new Error(result.stderr)
}
