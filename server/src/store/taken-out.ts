import { takenOutKey } from '@ennick/core'
import { sql } from 'drizzle-orm'
import { clips } from './schema.ts'

/** A clip that was taken out of its production is kept with all that is known of it, and no part of the material. */
export const isTakenOut = sql<boolean>`jsonb_exists(${clips.described}, ${takenOutKey}::text)`
