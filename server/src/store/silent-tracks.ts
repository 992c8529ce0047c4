import { anyOf } from './any-of.ts'
import { soundEnvelopes } from './catalogue-schema.ts'
import type { Queryable } from './database.ts'

/**
 * Tracks that were heard and hold silence, the first is 1, by the content of their clip.
 * @param contents of the clips that are asked for
 */
export async function readSilentTracks(database: Queryable, contents: readonly string[]): Promise<Map<string, string>> {
  if (contents.length === 0) return new Map()
  const heard = await database
    .select({ fingerprint: soundEnvelopes.fingerprint, tracks: soundEnvelopes.tracks })
    .from(soundEnvelopes)
    .where(anyOf(soundEnvelopes.fingerprint, contents))
  return new Map(
    heard.flatMap(({ fingerprint, tracks }) => {
      const silent = tracks.flatMap(({ holds }, index) => (holds === 'silence' ? [index + 1] : []))
      return silent.length ? [[fingerprint, silent.join(' ')] as const] : []
    }),
  )
}
