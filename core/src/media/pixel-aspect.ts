import { displayAspect, type MediaFacts, type PictureFacts, type PixelAspect } from './facts.ts'

/** Wider or narrower pixels than four times are a slip of the pen. */
const widest = 4

/**
 * Reads a pixel aspect as a person writes it: "2:1", "4/3", "1.33", "square". Decimals are taken as they are written.
 * @returns in lowest terms; null where it is none, or beyond 4:1 and 1:4
 */
export function readPixelAspect(text: string): PixelAspect | null {
  const word = text.trim().toLowerCase()
  if (word === 'square') return { numerator: 1, denominator: 1 }
  const parts = /^(\d{1,5})(?:[.,](\d{1,4}))?(?:\s*[:/x×]\s*(\d{1,5})(?:[.,](\d{1,4}))?)?$/.exec(word)
  if (!parts) return null
  const [, whole = '0', part = '', under = '1', underPart = ''] = parts
  const numerator = Number(whole + part) * 10 ** underPart.length
  const denominator = Number(under + underPart) * 10 ** part.length
  if (numerator === 0 || denominator === 0 || numerator > widest * denominator || denominator > widest * numerator)
    return null
  const by = greatestDivisor(numerator, denominator)
  return { numerator: numerator / by, denominator: denominator / by }
}

const greatestDivisor = (a: number, b: number): number => (b === 0 ? a : greatestDivisor(b, a % b))

/** A pixel aspect in words: "square", "2:1". */
export const describePixelAspect = ({ numerator, denominator }: PixelAspect): string =>
  numerator === denominator ? 'square' : `${numerator}:${denominator}`

const isSame = (a: PixelAspect, b: PixelAspect): boolean => a.numerator * b.denominator === b.numerator * a.denominator

/** The facts of a file whose pixels a person says to be of another shape than the file says; itself where it agrees. */
export function withPixelAspect(facts: MediaFacts, said: PixelAspect | null): MediaFacts {
  const { picture } = facts
  if (!picture || said === null || isSame(said, picture.pixelAspect)) return facts
  return { ...facts, picture: { ...picture, pixelAspect: said, toldPixelAspect: picture.pixelAspect } }
}

/** Square, and the squeezes of lenses that are sold for cameras. */
const usual = ['square', '4:3', '3:2', '9:5', '2:1']
/** Of standard definition, for pictures of 4:3 and of 16:9 over the whole raster (ITU-R BT.601: 720 samples a line). */
const ofLines: Readonly<Record<number, readonly string[]>> = { 576: ['16:15', '64:45'], 480: ['8:9', '32:27'] }

/** A picture under a pixel aspect that it may have. */
export interface PixelShape {
  readonly aspect: string
  readonly isTold: boolean
  readonly isNow: boolean
  /** What it is shown as, upright. */
  readonly shown: { readonly width: number; readonly height: number }
}

/** The pixel aspects that a picture may have, the one that its file says first, to be compared by eye. */
export function pixelShapes(picture: PictureFacts): PixelShape[] {
  const told = describePixelAspect(picture.toldPixelAspect ?? picture.pixelAspect)
  const now = describePixelAspect(picture.pixelAspect)
  const more = picture.width === 720 ? (ofLines[picture.height] ?? []) : []
  return [...new Set([told, now, ...more, ...usual])].map((aspect) => {
    const shown = displayAspect({ ...picture, pixelAspect: readPixelAspect(aspect) ?? picture.pixelAspect })
    return {
      ...{ aspect, isTold: aspect === told, isNow: aspect === now },
      shown: { width: shown.numerator, height: shown.denominator },
    }
  })
}
