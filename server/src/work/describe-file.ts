import { stat } from 'node:fs/promises'
import type { MediaFacts } from '@ennick/core'
import { type FileStamp, fingerprint } from '../engine/fingerprint.ts'
import { probe, UnreadableMedia } from '../engine/probe.ts'

export interface DescribedFile extends FileStamp {
  readonly fingerprint: string
  readonly facts: MediaFacts | null
  readonly problem: string | null
}

export async function stampOf(path: string): Promise<FileStamp> {
  const info = await stat(path, { bigint: true })
  return { sizeBytes: Number(info.size), mtimeMicros: Number(info.mtimeNs / 1000n) }
}

export const sameStamp = (a: FileStamp, b: FileStamp): boolean => a.sizeBytes === b.sizeBytes && a.mtimeMicros === b.mtimeMicros

/** Reads everything about one file: fingerprint and facts, or the reason why it has none. */
export async function describeFile(
  path: string,
  stamp: FileStamp,
  options: { signal?: AbortSignal; countPackets?: boolean } = {},
): Promise<DescribedFile> {
  const [mark, facts] = await Promise.all([
    fingerprint(path, stamp.sizeBytes),
    probe(path, stamp.sizeBytes, options).catch((error: unknown) => {
      if (error instanceof UnreadableMedia) return error
      throw error
    }),
  ])
  return facts instanceof UnreadableMedia
    ? { ...stamp, fingerprint: mark, facts: null, problem: facts.message }
    : { ...stamp, fingerprint: mark, facts, problem: null }
}

/** Runs a task over items, a few at a time; the first failure stops the rest and is thrown. */
export async function forEachAtOnce<T>(items: readonly T[], atOnce: number, task: (item: T) => Promise<void>): Promise<void> {
  let next = 0
  const lane = async (): Promise<void> => {
    while (next < items.length) await task(items[next++] as T)
  }
  await Promise.all(Array.from({ length: Math.min(atOnce, items.length) }, lane))
}
