import { type Rate, rate, type Target, targetKinds } from '@ennick/core'

/** The made-up production that the demo shows: people, places, reels and names are invented. */
export const production = { name: 'Low Water', rate: rate(25), width: 1920, height: 1080 } as const

/** The room that cuts it, which links to files. */
export const target: Target = {
  ...(targetKinds.find(({ purpose }) => purpose === 'cutting, one file per clip') as Target),
  name: 'The sail loft, cutting',
  bringIn: 'Copy the folder to the loft’s storage and link to it there; nothing is moved afterwards.',
}

export interface DemoVolume {
  readonly slot: string
  readonly label: string
  readonly kind: 'card' | 'drive' | 'recorder'
}

export const demoVolumes: readonly DemoVolume[] = [
  { slot: 'A001', label: 'A001', kind: 'card' },
  { slot: 'A002', label: 'A002', kind: 'card' },
  { slot: 'TIDE-1', label: 'TIDE-1', kind: 'drive' },
  { slot: 'MIX-01', label: 'MIX-01', kind: 'recorder' },
]

/** Volumes of the demo that lie beside the bay: storage to offload to, and the folder that camera B uploads into. */
export const demoFolders: readonly {
  readonly folder: string
  readonly label: string
  readonly kind: 'drive' | 'upload'
}[] = [
  { folder: 'storage', label: 'MILL-RAID', kind: 'drive' },
  { folder: 'uploads', label: 'UPLINK', kind: 'upload' },
]

/** Where what is for finishing goes; proxies go to the production's own folder. */
export const finishingFolder = 'finishing'

/** Colours of a picture: sky above, sky at the horizon, water, sun. */
type Palette = readonly [string, string, string, string]

const dawn: Palette = ['0x2b3a55', '0xd9a27c', '0x2f5058', '0xf6e3b4']
const noon: Palette = ['0x6f9fb8', '0xdfe7dd', '0x3c6f73', '0xfff6d8']
const dusk: Palette = ['0x3b2f4a', '0xc9745a', '0x2a3f4f', '0xf2c078']
const mist: Palette = ['0x9aa9ad', '0xd7d8cf', '0x5f7d80', '0xf4f1e4']
const night: Palette = ['0x10182a', '0x33415c', '0x18303a', '0xd7dce8']

export interface PictureClip {
  readonly kind: 'picture'
  /** Below the demo's root. */
  readonly path: string
  readonly slate: string
  readonly width: number
  readonly height: number
  readonly pixelAspect: number
  readonly rate: Rate
  readonly drop: boolean
  readonly start: string
  readonly frames: number
  readonly reel: string | null
  readonly channels: number
  readonly log: boolean
  readonly codec: 'h264' | 'prores' | 'mjpeg'
  readonly palette: Palette
  /** By how much its timecode is ahead of the recorder's; it hears the set when it really was. */
  readonly aheadSeconds?: number
}

/** Numbered stills. */
export interface StillsClip {
  readonly kind: 'stills'
  /** The folder, and the names as the encoder writes them. */
  readonly path: string
  readonly slate: string
  readonly width: number
  readonly height: number
  readonly stills: number
  /** Numbers that are missing. */
  readonly missing: readonly number[]
  readonly palette: Palette
}

export interface SoundClip {
  readonly kind: 'sound'
  readonly path: string
  readonly channels: number
  readonly samples: number
  /** Samples since midnight, when the recorder wrote them. */
  readonly timeReference: number | null
  readonly description: string
  /** What the recorder wrote into its iXML chunk; null when it wrote none. */
  readonly notes: SoundNotes | null
}

export interface SoundNotes {
  readonly scene: string
  readonly take: string
  readonly circled: boolean
  readonly note: string
  readonly tracks: readonly string[]
}

export type DemoClip = PictureClip | SoundClip | StillsClip

const base = {
  kind: 'picture',
  width: 1920,
  height: 1080,
  pixelAspect: 1,
  rate: rate(25),
  drop: false,
  log: false,
  codec: 'h264',
} as const

const cameraA = (path: string, start: string, frames: number, palette: Palette): PictureClip => ({
  ...base,
  path,
  slate: path.replace(/^.*\/|\.mov$/g, ''),
  width: 3840,
  height: 2160,
  start,
  frames,
  reel: path.includes('A002') ? 'A002' : 'A001',
  channels: 4,
  log: true,
  palette,
})

