import { createHash } from 'node:crypto'
import { cp, mkdir, readFile, rename, rm, stat, truncate, writeFile } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { exactRate, parseTimecode } from '@ennick/core'
import { execa } from 'execa'
import { addIxml } from './recorder-notes.ts'
import {
  type DemoClip,
  demoClips,
  demoFolders,
  type PictureClip,
  production,
  type SetProxy,
  type SoundClip,
  type StillsClip,
  setProxies,
} from './scenario.ts'

const font = '/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf'
const monoFont = '/usr/share/fonts/truetype/dejavu/DejaVuSansMono.ttf'

/** Tells how far the making of the demo has come. */
export type OnMade = (done: number, total: number) => void

/**
 * Makes the demo's media below a folder: drawn once into a cache, copied from there afterwards.
 * @param demoFolder nothing may be there yet
 * @param cacheFolder kept between starts; named by the scenario, so that a changed one is drawn anew
 */
export async function makeDemoMedia(
  demoFolder: string,
  cacheFolder: string,
  onMade: OnMade = () => undefined,
): Promise<void> {
  const mark = createHash('sha256')
    .update(JSON.stringify([demoClips, setProxies, demoFolders]))
    .update(await readFile(new URL(import.meta.url)))
    .digest('hex')
    .slice(0, 12)
  const cache = join(cacheFolder, `demo-${mark}`)
  if (!(await isThere(cache))) await draw(cache, onMade)
  const part = `${demoFolder}.ennick-part`
  await rm(part, { recursive: true, force: true })
  await mkdir(dirname(demoFolder), { recursive: true })
  await cp(cache, part, { recursive: true, preserveTimestamps: true })
  await rename(part, demoFolder)
}

const isThere = (path: string): Promise<boolean> =>
  stat(path).then(
    () => true,
    () => false,
  )

async function draw(cache: string, onMade: OnMade): Promise<void> {
  const part = `${cache}.${process.pid}.part`
  await rm(part, { recursive: true, force: true })
  const total = demoClips.length + setProxies.length
  let done = 0
  // The heaviest first, two at a time: drawing leaves a core half idle, two keep both busy.
  const byWeight = [...demoClips].sort((a, b) => weight(b) - weight(a))
  await eachAtOnce(byWeight, 2, async (clip) => {
    await mkdir(dirname(join(part, clip.path)), { recursive: true })
    await drawClip(clip, join(part, clip.path))
    onMade(++done, total)
  })
  await eachAtOnce(setProxies, 2, async (proxy) => {
    await mkdir(dirname(join(part, 'made', proxy.path)), { recursive: true })
    await makeSetProxy(proxy, part)
    onMade(++done, total)
  })
  await addBadFiles(part)
  for (const { folder } of demoFolders) await mkdir(join(part, folder), { recursive: true })
  await rename(part, cache)
}

function drawClip(clip: DemoClip, path: string): Promise<void> {
  switch (clip.kind) {
    case 'picture':
      return drawPicture(clip, path)
    case 'stills':
      return drawStills(clip, path)
    case 'sound':
      return recordSound(clip, path)
  }
}

const weight = (clip: DemoClip): number => (clip.kind === 'picture' ? clip.width * clip.height * clip.frames : 0)

async function eachAtOnce<T>(items: readonly T[], atOnce: number, work: (item: T) => Promise<void>): Promise<void> {
  const rest = [...items]
  await Promise.all(
    Array.from({ length: atOnce }, async () => {
      for (let item = rest.shift(); item !== undefined; item = rest.shift()) await work(item)
    }),
  )
}

const ffmpeg = (args: readonly string[]) =>
  execa('ffmpeg', ['-hide_banner', '-nostdin', '-v', 'error', '-y', ...args], { stdin: 'ignore' })

/**
 * A sky, a turning mill wheel, a rising tide and a slate with name, timecode and frame number, so that every frame is
 * known by eye.
 */
