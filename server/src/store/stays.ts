import { removableKinds } from '@ennick/core'
import { type SQL, type SQLWrapper, sql } from 'drizzle-orm'

/** Whether a volume does not leave again. @param kind the column that says of which kind it is */
export const stays = (kind: SQLWrapper): SQL => sql`${kind} <> all(${sql.param([...removableKinds])}::text[])`
