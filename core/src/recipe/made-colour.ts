import type { PictureFacts } from '../media/index.ts'
import type { ColourTags } from '../proof/index.ts'
import { codecTraits, isRgb } from './codec.ts'
import type { EncodePlan } from './plan.ts'

/** What HD is tagged with (ITU-R BT.709; ITU-T H.273, tables 2 to 4, value 1). */
const hdColour: ColourTags = { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709' }

/** Whether a plan makes colour differences out of red, green and blue: nothing says by which matrix, so it is HD's. */
export const leavesRgb = ({ facts, recipe }: EncodePlan): boolean => {
  const picture = facts.picture as PictureFacts
  return isRgb(picture) && codecTraits[recipe.codec].pixelFormat(picture).startsWith('yuv')
}

/** The colour tags that a made picture has: its original's, or after a viewing LUT those of HD. */
export function madeColour(plan: EncodePlan): ColourTags {
  const { colour } = plan.facts.picture as PictureFacts
  if (plan.method !== 'encode') return colour
  if (plan.viewingLut !== null) return hdColour
  if (leavesRgb(plan)) return { ...colour, matrix: hdColour.matrix }
  // ProRes knows one of two names for the same coefficients (ITU-T H.273, table 4, values 5 and 6).
  return plan.recipe.codec.startsWith('prores') && colour.matrix === 'bt470bg'
    ? { ...colour, matrix: 'smpte170m' }
    : colour
}

/** The encoder reads some tags under another name than that under which the probe tells them. */
const encoderNames: Readonly<Record<keyof ColourTags, Readonly<Record<string, string>>>> = {
  primaries: {},
  transfer: { bt470m: 'gamma22', bt470bg: 'gamma28' },
  matrix: { gbr: 'rgb' },
}

/** The encoder's words for colour tags. */
export function colourArguments(colour: ColourTags): string[] {
  const options = { primaries: '-color_primaries', transfer: '-color_trc', matrix: '-colorspace' } as const
  return (['primaries', 'transfer', 'matrix'] as const).flatMap((kind) => {
    const tag = colour[kind]
    return tag === null ? [] : [options[kind], encoderNames[kind][tag] ?? tag]
  })
}
