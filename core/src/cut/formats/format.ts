import type { Rate } from '../../time/index.ts'
import type { Cut } from '../model.ts'

export interface ReadOptions {
  /** The rate at which to count, for lists that do not state one. */
  readonly rate: Rate
  /** Used as the cut's name where the list has none. */
  readonly fileName: string
}

/** A reader and writer of one open format of cuts. */
export interface CutFormat {
  readonly id: 'edl' | 'otio'
  readonly name: string
  readonly extension: string
  /** Whether a file looks like this format, by its name and its first characters. */
  recognises(fileName: string, text: string): boolean
  /** @throws CutFormatError with the line or path of the first fault; nothing is read in halves. */
  read(text: string, options: ReadOptions): Cut
  /** @throws CutFormatError for what the format cannot say. */
  write(cut: Cut): string
}