async function drawPicture(clip: PictureClip, path: string): Promise<void> {
  const { palette, frames } = clip
  const rate = exactRate(clip.rate)
  const seconds = (frames * clip.rate.denominator) / clip.rate.numerator + 0.2
  const seed = clip.slate.length + frames
  const lavfi = (source: string): string[] => ['-f', 'lavfi', '-i', source]
  const held = `loop=loop=${frames + 5}:size=1:start=0,setpts=N/(${rate})/TB`
  const inputs = [
    // One frame of sky and one of the wheel, held: what does not move is drawn, and changed to the film's own format,
    // once.
    ...lavfi(
      `gradients=s=960x540:r=${rate}:d=${seconds}:n=2:c0=${palette[0]}:c1=${palette[1]}:x0=0:y0=0:x1=0:y1=420:speed=0.00001,trim=end_frame=1,format=yuv420p,${held}`,
    ),
    ...lavfi(`color=c=${palette[2]}:s=960x260:r=${rate}:d=${seconds}`),
    ...lavfi(
      `color=c=black@0:s=300x300:r=${rate}:d=${seconds},format=rgba,drawtext=fontfile=${font}:text=✺:fontsize=330:fontcolor=0x2a221c:x=(w-tw)/2:y=(h-th)/2,trim=end_frame=1,${held}`,
    ),
  ]
  const scale = clip.height / 540
  const text = (value: string, y: number, size: number, file = font): string =>
    `drawtext=fontfile=${file}:${value}:fontcolor=${clip.log ? '0xb4b4b4' : 'white'}:fontsize=${Math.round(size * scale)}:x=${Math.round(28 * scale)}:y=${Math.round(y * scale)}:shadowcolor=black@0.6:shadowx=${Math.ceil(scale)}:shadowy=${Math.ceil(scale)}`
  const code = clip.start.replaceAll(':', '\\:').replace(';', '\\;')
  const slate = [
    text(`text='${clip.slate}'`, 26, 40),
    text(`timecode='${code}':rate=${rate}`, 76, 34, monoFont),
    text(`text='frame %{n}   reel ${clip.reel ?? 'none'}'`, 118, 20, monoFont),
  ]
  const graph = [
    `[0:v]drawtext=fontfile=${font}:text=●:fontcolor=${palette[3]}:fontsize=150:x='120+${seed % 500}+t*24':y='60+t*9'[sky]`,
    `[2:v]rotate=t*${(0.5 + (seed % 7) / 10).toFixed(2)}:c=black@0[wheel]`,
    `[sky]drawbox=x=560:y=210:w=260:h=220:c=0x3a3029:t=fill,drawbox=x=540:y=190:w=300:h=26:c=0x2a221c:t=fill,drawbox=x=620:y=260:w=34:h=44:c=0xe0b870:t=fill,drawbox=x=700:y=260:w=34:h=44:c=0xe0b870:t=fill[mill]`,
    `[mill][wheel]overlay=x=400:y=180[turning]`,
    `[turning][1:v]overlay=x=0:y='380-t*4+5*sin(t*2.2+${seed})'[tide]`,
    `[tide]${clip.log ? "curves=all='0/0.12 0.25/0.44 0.5/0.56 1/0.72'," : ''}scale=${clip.width}:${clip.height}:flags=bilinear,format=${pixelFormat(clip)},${slate.join(',')},setsar=${clip.pixelAspect},setparams=color_primaries=bt709:color_trc=${clip.log ? 'log100' : 'bt709'}:colorspace=bt709,trim=end_frame=${frames}[v]`,
  ].join(';')
  if (path.endsWith('.png')) {
    await ffmpeg([
      ...inputs,
      '-filter_complex',
      graph,
      '-map',
      '[v]',
      '-frames:v',
      '1',
      '-f',
      'image2',
      '-update',
      '1',
      `file:${path}`,
    ])
    return
  }
  const reallyFrom = secondsOf(clip) - (clip.aheadSeconds ?? 0)
  const sound = Array.from({ length: clip.channels }, (_, index) =>
    lavfi(`${soundOfTheSet(reallyFrom, 0.05, 180 + index * 60)},atrim=end_sample=${soundSamples(clip)}`),
  )
  const maps = sound.flatMap((_, index) => ['-map', `${index + 3}:a`, `-c:a:${index}`, 'pcm_s24le'])
  const reel =
    clip.reel === null ? [] : ['-metadata:s:v:0', `reel_name=${clip.reel}`, '-metadata', `reel_name=${clip.reel}`]
  const colour = ['-color_primaries', 'bt709', '-color_trc', clip.log ? 'log100' : 'bt709', '-colorspace', 'bt709']
  const timecode = ['-timecode', clip.start]
  await ffmpeg([
    ...inputs,
    ...sound.flat(),
    '-filter_complex',
    graph,
    '-map',
    '[v]',
    ...maps,
    '-r',
    rate,
    ...codec(clip),
    ...colour,
    ...timecode,
    ...reel,
    '-f',
    'mov',
    `file:${path}`,
  ])
}

