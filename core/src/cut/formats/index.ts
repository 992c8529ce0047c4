import { CutFormatError } from '../model.ts'
import { edl } from './edl/read-edl.ts'
import type { CutFormat } from './format.ts'
import { otio } from './otio/read-otio.ts'
import { xmeml } from './xmeml/read-xmeml.ts'

export { asCarried, type FeatureOfFormats, formatFeatures, type Loss, lossesOf } from './carries.ts'
export type { CutFormat, CutFormatId, ReadOptions, Replaced, WriteOptions } from './format.ts'
export { writeProven } from './prove.ts'
export { type WrittenList, writeInAll } from './write-all.ts'
export { edl, otio, xmeml }

export const cutFormats: readonly CutFormat[] = [otio, xmeml, edl]

/**
 * Finds the reader for a file.
 * @throws CutFormatError when no format recognises it.
 */
export function recogniseCutFormat(fileName: string, text: string): CutFormat {
  const format = cutFormats.find((candidate) => candidate.recognises(fileName, text))
  if (!format)
    throw new CutFormatError(
      fileName,
      `it is none of the formats that are read here: ${cutFormats.map((candidate) => candidate.name).join(', ')}.`,
    )
  return format
}
