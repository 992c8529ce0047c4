import { customType, timestamp, uuid } from 'drizzle-orm/pg-core'

/** Columns that most tables have. */
export const id = () => uuid('id').primaryKey().defaultRandom()
export const at = (name: string) => timestamp(name, { withTimezone: true })
export const bytes = customType<{ data: Uint8Array }>({ dataType: () => 'bytea' })
export const createdAt = () => at('created_at').notNull().defaultNow()
