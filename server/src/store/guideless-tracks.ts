import type { GuidelessTrack } from '@ennick/core'
import { anyOf } from './any-of.ts'
import { soundEnvelopes } from './catalogue-schema.ts'
import type { Queryable } from './database.ts'

/**
 * Tracks that were heard and are no guide, by the content of their clip, as `readGuideless` reads them.
 * @param contents of the clips that are asked for
 */
export async function readGuidelessTracks(
  database: Queryable,
  contents: readonly string[],
): Promise<Map<string, string>> {
  if (contents.length === 0) return new Map()
  const heard = await database
    .select({ fingerprint: soundEnvelopes.fingerprint, tracks: soundEnvelopes.tracks })
    .from(soundEnvelopes)
    .where(anyOf(soundEnvelopes.fingerprint, contents))
  return new Map(
    heard.flatMap(({ fingerprint, tracks }) => {
      const guideless = tracks.flatMap(({ holds }, index): GuidelessTrack[] =>
        holds === 'sound' ? [] : [{ track: index + 1, holds }],
      )
      return guideless.length ? [[fingerprint, JSON.stringify(guideless)] as const] : []
    }),
  )
}

/** What was kept as one word, so that it can be compared. */
export const readGuideless = (kept: string | undefined): readonly GuidelessTrack[] =>
  kept === undefined ? [] : (JSON.parse(kept) as GuidelessTrack[])
