import type { MediaFacts } from '../media/index.ts'
import { codecTraits } from './codec.ts'
import { containerBytes } from './container-size.ts'
import { typicalBits } from './quality.ts'
import { madeRaster } from './raster.ts'
import type { ProductionFormat, Recipe } from './recipe.ts'
import { type PlannedTrack, planTracks } from './tracks.ts'

/**
 * Bytes that a made item will take: `exact` to a thousandth for codecs whose frames are all alike, `sampled` from parts
 * of originals that were encoded, or a rough guide from typical pictures.
 */
export interface SizeEstimate {
  readonly bytes: number
  readonly basis: 'exact' | 'sampled' | 'typical'
}

/** Bits a second of a compressed stream, as the encoder here makes it for listening. */
const compressedBitsPerSecond = ({ container }: Recipe, channels: number): number =>
  container === 'webm' ? 64_000 : 69_000 * channels

/** Bytes that one PCM sample of a stream takes in what a recipe makes. */
export const pcmBytes = (recipe: Recipe, bitDepth: number | null): 2 | 3 =>
  recipe.sound === 'pcm 16' ? 2 : recipe.sound === 'pcm 24' ? 3 : (bitDepth ?? 16) > 16 ? 3 : 2

/**
 * What a recipe will make of one original, in bytes; null when it makes nothing of it.
 * @param sampledBits bits that each pixel of its pictures took where parts of originals were encoded, or null
 */
export function estimateSize(
  facts: MediaFacts,
  recipe: Recipe,
  format: ProductionFormat,
  sampledBits: number | null = null,
): SizeEstimate | null {
  if (!facts.picture) return null
  const { frames } = facts.picture
  const raster = madeRaster(facts.picture, recipe, format)
  const traits = codecTraits[recipe.codec]
  const bits = typicalBits(traits.typicalBitsPerPixel, recipe.quality, { ...raster, rate: facts.picture.rate })
  const constant = traits.frameBytes(raster.width, raster.height)
  const picture = constant ?? (raster.width * raster.height * (sampledBits ?? bits)) / 8
  const tracks = planTracks(facts, recipe.tracks)
  const bytesOfTrack = tracks.map((track) => soundBytes(recipe, track))
  // MXF keeps a stream for each channel in a file of its own there.
  const streams =
    recipe.container === 'mxf-op-atom'
      ? tracks.flatMap((track, index) => track.of.map(() => (bytesOfTrack[index] as number) / track.channels / frames))
      : bytesOfTrack.map((bytes) => bytes / frames)
  const essence = frames * picture + bytesOfTrack.reduce((sum, bytes) => sum + bytes, 0)
  return {
    bytes: Math.round(essence + containerBytes(recipe.container, { frames, picture, sounds: streams })),
    basis:
      constant !== null && recipe.sound !== 'compressed'
        ? 'exact'
        : constant !== null || sampledBits !== null
          ? 'sampled'
          : 'typical',
  }
}

function soundBytes(recipe: Recipe, { samples, channels, bitDepth, sampleRate }: PlannedTrack): number {
  const count = samples ?? 0
  if (recipe.sound === 'compressed') return (count * compressedBitsPerSecond(recipe, channels)) / (8 * sampleRate)
  // MXF takes one rate of samples here.
  const made = recipe.container.startsWith('mxf') ? (count * 48_000) / sampleRate : count
  return made * channels * pcmBytes(recipe, bitDepth)
}
