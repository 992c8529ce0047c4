import { mkdir, readdir, readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import {
  type Cut,
  type CutEvent,
  edl,
  normalSpeed,
  otio,
  parseTimecode,
  type Rate,
  rate,
  type Speed,
  xmeml,
} from '@ennick/core'

/** The stand-in cutting room's own system: other drive letters and mounts than here. */
const officeMedia = 'file:///P:/LowWater/Media'
const officeProxies = 'file:///P:/LowWater/Proxies'
const laptopMedia = '/Volumes/TIDE-1'

interface Use {
  readonly track: string
  readonly clipName: string
  readonly reel: string | null
  readonly path: string | null
  readonly start: string
  readonly frames: number
  readonly sourceRate?: Rate
  readonly drop?: boolean
  readonly dissolve?: number
  readonly fadeOut?: number
  readonly speed?: Speed
  /** Record frames, where its speed makes them other than its source frames. */
  readonly recordFrames?: number
  readonly isDisabled?: true
  readonly scalePercent?: number
}

const cutRate = rate(25)

function assemble(name: string, uses: readonly Use[]): Cut {
  const at = new Map<string, number>()
  const recordStart = parseTimecode('10:00:00:00', cutRate)
  const events = uses.map((use, index): CutEvent => {
    const sourceRate = use.sourceRate ?? cutRate
    const startFrame = parseTimecode(use.start, sourceRate, use.drop ?? false)
    const record = at.get(use.track) ?? recordStart
    const recordFrames =
      use.recordFrames ??
      Math.round(
        (use.frames * sourceRate.denominator * cutRate.numerator) / (sourceRate.numerator * cutRate.denominator),
      )
    // Black comes in behind it, over as many frames.
    at.set(use.track, record + recordFrames + (use.fadeOut ?? 0))
    return {
      number: String(index + 1).padStart(3, '0'),
      track: use.track,
      kind: use.track.startsWith('V') ? 'picture' : 'sound',
      clipName: use.clipName,
      reel: use.reel,
      path: use.path,
      source: { startFrame, endFrame: startFrame + use.frames },
      sourceRate,
      mediumStartFrame: null,
      record: { startFrame: record, endFrame: record + recordFrames },
      transition: use.dissolve ? { kind: 'dissolve', wipeCode: null, durationFrames: use.dissolve } : null,
      speed: use.speed ?? normalSpeed,
      notes: [],
      location: '',
      ...(use.fadeOut && { fadeOut: { kind: 'dissolve', wipeCode: null, durationFrames: use.fadeOut } }),
      ...(use.isDisabled && { isDisabled: true }),
      ...(use.scalePercent && { fit: { scalePercent: use.scalePercent, offset: null } }),
    }
  })
  const names = [...new Set(uses.map((use) => use.track))]
  return {
    name,
    rate: cutRate,
    dropFrame: false,
    tracks: names.map((track) => ({ name: track, kind: track.startsWith('V') ? 'picture' : 'sound' })),
    events,
  }
}

const millUses: readonly Use[] = [
  {
    track: 'V1',
    clipName: 'A001C001_1104.mov',
    reel: 'A001',
    path: `${officeMedia}/A001/CLIPS/A001C001_1104.mov`,
    start: '09:14:03:00',
    frames: 60,
  },
  {
    track: 'V1',
    clipName: 'B001C001_proxy.mov',
    reel: 'B001',
    path: `${officeProxies}/from%20set/B001C001_proxy.mov`,
    start: '09:14:04:00',
    frames: 75,
  },
  {
    track: 'V1',
    clipName: 'B001C002.mov',
    reel: 'B001',
    path: `${officeMedia}/TIDE-1/day%201/B001/B001C002.mov`,
    start: '09:22:01:00',
    frames: 50,
  },
  {
    track: 'V1',
    clipName: 'DR01_0007.mov',
    reel: 'DR01',
    path: `${officeMedia}/TIDE-1/drone/DR01_0007.mov`,
    start: '12:59:59;00',
    frames: 90,
    sourceRate: rate(30000, 1001),
    drop: true,
  },
  {
    track: 'V1',
    clipName: 'B001C003_proxy.mov',
    reel: 'B001',
    path: `${officeProxies}/from%20set/B001C003_proxy.mov`,
    start: '09:34:02:00',
    frames: 80,
  },
  {
    track: 'V1',
    clipName: 'A002C001_1105.mov',
    reel: 'A002',
    path: `${officeMedia}/A002/CLIPS/A002C001_1105.mov`,
    start: '10:02:12:00',
    frames: 30,
  },
  {
    track: 'V1',
    clipName: 'A001C004_1104_proxy.mov',
    reel: 'A001',
    path: `${officeProxies}/from%20set/A001C004_1104_proxy.mov`,
    start: '09:41:18:05',
    frames: 40,
  },
  {
    track: 'V1',
    clipName: 'R07_wheel_1961.mov',
    reel: 'R07',
    path: `${officeMedia}/TIDE-1/archive/R07_wheel_1961.mov`,
    start: '01:00:01:00',
    frames: 50,
  },
  { track: 'V1', clipName: 'B002C001.mov', reel: 'B002', path: null, start: '11:00:03:00', frames: 50 },
  {
    track: 'A1',
    clipName: 'LW_12A_T1.wav',
    reel: null,
    path: `${officeMedia}/MIX-01/LW_12A_T1.wav`,
    start: '09:14:03:00',
    frames: 135,
  },
  {
    track: 'A1',
    clipName: 'LW_12A_T2.wav',
    reel: null,
    path: `${officeMedia}/MIX-01/LW_12A_T2.wav`,
    start: '09:22:01:00',
    frames: 175,
  },
]

const millScene = assemble('Low Water, mill scene, version 2', millUses)

/** The same scene a day later, from a room whose sequence stands in the raster of its proxies. */
function nextMillScene(): Cut {
  const [first, second, third, drone, fourth, reverse, fifth, archive, pickup, ...sound] = millUses as [
    ...[Use, Use, Use, Use, Use, Use, Use, Use, Use],
    ...Use[],
  ]
  const insert: Use = { ...third, start: '09:22:03:00', frames: 25 }
  const cut = assemble('Low Water, mill scene, version 3', [
    insert,
    first,
    { ...second, frames: 60 },
    third,
    drone,
    { ...fourth, dissolve: 12, scalePercent: 110 },
    { ...reverse, isDisabled: true },
    { ...fifth, speed: { numerator: 1, denominator: 2 }, frames: 20, recordFrames: 40 },
    { ...archive, start: '01:00:00:10', fadeOut: 25 },
    pickup,
    ...sound,
  ])
  const recordStart = parseTimecode('10:00:00:00', cutRate)
  return {
    ...cut,
    recordStartFrame: recordStart,
    raster: { width: 960, height: 540 },
    markers: [
      { recordFrame: recordStart + 25, durationFrames: 0, name: 'Wheel turns', note: 'sound follows' },
      { recordFrame: recordStart + 300, durationFrames: 0, name: 'Tide', note: 'a wider one was shot on day 2' },
    ],
  }
}

const reelOne = assemble('Low Water, reel 1, version 5', [
  { track: 'V1', clipName: 'A001C001_1104.mov', reel: 'A001', path: null, start: '09:14:03:00', frames: 50 },
  {
    track: 'V1',
    clipName: 'B001C001.mov',
    reel: 'B001',
    path: `${laptopMedia}/day 1/B001/B001C001.mov`,
    start: '09:14:04:00',
    frames: 60,
  },
  {
    track: 'V1',
    clipName: 'B001C003.mov',
    reel: 'B001',
    path: `${laptopMedia}/day 1/B001/B001C003.mov`,
    start: '09:34:01:00',
    frames: 70,
    dissolve: 12,
  },
  {
    track: 'V1',
    clipName: 'B001C004.mov',
    reel: null,
    path: `${laptopMedia}/day 1/B001/B001C004.mov`,
    start: '09:50:02:00',
    frames: 52,
  },
  { track: 'V1', clipName: 'A002C002_1105.mov', reel: 'A002', path: null, start: '10:10:00:10', frames: 40 },
  { track: 'V1', clipName: 'C001C009.mov', reel: 'C001', path: null, start: '14:20:01:00', frames: 50 },
  {
    track: 'V1',
    clipName: 'B001C002.mov',
    reel: 'B001',
    path: `${laptopMedia}/day 1/B001/B001C002.mov`,
    start: '09:22:02:00',
    frames: 60,
  },
  {
    track: 'A1',
    clipName: 'LW_13_T1.wav',
    reel: null,
    path: '/Volumes/MIX-01/LW_13_T1.wav',
    start: '09:34:01:00',
    frames: 150,
  },
])

const exports = [
  {
    fileName: 'Low Water mill scene v2.otio',
    about: 'Cut on proxies in the office: paths on drive P, a card missing, a moved original',
    text: () => otio.write(millScene),
  },
  {
    fileName: 'Low Water mill scene v3.xml',
    about: 'The next version of the mill scene, a day later: an insert, a trim, a retime, a sequence at proxy size',
    text: () => xmeml.write(nextMillScene()),
  },
  {
    fileName: 'Low Water reel 1 v5.edl',
    about: 'Cut on a laptop: reels and mounts of another system, a pickup that nobody scanned',
    text: () => edl.write(reelOne),
  },
]

export interface ReadyCut {
  readonly fileName: string
  readonly about: string
}

const cutsFolder = (demoFolder: string): string => join(demoFolder, 'cutting room')

/** Writes the lists as the cutting room exports them. */
export async function exportCuts(demoFolder: string): Promise<void> {
  await mkdir(cutsFolder(demoFolder), { recursive: true })
  for (const cut of exports) await writeFile(join(cutsFolder(demoFolder), cut.fileName), cut.text())
}

/** The exports that are there to be read; none without a demo. */
export async function readyCuts(demoFolder: string): Promise<ReadyCut[]> {
  const names = new Set(await readdir(cutsFolder(demoFolder)).catch(() => [] as string[]))
  return exports.filter((cut) => names.has(cut.fileName)).map(({ fileName, about }) => ({ fileName, about }))
}

export const readReadyCut = (demoFolder: string, fileName: string): Promise<string> =>
  readFile(join(cutsFolder(demoFolder), fileName), 'utf8')
