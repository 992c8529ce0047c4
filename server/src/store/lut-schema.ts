import { integer, pgTable, text, timestamp, uniqueIndex, uuid } from 'drizzle-orm/pg-core'
import { clips, productions } from './schema.ts'

const at = (name: string) => timestamp(name, { withTimezone: true })

/**
 * Viewing LUTs that people added. The file itself is here, so that a worker on any machine has it; it never changes.
 */
export const luts = pgTable('luts', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  group: text('group').notNull(),
  kind: text('kind').$type<'1D' | '3D'>().notNull(),
  size: integer('size').notNull(),
  cube: text('cube').notNull(),
  createdAt: at('created_at').notNull().defaultNow(),
  /** When it was offered no more; what it was burnt into stays readable. */
  retiredAt: at('retired_at'),
})

/**
 * A LUT that takes the place of the recipe's own, for all clips of a camera or for one clip; no LUT means none at all.
 */
export const lutAssignments = pgTable(
  'lut_assignments',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    productionId: uuid('production_id')
      .notNull()
      .references(() => productions.id, { onDelete: 'cascade' }),
    camera: text('camera'),
    clipId: uuid('clip_id').references(() => clips.id, { onDelete: 'cascade' }),
    lutId: text('lut_id'),
  },
  (table) => [
    uniqueIndex('lut_assignments_camera').on(table.productionId, table.camera),
    uniqueIndex('lut_assignments_clip').on(table.productionId, table.clipId),
  ],
)
