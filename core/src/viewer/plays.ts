import { channelCount, type MediaFacts } from '../media/index.ts'

/**
 * Whether browsers play a file as it is: H.264 of 8 bits, 4:2:0, upright and with square pixels, in MOV or MP4, with
 * no more than one sound stream, as a browser lets nobody choose among several. Everything else is rendered for the
 * screen.
 */
export function playsInBrowser(facts: MediaFacts): boolean {
  const { picture, sound, container } = facts
  if (!picture || !/\b(mov|mp4)\b/.test(container)) return false
  const isPlain = picture.rotation === 0 && picture.pixelAspect.numerator === picture.pixelAspect.denominator
  const isPlayable = picture.codec === 'h264' && picture.pixelFormat === 'yuv420p' && !picture.variableRate
  return isPlain && isPlayable && sound.length <= 1 && channelCount(facts) <= 2
}

/** The widest picture that is rendered for the screen. */
const screenWidth = 960

/**
 * The raster of what is rendered for the screen while it plays: no larger than the picture, and even.
 * @param shown how the picture is meant to be seen, with square pixels
 */
export function screenRaster(shown: { readonly width: number; readonly height: number }): {
  width: number
  height: number
} {
  const width = Math.max(2, 2 * Math.floor(Math.min(shown.width, screenWidth) / 2))
  return { width, height: Math.max(2, 2 * Math.round((width * shown.height) / shown.width / 2)) }
}
