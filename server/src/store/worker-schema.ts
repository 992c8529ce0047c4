import type { PathMapping, RecipeCodec } from '@ennick/core'
import { integer, jsonb, pgTable, text, timestamp, uuid } from 'drizzle-orm/pg-core'

const at = (name: string) => timestamp(name, { withTimezone: true })

/** Worker processes, on whatever machine. Whether one lives is told by its lease, not by its row. */
export const workers = pgTable('workers', {
  id: uuid('id').primaryKey(),
  host: text('host').notNull(),
  cores: integer('cores').notNull(),
  /** Items that it makes at once. */
  makesAtOnce: integer('makes_at_once').notNull(),
  /** What it can encode. */
  codecs: jsonb('codecs').$type<readonly RecipeCodec[]>().notNull().default([]),
  /** Where folders that others know by one path lie on its machine. */
  pathMap: jsonb('path_map').$type<readonly PathMapping[]>().notNull().default([]),
  /** When it last said that it lives; one that is silent for too long loses its jobs. */
  seenAt: at('seen_at').notNull().defaultNow(),
  startedAt: at('started_at').notNull().defaultNow(),
  /** When it was stopped in an orderly way. */
  stoppedAt: at('stopped_at'),
})