const cameraB = (
  path: string,
  start: string,
  frames: number,
  palette: Palette,
  extra: Partial<PictureClip> = {},
): PictureClip => ({
  ...base,
  path,
  slate: path.replace(/^.*\/|\.mov$/g, ''),
  start,
  frames,
  reel: path.includes('/B002/') ? 'B002' : 'B001',
  channels: 2,
  palette,
  ...extra,
})

const smallB = { width: 1280, height: 720, codec: 'mjpeg' } as const
const tinyB = { width: 480, height: 270, codec: 'h264' } as const

const secondsAfterNine = (seconds: number): number => (9 * 3600 + seconds) * 48_000

/** Every original, and what lies on the shelf beside them. */
export const demoClips: readonly DemoClip[] = [
  cameraA('bay/A001/CLIPS/A001C001_1104.mov', '09:14:02:10', 75, dawn),
  cameraA('bay/A001/CLIPS/A001C002_1104.mov', '09:21:40:00', 75, mist),
  cameraA('bay/A001/CLIPS/A001C003_1104.mov', '09:33:05:12', 50, noon),
  cameraA('bay/A001/CLIPS/A001C004_1104.mov', '09:41:18:00', 50, dusk),
  cameraA('bay/A002/CLIPS/A002C001_1105.mov', '10:02:11:05', 50, dusk),
  cameraA('bay/A002/CLIPS/A002C002_1105.mov', '10:10:00:00', 50, night),
  cameraB('bay/TIDE-1/day 1/B001/B001C001.mov', '09:14:03:00', 150, dawn),
  cameraB('bay/TIDE-1/day 1/B001/B001C002.mov', '09:22:00:00', 150, mist),
  cameraB('bay/TIDE-1/day 1/B001/B001C003.mov', '09:34:00:00', 150, noon),
  cameraB('bay/TIDE-1/day 1/B001/B001C004.mov', '09:50:00:00', 100, noon, { reel: null, channels: 0, codec: 'mjpeg' }),
  // Whoever put this card in set the clock by a phone that was an hour ahead.
  cameraB('bay/TIDE-1/day 1/B003/B003C001.mov', '10:14:04:06', 100, dawn, { reel: 'B003', aheadSeconds: 3600 }),
  cameraB('bay/TIDE-1/day 1/B003/B003C002.mov', '10:34:03:00', 100, noon, { reel: 'B003', aheadSeconds: 3600 }),
  // Its microphone was unplugged: only its timecode, put right, says where its sound is.
  cameraB('bay/TIDE-1/day 1/B003/B003C003.mov', '10:22:01:00', 100, mist, { reel: 'B003', channels: 0 }),
  cameraB('bay/TIDE-1/day 1/B002/B002C001.mov', '11:00:00:00', 150, dusk),
  cameraB('bay/TIDE-1/day 2/B002/B002C001.mov', '11:00:02:00', 150, night),
  {
    ...base,
    path: 'bay/TIDE-1/drone/DR01_0007.mov',
    slate: 'DR01_0007',
    rate: rate(30000, 1001),
    drop: true,
    start: '12:59:58;00',
    frames: 180,
    reel: 'DR01',
    channels: 0,
    palette: noon,
  },
  {
    ...base,
    path: 'bay/TIDE-1/archive/R07_wheel_1961.mov',
    slate: 'R07 wheel 1961',
    width: 960,
    pixelAspect: 2,
    start: '01:00:00:00',
    frames: 125,
    reel: 'R07',
    channels: 1,
    codec: 'prores',
    palette: mist,
  },
  {
    ...base,
    path: 'bay/TIDE-1/stills/tide table.png',
    slate: 'Tide table',
    start: '00:00:00:00',
    frames: 1,
    reel: null,
    channels: 0,
    palette: mist,
  },
  {
    kind: 'sound',
    path: 'bay/TIDE-1/music/Ebb cue 1.wav',
    channels: 2,
    samples: 12 * 48_000,
    timeReference: null,
    description: 'Ebb, cue 1: harmonium and water',
    notes: null,
  },
  {
    kind: 'sound',
    path: 'bay/MIX-01/LW_12A_T1.wav',
    channels: 4,
    samples: 10 * 48_000,
    timeReference: secondsAfterNine(14 * 60),
    description: 'Low Water, the mill, scene 12A take 1',
    notes: {
      scene: '12A',
      take: '1',
      circled: true,
      note: 'gulls in the second half',
      tracks: ['MIX', 'BOOM', 'INES', 'MILLER'],
    },
  },
  // 768 samples less than eight seconds: four tenths of a frame at 25.
  {
    kind: 'sound',
    path: 'bay/MIX-01/LW_12A_T2.wav',
    channels: 4,
    samples: 8 * 48_000 - 768,
    timeReference: secondsAfterNine(22 * 60),
    description: 'Low Water, the mill, scene 12A take 2',
    notes: {
      scene: '12A',
      take: '2',
      circled: false,
      note: 'ends early: battery',
      tracks: ['MIX', 'BOOM', 'INES', 'MILLER'],
    },
  },
  {
    kind: 'sound',
    path: 'bay/MIX-01/LW_13_T1.wav',
    channels: 4,
    samples: 9 * 48_000,
    timeReference: secondsAfterNine(34 * 60),
    description: 'Low Water, the mill, scene 13 take 1',
    notes: { scene: '13', take: '1', circled: true, note: '', tracks: ['MIX', 'BOOM', 'INES', 'MILLER'] },
  },
  // A take that the camera spread over three files.
  ...['09:10:00:00', '09:10:01:15', '09:10:03:05'].map((start, index) => ({
    ...cameraB(`bay/TIDE-1/day 2/B004/B004C001_${index + 1}.mov`, start, index === 2 ? 25 : 40, mist, {
      ...smallB,
      reel: 'B004',
    }),
    slate: 'B004C001',
  })),
  // An original with the small proxy that the camera made beside it.
  cameraB('bay/TIDE-1/day 2/B004/B004C002.mov', '09:31:00:00', 50, dawn, { ...smallB, reel: 'B004' }),
  cameraB('bay/TIDE-1/day 2/B004/SUB/B004C002.mov', '09:31:00:00', 50, dawn, { ...tinyB, reel: 'B004' }),
  {
    kind: 'stills',
    path: 'bay/TIDE-1/day 3/mist over the pond/LW_mist_%04d.jpg',
    slate: 'Mist over the pond',
    width: 960,
    height: 540,
    stills: 60,
    missing: [21, 22],
    palette: mist,
  },
  // A card whose counter began anew: its file has the name of one on A001.
  {
    ...cameraB('.bag/A003/CLIPS/A001C002_1104.mov', '15:20:00:00', 50, dusk, { ...smallB, reel: 'A003' }),
    slate: 'A003, clip 2',
  },
  cameraB('.bag/B003/CLIPS/B003C001.mov', '13:05:00:00', 50, noon, { ...smallB, reel: 'B003' }),
  cameraB('.bag/B003/CLIPS/B003C002.mov', '13:12:00:00', 50, dusk, { ...smallB, reel: 'B003' }),
  cameraB('.camera/B003C001_proxy.mov', '13:05:00:00', 50, noon, { ...tinyB, reel: 'B003' }),
  cameraB('.camera/B003C002_proxy.mov', '13:12:00:00', 50, dusk, { ...tinyB, reel: 'B003' }),
  { ...cameraB('shelf/phone pickups/C001C009.mov', '14:20:00:00', 100, night, { reel: 'C001' }), slate: 'C001C009' },
  { ...cameraB('shelf/old project/A001C004_1104.mov', '17:05:00:00', 50, dawn, { reel: 'A001' }), slate: 'not ours' },
]

/** A proxy that was made on set before Ennick came: some are sound, some have the faults that such proxies have. */
export interface SetProxy {
  readonly original: string
  /** Below the place of made files. */
  readonly path: string
  readonly fault: 'one frame short' | 'another rate' | null
}

export const setProxies: readonly SetProxy[] = [
  { original: 'bay/A001/CLIPS/A001C004_1104.mov', path: 'from set/A001C004_1104_proxy.mov', fault: null },
  { original: 'bay/TIDE-1/day 1/B001/B001C001.mov', path: 'from set/B001C001_proxy.mov', fault: null },
  { original: 'bay/TIDE-1/day 1/B001/B001C003.mov', path: 'from set/B001C003_proxy.mov', fault: 'one frame short' },
  { original: 'bay/TIDE-1/day 1/B001/B001C004.mov', path: 'from set/B001C004_proxy.mov', fault: 'another rate' },
]
