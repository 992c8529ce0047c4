import { type Cut, CutFormatError } from '../model.ts'
import { type Loss, lossesOf } from './carries.ts'
import type { CutFormat, CutFormatId, Replaced, WriteOptions } from './format.ts'
import { writeProven } from './prove.ts'

/** A cut in one format, with what that does not say as it is. */
export interface WrittenList {
  readonly format: CutFormatId
  readonly name: string
  readonly extension: string
  /** Null where the format cannot say the cut. */
  readonly text: string | null
  readonly reason: string | null
  readonly losses: readonly Loss[]
  readonly replaced: readonly Replaced[]
}

/** Writes a cut in every format, each proven by reading it again. */
export const writeInAll = (cut: Cut, formats: readonly CutFormat[], options: WriteOptions): WrittenList[] =>
  formats.map((format): WrittenList => {
    const { id, name, extension } = format
    const list = { format: id, name, extension, losses: lossesOf(cut, id) }
    try {
      const text = writeProven(cut, format, options)
      return { ...list, text, reason: null, replaced: format.replaced(cut, options) }
    } catch (error) {
      if (!(error instanceof CutFormatError)) throw error
      return { ...list, text: null, reason: error.message, replaced: [] }
    }
  })
