import { sql } from 'drizzle-orm'
import { bigint, index, pgTable, text, uuid } from 'drizzle-orm/pg-core'
import { createdAt } from './columns.ts'
import { volumes } from './schema.ts'

/**
 * The journal of files that Ennick gives names to. A line is written before the file moves, and says which file it is:
 * so whoever starts next can finish or reverse what was begun, and touches no other file under that name.
 */
export const placements = pgTable(
  'placements',
  {
    id: bigint('id', { mode: 'number' }).primaryKey().generatedAlwaysAsIdentity(),
    volumeId: uuid('volume_id')
      .notNull()
      .references(() => volumes.id, { onDelete: 'cascade' }),
    /** Moves that are done together or not at all. */
    act: uuid('act').notNull(),
    /** The job or the mend. */
    by: text('by').notNull(),
    /**
     * A new file gets its name and is removed when that is reversed; an older one changes its place and goes back; one
     * that is discarded is put out of the way, and removed once its act is done.
     */
    kind: text('kind').$type<'new' | 'moved' | 'discarded'>().notNull(),
    /** Both below the volume's root. */
    fromPath: text('from_path').notNull(),
    toPath: text('to_path').notNull(),
    device: text('device').notNull(),
    inode: text('inode').notNull(),
    sizeBytes: bigint('size_bytes', { mode: 'number' }).notNull(),
    mtimeMicros: bigint('mtime_micros', { mode: 'number' }).notNull(),
    fingerprint: text('fingerprint').notNull(),
    state: text('state').$type<'open' | 'done' | 'reversed' | 'removed'>().notNull().default('open'),
    createdAt: createdAt(),
  },
  (table) => [
    index('placements_path').on(table.volumeId, table.toPath),
    index('placements_unsettled').on(table.volumeId).where(sql`${table.state} = 'open' or ${table.kind} = 'discarded'`),
  ],
)
