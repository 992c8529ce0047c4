import { removableKinds } from '@ennick/core'
import { type SQL, type SQLWrapper, sql } from 'drizzle-orm'

/** Whether a volume does not leave again. @param kind the column that says of which kind it is */
export const stays = (kind: SQLWrapper): SQL => sql`${kind} <> all(${sql.param([...removableKinds])}::text[])`

interface OnVolume {
  readonly volume: { readonly kind: string }
}

const leaves = ({ volume }: OnVolume): number => Number(removableKinds.has(volume.kind))

/** An order in which what is on a volume that stays comes before what is on one that leaves again. */
export const stayingFirst = (a: OnVolume, b: OnVolume): number => leaves(a) - leaves(b)
