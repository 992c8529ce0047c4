import type { ShownChoice } from '@ennick/core'
import { boolean, index, integer, pgTable, text, uuid } from 'drizzle-orm/pg-core'
import { createdAt, id } from './columns.ts'
import { clips } from './schema.ts'

const clipId = () =>
  uuid('clip_id')
    .notNull()
    .references(() => clips.id, { onDelete: 'cascade' })

/** How a clip is looked at, where that was said of it. */
export const clipViews = pgTable('clip_views', {
  clipId: clipId().primaryKey(),
  /** Set apart from the production's choice; null follows it. */
  shown: text('shown').$type<ShownChoice>(),
  /** In and out points, in frames from the clip's first. */
  inFrame: integer('in_frame'),
  outFrame: integer('out_frame'),
  /** What marked the content of the clip when they were set; null where an earlier version set them. */
  pointsContent: text('points_content'),
})

/** What was noted or approved at a frame of a clip, and on what it was seen. */
export const viewNotes = pgTable(
  'view_notes',
  {
    id: id(),
    clipId: clipId(),
    frame: integer('frame').notNull(),
    text: text('text').notNull(),
    kind: text('kind').$type<'note' | 'approved'>().notNull(),
    /** In words that stay true when the file has gone: what it was, its raster and its codec. */
    seenOn: text('seen_on').notNull(),
    isOnOriginal: boolean('is_on_original').notNull(),
    /** What marked the content of the original then; null where an earlier version kept the note. */
    content: text('content'),
    createdAt: createdAt(),
  },
  (table) => [index('view_notes_clip').on(table.clipId)],
)
