import { streamsAtOnce } from '../clips/streams.ts'
import { anyOf } from '../store/any-of.ts'
import { decodeSpeeds } from '../store/catalogue-schema.ts'
import type { Queryable } from '../store/database.ts'
import type { KnownClip } from '../store/known-material.ts'

/** Frames a second that this machine decodes of each content, by fingerprint, where that was measured. */
export async function readDecodeSpeeds(
  database: Queryable,
  clips: readonly KnownClip[],
): Promise<ReadonlyMap<string, number>> {
  const marks = [...new Set(clips.map(({ main }) => main.fingerprint))]
  const rows = await database.select().from(decodeSpeeds).where(anyOf(decodeSpeeds.fingerprint, marks))
  return new Map(rows.map((row) => [row.fingerprint, row.framesPerSecond]))
}

/** Streams that this machine plays of a clip at once; null where its decoding was not measured. */
export function playsOf({ main }: KnownClip, speeds: ReadonlyMap<string, number>): number | null {
  const speed = speeds.get(main.fingerprint)
  return speed === undefined ? null : streamsAtOnce(main.facts, speed)
}