/** A time-lapse as numbered stills, some of which were lost. */
async function drawStills(clip: StillsClip, pattern: string): Promise<void> {
  const [sky, horizon, water, sun] = clip.palette
  const graph = [
    `[0:v]drawtext=fontfile=${font}:text=●:fontcolor=${sun}:fontsize=120:x='80+n*9':y='300-n*3'[sun]`,
    `[sun][1:v]overlay=x=0:y='340+40*sin(n/20)'[pond]`,
    `[pond]drawtext=fontfile=${font}:text='${clip.slate}':fontcolor=white:fontsize=34:x=28:y=26,drawtext=fontfile=${monoFont}:text='still %{eif\\:n+1\\:d\\:4}':fontcolor=white:fontsize=24:x=28:y=76,format=yuvj420p[v]`,
  ].join(';')
  await ffmpeg([
    ...[
      '-f',
      'lavfi',
      '-i',
      `gradients=s=${clip.width}x${clip.height}:r=25:n=2:c0=${sky}:c1=${horizon}:x0=0:y0=0:x1=0:y1=${clip.height}:speed=0.00001`,
    ],
    ...['-f', 'lavfi', '-i', `color=c=${water}:s=${clip.width}x300:r=25`],
    ...[
      '-filter_complex',
      graph,
      '-map',
      '[v]',
      '-frames:v',
      String(clip.stills),
      '-q:v',
      '5',
      '-start_number',
      '1',
      '-f',
      'image2',
      // A "%" of the folders above is no place for a number.
      `file:${join(dirname(pattern).replaceAll('%', '%%'), basename(pattern))}`,
    ],
  ])
  for (const number of clip.missing) await rm(pattern.replace('%04d', String(number).padStart(4, '0')))
}

/** Seconds since midnight at which a clip begins. */
const secondsOf = (clip: PictureClip): number =>
  (parseTimecode(clip.start, clip.rate, clip.drop) * clip.rate.denominator) / clip.rate.numerator

/**
 * What the set sounds like from a moment on: bursts of noise and a tone, by the time of day alone, so that every
 * microphone hears the same at the same moment, one louder than another.
 */
function soundOfTheSet(fromSeconds: number, loud: number, pitch: number): string {
  const at = `(t+${fromSeconds})`
  const chance = (of: string): string => `mod(abs(sin(floor(${of})*78.233)*43758.5453),1)`
  const burst = `pow(${chance(`${at}*9`)},3)`
  const noise = `(2*${chance(`${at}*48000+0.5`)}-1)`
  return `aevalsrc='${loud}*${burst}*(0.6*${noise}+0.4*sin(${pitch}*2*PI*t))':s=48000`
}

const soundSamples = (clip: PictureClip): number =>
  Math.round((clip.frames * clip.rate.denominator * 48_000) / clip.rate.numerator)
const pixelFormat = (clip: PictureClip): string =>
  clip.path.endsWith('.png')
    ? 'rgb24'
    : clip.codec === 'prores'
      ? 'yuv422p10le'
      : clip.codec === 'mjpeg'
        ? 'yuvj422p'
        : 'yuv420p'

