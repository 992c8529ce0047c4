import { hasAlpha, type PictureFacts } from '../media/index.ts'
import { nominalFramesPerSecond, type Rate } from '../time/index.ts'
import { heldRate, qualityWords, type RecipeQuality, usualQuality } from './quality.ts'

export const recipeCodecs = [
  'h264-intra',
  'h264-long',
  'vc3-lb',
  'vc3-sq',
  'vc3-hq',
  'vc3-hd',
  'prores-proxy',
  'prores-lt',
  'prores-422',
  'prores-hq',
  'mjpeg',
  'ffv1',
  'vp9',
] as const
export type RecipeCodec = (typeof recipeCodecs)[number]

export const recipeContainers = ['mov', 'mp4', 'mxf-op1a', 'mxf-op-atom', 'mkv', 'webm'] as const
export type RecipeContainer = (typeof recipeContainers)[number]

/** What a codec can do and how the encoder is asked for it. */
export interface CodecTraits {
  readonly label: string
  readonly containers: readonly RecipeContainer[]
  /** Whether every frame stands alone. */
  readonly isIntra: boolean
  readonly words: (rate: Rate, quality: RecipeQuality) => string[]
  /** Whether its quality is a choice; the others have one, or a data rate, of their own. */
  readonly takesQuality: boolean
  readonly pixelFormat: (picture: PictureFacts) => string
  /** Whether its samples keep to the narrow range of video or take all values (ITU-R BT.709, section 3). */
  readonly range: 'tv' | 'pc'
  /** Bytes of every frame, where all are alike; else null. */
  readonly frameBytes: (width: number, height: number) => number | null
  /** The smallest raster that its encoder takes, where it has one. */
  readonly atLeast?: { readonly width: number; readonly height: number }
  /** Bits for each pixel of typical pictures, where frames differ. */
  readonly typicalBitsPerPixel: number
}

/**
 * Bytes of one VC-3 frame of any raster: macroblocks scaled and rounded to the nearest 4096 (SMPTE ST 2019-1, annex on
 * compression ids that take any raster).
 */
export function vc3FrameBytes(scale: number, width: number, height: number): number {
  const macroblocks = Math.ceil(width / 16) * Math.ceil(height / 16)
  return Math.max(8192, Math.floor((Math.floor((macroblocks * scale) / 255) + 2048) / 4096) * 4096)
}

const vc3 = (label: string, profile: string, scale: number): CodecTraits => ({
  label,
  containers: ['mov', 'mxf-op1a', 'mxf-op-atom'],
  isIntra: true,
  words: () => ['-c:v', 'dnxhd', '-profile:v', profile],
  takesQuality: false,
  pixelFormat: () => 'yuv422p',
  range: 'tv',
  frameBytes: (width, height) => vc3FrameBytes(scale, width, height),
  atLeast: { width: 256, height: 120 },
  typicalBitsPerPixel: 0,
})

const proRes = (label: string, profile: number, typicalBitsPerPixel: number): CodecTraits => ({
  label,
  containers: ['mov'],
  isIntra: true,
  words: () => ['-c:v', 'prores', '-profile:v', String(profile)],
  takesQuality: false,
  pixelFormat: () => 'yuv422p10le',
  range: 'tv',
  frameBytes: () => null,
  typicalBitsPerPixel,
})

/**
 * The data rate of the fixed-rate kind by whole frames a second: 1920 × 1080, progressive, 8 bit (SMPTE ST 2019-1,
 * compression id 1253).
 */
const fixedRateMegabits: Readonly<Record<number, number>> = { 24: 36, 25: 36, 30: 45, 50: 75, 60: 90 }
export const takesFixedRate = (rate: Rate): boolean => fixedRateMegabits[nominalFramesPerSecond(rate)] !== undefined
export const fixedRateRaster = { width: 1920, height: 1080 }

/** By a quantiser that is held for the eye, one for each step. */
const h264Quality = (factors: Readonly<Record<'lighter' | 'usual' | 'finer', number>>) =>
  qualityWords(
    {
      lighter: ['-crf', String(factors.lighter)],
      usual: ['-crf', String(factors.usual)],
      finer: ['-crf', String(factors.finer)],
    },
    heldRate,
  )

/** Held to a rate its encoder complains of every picture that is larger: it only aims at it. */
const mjpegQuality = qualityWords(
  { lighter: ['-q:v', '9'], usual: ['-q:v', '4'], finer: ['-q:v', '2'] },
  (kilobits) => ['-b:v', `${kilobits}k`],
)

const vp9Quality = qualityWords(
  {
    lighter: ['-b:v', '0', '-crf', '44'],
    usual: ['-b:v', '0', '-crf', '36'],
    finer: ['-b:v', '0', '-crf', '28'],
  },
  (kilobits) => ['-b:v', `${kilobits}k`],
)

