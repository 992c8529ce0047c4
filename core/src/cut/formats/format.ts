import type { Rate } from '../../time/index.ts'
import type { Cut } from '../model.ts'

export interface ReadOptions {
  /** The rate at which to count, for lists that do not state one. */
  readonly rate: Rate
  /** Used as the cut's name where the list has none. */
  readonly fileName: string
  /** Takes the good events of a list that has faults, and tells the bad ones in `leftOut`. */
  readonly takeGood?: boolean
}

export interface WriteOptions {
  /** Reels in the field of an EDL: whole, or cut to the eight characters that CMX 3600 has. */
  readonly edlReels?: 'whole' | 'eight characters'
  /** The version of timeline XML. */
  readonly xmemlVersion?: 4 | 5
}

export type CutFormatId = 'edl' | 'otio' | 'xmeml'

/** A reader of a format that is no text, and that is not written. */
export interface BinaryCutFormat {
  readonly id: 'aaf'
  readonly name: string
  readonly extension: string
  /** Whether a file is of this format, by its first bytes. */
  recognises(bytes: Uint8Array): boolean
  /** @throws CutFormatError with the places of all faults; nothing is read in halves unless that is wanted. */
  read(bytes: Uint8Array, options: ReadOptions): Cut
}

/** Something that stands under another name in what was written. */
export interface Replaced {
  readonly what: 'reel' | 'event number'
  readonly from: string
  readonly to: string
}

/** A reader and writer of one open format of cuts. */
export interface CutFormat {
  readonly id: CutFormatId
  readonly name: string
  readonly extension: string
  /** Whether a file looks like this format, by its name and its first characters. */
  recognises(fileName: string, text: string): boolean
  /** @throws CutFormatError with the lines or paths of all faults; nothing is read in halves unless that is wanted. */
  read(text: string, options: ReadOptions): Cut
  /** @throws CutFormatError for what the format cannot say. */
  write(cut: Cut, options?: WriteOptions): string
  /** What stands under another name in what `write` writes. */
  replaced(cut: Cut, options?: WriteOptions): Replaced[]
}