function codec(clip: PictureClip): string[] {
  if (clip.codec === 'prores') return ['-c:v', 'prores', '-profile:v', '2']
  if (clip.codec === 'mjpeg') return ['-c:v', 'mjpeg', '-q:v', '4']
  return ['-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '24', '-g', '25']
}

async function recordSound(clip: SoundClip, path: string): Promise<void> {
  const fromSeconds = (clip.timeReference ?? 0) / 48_000
  const inputs = Array.from({ length: clip.channels }, (_, index) => {
    const heard = soundOfTheSet(fromSeconds, 0.4 / (index + 1), 140 + index * 45)
    return ['-f', 'lavfi', '-i', `${heard},atrim=end_sample=${clip.samples}`]
  })
  const merge = `${inputs.map((_, index) => `[${index}:a]`).join('')}amerge=inputs=${clip.channels}[a]`
  const notes = [
    '-metadata',
    `description=${clip.description}`,
    '-metadata',
    'originator=Ennick stand-in recorder',
    '-metadata',
    'origination_date=2026-11-04',
  ]
  const reference = clip.timeReference === null ? [] : ['-metadata', `time_reference=${clip.timeReference}`]
  await ffmpeg([
    ...inputs.flat(),
    '-filter_complex',
    merge,
    '-map',
    '[a]',
    '-c:a',
    'pcm_s24le',
    '-write_bext',
    '1',
    ...notes,
    ...reference,
    '-f',
    'wav',
    `file:${path}`,
  ])
  await addNotes(clip, path)
}

async function addNotes(clip: SoundClip, path: string): Promise<void> {
  if (clip.notes)
    await addIxml(path, {
      ...clip.notes,
      project: production.name,
      tape: 'MIX-01',
      timeReference: clip.timeReference ?? 0,
    })
}

async function makeSetProxy(proxy: SetProxy, root: string): Promise<void> {
  const clip = demoClips.find((candidate) => candidate.path === proxy.original) as PictureClip
  const rate = proxy.fault === 'another rate' ? '24/1' : exactRate(clip.rate)
  const trim = proxy.fault === 'one frame short' ? `,trim=end_frame=${clip.frames - 1}` : ''
  const look = clip.log ? ",curves=all='0.12/0 0.44/0.25 0.56/0.5 0.72/1',setparams=color_trc=bt709" : ''
  const reel = clip.reel === null ? [] : ['-metadata:s:v:0', `reel_name=${clip.reel}`]
  await ffmpeg([
    ...['-i', `file:${join(root, proxy.original)}`, '-map', '0:V:0', '-map', '0:a?', '-map_metadata', '-1'],
    ...['-vf', `scale=${clip.width / (clip.width > 1920 ? 4 : 2)}:-2${look},format=yuv420p${trim}`, '-r', rate],
    ...[
      '-c:v',
      'libx264',
      '-preset',
      'ultrafast',
      '-g',
      '1',
      '-crf',
      '24',
      '-c:a',
      'copy',
      '-timecode',
      clip.start,
      ...reel,
      '-f',
      'mov',
      `file:${join(root, 'made', proxy.path)}`,
    ],
  ])
}

/** What lies on every real drive: a text under a film's name, a file of no length, and one whose copy broke off. */
async function addBadFiles(root: string): Promise<void> {
  const folder = join(root, 'bay/TIDE-1/day 2/B002')
  await writeFile(
    join(folder, 'camera report.mov'),
    'Day 2, camera B: clock was reset after lunch. Card B002 was used twice.\n',
  )
  await writeFile(join(folder, 'B002C002.mov'), '')
  const broken = join(folder, 'B002C003.mov')
  await cp(join(folder, 'B002C001.mov'), broken)
  await truncate(broken, Math.floor((await stat(broken)).size * 0.6))
  await writeFile(join(root, 'bay/TIDE-1/day 2/B002/checklist.txt'), 'Tide table, batteries, boots.\n')
}