export const codecTraits: Readonly<Record<RecipeCodec, CodecTraits>> = {
  'h264-intra': {
    label: 'H.264, all-intra',
    containers: ['mov', 'mp4'],
    isIntra: true,
    words: (_, quality) => [
      ...['-c:v', 'libx264', '-preset', 'superfast', '-g', '1'],
      ...h264Quality({ lighter: 28, usual: 22, finer: 17 })(quality),
    ],
    takesQuality: true,
    pixelFormat: () => 'yuv420p',
    range: 'tv',
    frameBytes: () => null,
    typicalBitsPerPixel: 0.6,
  },
  'h264-long': {
    label: 'H.264, long GOP',
    containers: ['mp4', 'mov'],
    isIntra: false,
    // No frames out of order: the first frame then stands at zero without an edit list.
    words: (rate, quality) => [
      ...['-c:v', 'libx264', '-preset', 'veryfast', '-bf', '0', '-g', String(2 * nominalFramesPerSecond(rate))],
      ...h264Quality({ lighter: 29, usual: 23, finer: 18 })(quality),
    ],
    takesQuality: true,
    pixelFormat: () => 'yuv420p',
    range: 'tv',
    frameBytes: () => null,
    typicalBitsPerPixel: 0.15,
  },
  'vc3-lb': vc3('VC-3 LB', 'dnxhr_lb', 5888),
  'vc3-sq': vc3('VC-3 SQ', 'dnxhr_sq', 18_944),
  'vc3-hq': vc3('VC-3 HQ', 'dnxhr_hq', 28_672),
  'vc3-hd': {
    ...vc3('VC-3, fixed rate for HD', 'dnxhd', 0),
    words: (rate) => ['-c:v', 'dnxhd', '-b:v', `${fixedRateMegabits[nominalFramesPerSecond(rate)]}M`],
    frameBytes: () => 188_416,
  },
  'prores-proxy': proRes('ProRes Proxy', 0, 0.75),
  'prores-lt': proRes('ProRes LT', 1, 1.8),
  'prores-422': proRes('ProRes 422', 2, 3),
  'prores-hq': proRes('ProRes HQ', 3, 4.5),
  mjpeg: {
    label: 'Motion JPEG',
    containers: ['mov'],
    isIntra: true,
    words: (_, quality) => [...['-c:v', 'mjpeg'], ...mjpegQuality(quality)],
    takesQuality: true,
    pixelFormat: () => 'yuvj422p',
    range: 'pc',
    frameBytes: () => null,
    typicalBitsPerPixel: 0.7,
  },
  ffv1: {
    label: 'FFV1, lossless',
    containers: ['mkv'],
    isIntra: true,
    words: () => ['-c:v', 'ffv1', '-level', '3', '-g', '1', '-slices', '4', '-slicecrc', '1'],
    takesQuality: false,
    pixelFormat: losslessFormat,
    range: 'tv',
    frameBytes: () => null,
    typicalBitsPerPixel: 10,
  },
  vp9: {
    label: 'VP9',
    containers: ['webm'],
    isIntra: false,
    words: (rate, quality) => [
      ...['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-cpu-used', '8', '-row-mt', '1'],
      ...vp9Quality(quality),
      ...['-g', String(2 * nominalFramesPerSecond(rate))],
    ],
    takesQuality: true,
    pixelFormat: () => 'yuv420p',
    range: 'tv',
    frameBytes: () => null,
    typicalBitsPerPixel: 0.1,
  },
}

/** Whether a picture's samples are red, green and blue, or one of each in turn. */
export const isRgb = ({ pixelFormat, colour }: PictureFacts): boolean =>
  colour.matrix === 'gbr' || /^(rgb|bgr|gbr|bayer|argb|abgr|pal8)/.test(pixelFormat ?? '')

/** Whether a codec would leave out the alpha channel that a picture has. */
export const losesAlpha = (codec: RecipeCodec, picture: PictureFacts): boolean =>
  hasAlpha(picture.pixelFormat) && !hasAlpha(codecTraits[codec].pixelFormat(picture))

/** What the encoder calls a codec. */
export const encoderOf = (codec: RecipeCodec): string =>
  codecTraits[codec].words({ numerator: 25, denominator: 1 }, usualQuality)[1] as string

/** The pixel format that loses nothing of an original's samples. */
function losslessFormat(picture: PictureFacts): string {
  const text = picture.pixelFormat ?? ''
  const depth = Number(
    /(?:p|rgb|gray|le|be)(9|10|12|14|16)(?:le|be)?$/.exec(text)?.[1] ?? (/(48|64)(le|be)$/.test(text) ? 16 : 8),
  )
  const ending = depth === 8 ? '' : `${depth <= 10 ? 10 : depth <= 12 ? 12 : 16}le`
  const isClear = hasAlpha(text)
  if (isRgb(picture)) return ending === '' ? (isClear ? 'bgra' : 'gbrp') : `${isClear ? 'gbrap' : 'gbrp'}${ending}`
  // Of grey with alpha its encoder knows 8 bits alone; of colour differences with alpha no 12.
  if (text.startsWith('ya')) return ending === '' ? 'ya8' : 'yuva444p16le'
  if (text.startsWith('gray')) return `gray${ending}`
  const chroma = /4(20|22|44)/.exec(text)?.[0] ?? '422'
  return isClear ? `yuva${chroma}p${ending === '12le' ? '16le' : ending}` : `yuv${chroma}p${ending}`
}

/** The ending of a container's files. */
export const containerExtension: Readonly<Record<RecipeContainer, string>> = {
  mov: '.mov',
  mp4: '.mp4',
  'mxf-op1a': '.mxf',
  'mxf-op-atom': '.mxf',
  mkv: '.mkv',
  webm: '.webm',
}

export const containerLabel: Readonly<Record<RecipeContainer, string>> = {
  mov: 'MOV',
  mp4: 'MP4',
  'mxf-op1a': 'MXF OP1a',
  'mxf-op-atom': 'MXF OP-Atom',
  mkv: 'MKV',
  webm: 'WebM',
}
