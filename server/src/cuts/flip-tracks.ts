import { flippedTracks } from '@ennick/core'
import { eq, sql } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { cuts, events } from '../store/schema.ts'
import { cutColumns } from './cut-state.ts'

/** Turns the order of some tracks of a cut over; done again, it is as it was. */
export async function flipTracks(
  database: Database,
  cutId: string,
  { from, to }: { readonly from: string; readonly to: string },
): Promise<void> {
  await database.transaction(async (transaction) => {
    const [row] = await transaction.select(cutColumns).from(cuts).where(eq(cuts.id, cutId)).for('update')
    if (!row) throw notFound('This cut')
    const names = flippedTracks(row.tracks, from, to)
    if (!names) throw new PlainError('bad-tracks', `${from} and ${to} are not two tracks of one kind in “${row.name}”.`)
    const rename = (name: string): string => names.get(name) ?? name
    const renamed = new Map(row.tracks.map((track) => [rename(track.name), { ...track, name: rename(track.name) }]))
    // Tracks stand in the order of their names; a gap between them stays where it falls.
    const tracks = [...renamed.values()].sort(
      (a, b) =>
        Number(a.kind === 'sound') - Number(b.kind === 'sound') || Number(a.name.slice(1)) - Number(b.name.slice(1)),
    )
    const generators = row.besides.generators?.map((each) => ({ ...each, track: rename(each.track) }))
    await transaction
      .update(cuts)
      .set({ tracks, besides: { ...row.besides, ...(generators && { generators }) } })
      .where(eq(cuts.id, cutId))
    const becomes = JSON.stringify(Object.fromEntries(names))
    await transaction.execute(
      sql`update ${events} set event = jsonb_set(event, '{track}', ${becomes}::jsonb -> (event ->> 'track'))
        where cut_id = ${cutId} and ${JSON.stringify([...names.keys()])}::jsonb ? (event ->> 'track')`,
    )
    await writeHistory(
      transaction,
      row.productionId,
      'cut',
      cutId,
      `Turned the order of tracks ${from} to ${to} of “${row.name}” over.`,
    )
    await announce(transaction, row.productionId, 'cuts')
  })
}
