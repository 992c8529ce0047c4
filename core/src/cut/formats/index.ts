import { CutFormatError } from '../model.ts'
import { edl } from './edl.ts'
import type { CutFormat } from './format.ts'
import { otio } from './otio.ts'

export type { CutFormat, ReadOptions } from './format.ts'
export { edl, otio }

export const cutFormats: readonly CutFormat[] = [otio, edl]

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
