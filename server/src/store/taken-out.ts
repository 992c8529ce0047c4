import { takenOutKey } from '@ennick/core'
import { sql } from 'drizzle-orm'
import { clips } from './schema.ts'

/** Clips that were taken out of their production are kept with all that is known of them, and no part of its material. */
export const isTakenOut = sql<boolean>`jsonb_exists(${clips.described}, ${takenOutKey}::text)`
