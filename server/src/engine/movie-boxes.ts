import type { FileHandle } from 'node:fs/promises'
import { readAt } from '../disk/fingerprint.ts'

/** Where the content of a box lies. */
export interface Box {
  readonly from: number
  readonly to: number
}

/** In one other; a file of nothing but boxes would keep a reader for hours. */
const mostBoxes = 10_000

/** @returns null where there is none of its type */
export async function firstBox(file: FileHandle, { from, to }: Box, type: string): Promise<Box | null> {
  for await (const box of boxes(file, from, to, type)) return box
  return null
}

/** The boxes of a type between two bytes. */
export async function* boxes(file: FileHandle, from: number, to: number, type: string): AsyncGenerator<Box> {
  for await (const box of everyBox(file, { from, to })) if (box.type === type) yield box
}

/**
 * The boxes between two bytes, with where their content lies (ISO/IEC 14496-12, 4.2), as far as they can be read: where
 * all of them can, the last one ends where they do.
 */
export async function* everyBox(file: FileHandle, { from, to }: Box): AsyncGenerator<Box & { readonly type: string }> {
  let at = from
  for (let count = 0; count < mostBoxes && at + 8 <= to; count++) {
    const head = await readAt(file, at, 16)
    if (head.length < 8) return
    const told = head.readUInt32BE(0)
    const isLong = told === 1 && head.length === 16
    const size = isLong ? Number(head.readBigUInt64BE(8)) : told === 0 ? to - at : told
    const headBytes = isLong ? 16 : 8
    if (size < headBytes || at + size > to) return
    yield { type: head.toString('latin1', 4, 8), from: at + headBytes, to: at + size }
    at += size
  }
}
