import { type Cut, CutFormatError } from '../model.ts'
import { isCompoundFile } from './aaf/compound-file.ts'
import { aaf } from './aaf/read-aaf.ts'
import { edl } from './edl/read-edl.ts'
import type { CutFormat, ReadOptions } from './format.ts'
import { otio } from './otio/read-otio.ts'
import { xmeml } from './xmeml/read-xmeml.ts'

export { asCarried, type FeatureOfFormats, formatFeatures, type Loss, lossesOf } from './carries.ts'
export type { BinaryCutFormat, CutFormat, CutFormatId, ReadOptions, Replaced, WriteOptions } from './format.ts'
export { writeProven } from './prove.ts'
export { type WrittenList, writeInAll } from './write-all.ts'
export { aaf, edl, isCompoundFile, otio, xmeml }

/** The formats that are read and written. */
export const cutFormats: readonly CutFormat[] = [otio, xmeml, edl]

/** What a list is made of: text, or the bytes of a format that is none. */
export type ListContent = string | Uint8Array

/**
 * Finds the format of a list that is text.
 * @throws CutFormatError when no format recognises it
 */
export function recogniseCutFormat(fileName: string, text: string): CutFormat {
  const format = cutFormats.find((candidate) => candidate.recognises(fileName, text))
  if (!format) throw notRead(fileName)
  return format
}

/**
 * Reads a list in the format that it is in.
 * @returns the cut, and the name of the format
 * @throws CutFormatError when no format recognises it, or for all that is wrong with it
 */
export function readCutList(content: ListContent, options: ReadOptions): { cut: Cut; format: string } {
  if (typeof content !== 'string') {
    if (!aaf.recognises(content)) throw notRead(options.fileName)
    return { cut: aaf.read(content, options), format: aaf.name }
  }
  const format = recogniseCutFormat(options.fileName, content)
  return { cut: format.read(content, options), format: format.name }
}

function notRead(fileName: string): CutFormatError {
  const names = [...cutFormats, aaf].map(({ name }) => name).join(', ')
  return new CutFormatError(fileName, `it is none of the formats that are read here: ${names}.`)
}
