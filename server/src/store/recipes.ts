import { builtInRecipes, type Recipe } from '@ennick/core'
import { desc, eq, max } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { announce } from './announce.ts'
import type { Database, Queryable } from './database.ts'
import { readableId } from './readable-id.ts'
import { recipes, retiredRecipes } from './recipe-schema.ts'
import { productions } from './schema.ts'

type RecipeDraft = Omit<Recipe, 'id' | 'version'>

const isBuiltIn = (id: string): boolean => builtInRecipes.some((recipe) => recipe.id === id)

/** Every version of every recipe by its id, the newest first, those that are offered no more among them. */
export async function readRecipeVersions(
  database: Queryable,
): Promise<ReadonlyMap<string, readonly [Recipe, ...Recipe[]]>> {
  const rows = await database
    .select({ recipe: recipes.recipe })
    .from(recipes)
    .orderBy(recipes.id, desc(recipes.version))
  const versions = new Map<string, [Recipe, ...Recipe[]]>(builtInRecipes.map((recipe) => [recipe.id, [recipe]]))
  for (const { recipe } of rows) {
    const older = versions.get(recipe.id)
    if (older) older.push(recipe)
    else versions.set(recipe.id, [recipe])
  }
  return versions
}

/** The newest version of every recipe by its id, those that are offered no more among them. */
export async function readRecipes(database: Queryable): Promise<ReadonlyMap<string, Recipe>> {
  return new Map([...(await readRecipeVersions(database))].map(([id, [newest]]) => [id, newest]))
}

export interface OfferedRecipe {
  readonly recipe: Recipe
  readonly isBuiltIn: boolean
}

/** The recipes to choose from: the built-in ones, then people's by name. */
export async function offeredRecipes(database: Queryable): Promise<OfferedRecipe[]> {
  const retired = new Set((await database.select().from(retiredRecipes)).map((row) => row.recipeId))
  const all = [...(await readRecipes(database)).values()].filter((recipe) => !retired.has(recipe.id))
  const own = all.filter((recipe) => !isBuiltIn(recipe.id)).sort((a, b) => a.name.localeCompare(b.name))
  return [
    ...all.filter((recipe) => isBuiltIn(recipe.id)).map((recipe) => ({ recipe, isBuiltIn: true })),
    ...own.map((recipe) => ({ recipe, isBuiltIn: false })),
  ]
}

/** One version of a recipe, or its newest; null when there is none. */
export async function readRecipe(database: Queryable, id: string, version?: number): Promise<Recipe | null> {
  if (version === undefined || isBuiltIn(id)) return (await readRecipes(database)).get(id) ?? null
  return (await readRecipeVersions(database)).get(id)?.find((recipe) => recipe.version === version) ?? null
}

/**
 * Keeps a recipe: as a new one, or as the next version of one that a person made.
 * @throws PlainError when the name is taken, or when a built-in recipe would be changed
 */
export async function keepRecipe(database: Database, draft: RecipeDraft, id: string | null): Promise<Recipe> {
  if (id !== null && isBuiltIn(id))
    throw new PlainError('built-in', 'Built-in recipes stay as they are: copy it, and change the copy.')
  return database.transaction(async (transaction) => {
    const offered = await offeredRecipes(transaction)
    if (offered.some(({ recipe }) => recipe.id !== id && recipe.name.toLowerCase() === draft.name.toLowerCase()))
      throw new PlainError('name-taken', `There is a recipe “${draft.name}” already: give it another name.`, {
        status: 409,
      })
    const [last] =
      id === null
        ? []
        : await transaction
            .select({ version: max(recipes.version) })
            .from(recipes)
            .where(eq(recipes.id, id))
    if (id !== null && last?.version == null) throw notFound('This recipe')
    const recipe: Recipe = { ...draft, id: id ?? readableId(draft.name, 'recipe'), version: (last?.version ?? 0) + 1 }
    await transaction.insert(recipes).values({ id: recipe.id, version: recipe.version, recipe })
    await announce(transaction, null, 'recipes')
    // What the version before has made is stale from now on.
    if (id !== null)
      for (const production of await transaction.select().from(productions))
        await announce(transaction, production.id, 'pairs')
    return recipe
  })
}

/** Offers a recipe no more. What it made stays, with its versions. */
export async function retireRecipe(database: Database, id: string): Promise<void> {
  if (isBuiltIn(id)) throw new PlainError('built-in', 'Built-in recipes cannot be removed.')
  if (!(await readRecipe(database, id))) throw notFound('This recipe')
  await database.insert(retiredRecipes).values({ recipeId: id }).onConflictDoNothing()
  await announce(database, null, 'recipes')
}
