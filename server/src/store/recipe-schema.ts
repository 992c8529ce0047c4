import type { Recipe } from '@ennick/core'
import { bigint, integer, jsonb, pgTable, primaryKey, text, timestamp, uniqueIndex, uuid } from 'drizzle-orm/pg-core'
import { savedSearches } from './catalogue-schema.ts'
import { clips, productions } from './schema.ts'

const at = (name: string) => timestamp(name, { withTimezone: true }).notNull().defaultNow()

/** Recipes that people made: every version stays, as pairs were made with it. The built-in ones live in code. */
export const recipes = pgTable(
  'recipes',
  {
    id: text('id').notNull(),
    version: integer('version').notNull(),
    recipe: jsonb('recipe').$type<Recipe>().notNull(),
    createdAt: at('created_at'),
  },
  (table) => [primaryKey({ columns: [table.id, table.version] })],
)

/** Recipes that are offered no more. What they made stays. */
export const retiredRecipes = pgTable('retired_recipes', {
  recipeId: text('recipe_id').primaryKey(),
  retiredAt: at('retired_at'),
})

/** What parts of an original came to when they were encoded, to tell how large the whole will be. */
export const sizeSamples = pgTable(
  'size_samples',
  {
    clipId: uuid('clip_id')
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    recipeId: text('recipe_id').notNull(),
    recipeVersion: integer('recipe_version').notNull(),
    /** Of the original that was sampled. */
    fingerprint: text('fingerprint').notNull(),
    frames: integer('frames').notNull(),
    bytes: bigint('bytes', { mode: 'number' }).notNull(),
    /** Of the made raster. */
    pixels: integer('pixels').notNull(),
    milliseconds: integer('milliseconds').notNull(),
  },
  (table) => [primaryKey({ columns: [table.clipId, table.recipeId, table.recipeVersion] })],
)

/** What happens by itself to clips as they come in: those that a saved search finds get a recipe. */
export const intakeRules = pgTable(
  'intake_rules',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    productionId: uuid('production_id')
      .notNull()
      .references(() => productions.id, { onDelete: 'cascade' }),
    searchId: uuid('search_id')
      .notNull()
      .references(() => savedSearches.id, { onDelete: 'cascade' }),
    recipeId: text('recipe_id').notNull(),
    createdAt: at('created_at'),
  },
  (table) => [uniqueIndex('intake_rules_once').on(table.productionId, table.searchId, table.recipeId)],
)
