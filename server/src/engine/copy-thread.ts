import { closeSync, constants, openSync, readSync, writeSync } from 'node:fs'
import type { HashKind } from '@ennick/core'
import { startHash } from './running-hash.ts'

/** What a thread is asked to do: read a file to its end and hash it, and write what was read to another. */
export interface CopyTask {
  readonly from: string
  /** Must not exist; null only reads. */
  readonly to: string | null
  readonly kind: HashKind
  readonly state: SharedArrayBuffer
  /** Reads from the disk itself and not from what the system remembers of it, where the file system can. */
  readonly isDirect?: boolean
}

/** An error of a file goes from thread to thread in its parts: its code would be lost on the way. */
export type CopyOutcome =
  | { readonly hash: string; readonly wasDirect: boolean }
  | { readonly code: string | undefined; readonly message: string }
  | 'stopped'

/** What both sides see of a running task: the bytes that are done, and one of the orders below. */
export interface CopyState {
  readonly bytes: BigInt64Array<SharedArrayBuffer>
  readonly order: Int32Array<SharedArrayBuffer>
}

export const copyOrders = { go: 0, stop: 1, stand: 2 } as const

export const copyStateBytes = 16
export const viewCopyState = (state: SharedArrayBuffer): CopyState => ({
  bytes: new BigInt64Array(state, 0, 1),
  order: new Int32Array(state, 8, 1),
})

/** Small enough to stay in a core's cache between reading, hashing and writing. */
const pieceBytes = 256 * 1024

/**
 * Memory that begins at a page, as reading past the system's cache needs it; a buffer's own begins anywhere. Memory of
 * WebAssembly always does.
 */
const alignedPiece = (): Buffer => Buffer.from(new WebAssembly.Memory({ initial: pieceBytes / 65_536 }).buffer)

/** Runs in a thread of its own, where waiting for a disk holds up nobody. */
export default function runCopyTask({ from, to, kind, state, isDirect = false }: CopyTask): CopyOutcome {
  const { bytes, order } = viewCopyState(state)
  const opened: number[] = []
  const openHere = (path: string, flags: string | number): number => {
    const file = openSync(path, flags)
    opened.push(file)
    return file
  }
  try {
    let source: number | null = null
    if (isDirect && constants.O_DIRECT !== undefined)
      try {
        source = openHere(from, constants.O_RDONLY | constants.O_DIRECT)
      } catch (error) {
        // A file system that cannot says so here.
        if ((error as NodeJS.ErrnoException).code !== 'EINVAL') throw error
      }
    const wasDirect = source !== null
    source ??= openHere(from, 'r')
    const target = to === null ? null : openHere(to, 'wx')
    const hash = startHash(kind)
    const buffer = wasDirect ? alignedPiece() : Buffer.allocUnsafe(pieceBytes)
    for (;;) {
      while (Atomics.load(order, 0) === copyOrders.stand) Atomics.wait(order, 0, copyOrders.stand)
      if (Atomics.load(order, 0) === copyOrders.stop) return 'stopped'
      const read = readSync(source, buffer, 0, pieceBytes, null)
      if (read === 0) return { hash: hash.digest(), wasDirect }
      const piece = buffer.subarray(0, read)
      hash.update(piece)
      for (let written = 0; target !== null && written < read; )
        written += writeSync(target, piece, written, read - written, null)
      Atomics.add(bytes, 0, BigInt(read))
    }
  } catch (error) {
    return { code: (error as NodeJS.ErrnoException).code, message: (error as Error).message }
  } finally {
    for (const file of opened) closeSync(file)
  }
}
