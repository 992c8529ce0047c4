import type { PictureFacts, SoundFacts } from './facts.ts'

const codecNames: Record<string, string> = {
  h264: 'H.264',
  hevc: 'H.265',
  prores: 'ProRes',
  dnxhd: 'VC-3',
  mjpeg: 'MJPEG',
  mpeg1video: 'MPEG-1',
  mpeg2video: 'MPEG-2',
  mpeg4: 'MPEG-4 part 2',
  dvvideo: 'DV',
  jpeg2000: 'JPEG 2000',
  cfhd: 'VC-5',
  vc1: 'VC-1',
  ffv1: 'FFV1',
  vp8: 'VP8',
  vp9: 'VP9',
  av1: 'AV1',
  rawvideo: 'uncompressed',
  v210: 'uncompressed 10 bit',
  qtrle: 'run-length',
  png: 'PNG',
  tiff: 'TIFF',
  dpx: 'DPX',
  aac: 'AAC',
  ac3: 'AC-3',
  eac3: 'E-AC-3',
  mp2: 'MPEG layer 2',
  opus: 'Opus',
  vorbis: 'Vorbis',
}

/** Codecs whose profile is a choice of quality that people ask for; elsewhere it says how a decoder must be built. */
const profileMatters = new Set(['prores', 'dnxhd'])

/**
 * The trade's name of a picture codec, with its profile where that is its quality: "ProRes Proxy", "VC-3 DNXHR LB",
 * "H.264".
 */
export function describePictureCodec(picture: Pick<PictureFacts, 'codec' | 'profile'>): string {
  const name = codecNames[picture.codec] ?? picture.codec.toUpperCase()
  if (!picture.profile || !profileMatters.has(picture.codec)) return name
  return picture.profile.toLowerCase() === 'standard' ? name : `${name} ${picture.profile}`
}

/** Whether a picture has an alpha channel, by the encoder's name of its samples' layout. */
export const hasAlpha = (pixelFormat: string | null): boolean =>
  /^(yuva|gbrap|rgba|argb|bgra|abgr|ya\d|pal8)/.test(pixelFormat ?? '')

/** "PCM 24 bit 48 kHz", "AAC 48 kHz". */
export function describeSoundCodec(sound: SoundFacts): string {
  const name = sound.codec.startsWith('pcm_') ? 'PCM' : (codecNames[sound.codec] ?? sound.codec.toUpperCase())
  const depth = sound.codec.startsWith('pcm_') && sound.bitDepth ? ` ${sound.bitDepth} bit` : ''
  return `${name}${depth} ${sound.sampleRate / 1000} kHz`
}
