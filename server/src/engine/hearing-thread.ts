import { closeSync, constants, openSync, readSync } from 'node:fs'
import { type HeardSound, Hearing } from './hearing.ts'
import type { PlainSound } from './plain-sound.ts'
import { SampleReader } from './sample-format.ts'

/** So much is read at once; what lies apart is read together while a quarter of it at least is sound. */
const [pieceBytes, leastOfPiece] = [1_048_576, 0.25]

/**
 * Listens to all of a sound as it lies in its file.
 * @returns null where the file has become shorter
 */
export default ({ path, format, channels, sampleRate, extents }: PlainSound): HeardSound | null => {
  // What is no file any more keeps nobody waiting.
  const file = openSync(path, constants.O_RDONLY | constants.O_NONBLOCK)
  try {
    const hearing = new Hearing(sampleRate)
    const reader = new SampleReader(channels, format)
    const frameBytes = channels * format.bytes
    const window = Buffer.allocUnsafe(pieceBytes)
    const sound = Buffer.allocUnsafe(pieceBytes)
    for (const group of groupsOf(extents, frameBytes)) {
      const [first, last] = [group[0], group.at(-1)] as [Piece, Piece]
      const wanted = last.at + last.bytes - first.at
      let read = 0
      while (read < wanted) {
        const bytes = readSync(file, window, read, wanted - read, first.at + read)
        if (bytes === 0) return null
        read += bytes
      }
      let filled = 0
      for (const { at, bytes } of group) {
        window.copy(sound, filled, at - first.at, at - first.at + bytes)
        filled += bytes
      }
      hearing.take(reader.read(sound.subarray(0, filled)))
    }
    return hearing.finish()
  } finally {
    closeSync(file)
  }
}

type Piece = PlainSound['extents'][number]

/** Extents, cut where they are larger than what is read at once, that are read together. */
function* groupsOf(extents: readonly Piece[], frameBytes: number): Generator<readonly Piece[]> {
  const most = pieceBytes - (pieceBytes % frameBytes)
  let group: Piece[] = []
  let held = 0
  for (const extent of extents)
    for (let from = 0; from < extent.bytes; from += most) {
      const piece = { at: extent.at + from, bytes: Math.min(most, extent.bytes - from) }
      const [first, last] = [group[0], group.at(-1)]
      const span = first ? piece.at + piece.bytes - first.at : 0
      const isNear = last && piece.at >= last.at + last.bytes && span <= pieceBytes
      if (first && !(isNear && held + piece.bytes >= leastOfPiece * span)) {
        yield group
        group = []
        held = 0
      }
      group.push(piece)
      held += piece.bytes
    }
  if (group.length > 0) yield group
}
