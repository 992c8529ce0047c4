import type { RecipeDraft } from '@ennick/contract'
import { contradictions, type Recipe } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { announce } from '../store/announce.ts'
import { savedSearches } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { intakeRules } from '../store/recipe-schema.ts'
import { keepRecipe, offeredRecipes, readRecipes, retireRecipe } from '../store/recipes.ts'
import { listLuts } from './luts.ts'
import { previewRecipe } from './preview-recipe.ts'

/** A draft as the recipe that it would be. */
const asRecipe = (draft: RecipeDraft): Recipe => ({ ...draft, id: 'draft', version: 1 })

export function recipeRoutes({ app, database, config }: Services): void {
  implement(app, 'listRecipes', async () =>
    (await offeredRecipes(database)).map(({ recipe, isBuiltIn }) => ({
      ...recipe,
      isBuiltIn,
      warnings: contradictions(recipe).map(({ message }) => message),
    })),
  )
  implement(app, 'addRecipe', async ({ body }) => keepRecipe(database, await checked(database, body), null))
  implement(app, 'changeRecipe', async ({ params, body }) =>
    keepRecipe(database, await checked(database, body), params.recipeId),
  )
  implement(app, 'retireRecipe', async ({ params }) => {
    await retireRecipe(database, params.recipeId)
    return { done: true as const }
  })
  implement(app, 'checkRecipe', ({ body }) => ({ contradictions: contradictions(asRecipe(body)) }))
  implement(app, 'previewRecipe', ({ params, body }) =>
    previewRecipe(database, config, params.clipId, asRecipe(body.recipe), body.atPercent),
  )

  const listRules = async (productionId: string) => {
    const recipes = await readRecipes(database)
    const rows = await database
      .select({ rule: intakeRules, search: savedSearches.name })
      .from(intakeRules)
      .innerJoin(savedSearches, eq(savedSearches.id, intakeRules.searchId))
      .where(eq(intakeRules.productionId, productionId))
      .orderBy(intakeRules.createdAt)
    return rows.map(({ rule, search }) => ({
      id: rule.id,
      searchId: rule.searchId,
      search,
      recipeId: rule.recipeId,
      recipe: recipes.get(rule.recipeId)?.name ?? rule.recipeId,
    }))
  }
  implement(app, 'listIntakeRules', ({ params }) => listRules(params.productionId))
  implement(app, 'addIntakeRule', async ({ params, body }) => {
    const recipe = (await readRecipes(database)).get(body.recipeId)
    const [search] = await database.select().from(savedSearches).where(eq(savedSearches.id, body.searchId))
    if (!recipe) throw notFound('This recipe')
    if (!search || search.productionId !== params.productionId) throw notFound('This search')
    const [row] = await database
      .insert(intakeRules)
      .values({ productionId: params.productionId, ...body })
      .onConflictDoNothing()
      .returning()
    if (!row)
      throw new PlainError('rule-there', `Clips of “${search.name}” get “${recipe.name}” already.`, { status: 409 })
    await writeHistory(
      database,
      params.productionId,
      'production',
      params.productionId,
      `From now on clips of “${search.name}” get “${recipe.name}” as they come in.`,
    )
    await announce(database, params.productionId, 'recipes')
    return { id: row.id, searchId: search.id, search: search.name, recipeId: recipe.id, recipe: recipe.name }
  })
  implement(app, 'removeIntakeRule', async ({ params }) => {
    const [row] = await database.delete(intakeRules).where(eq(intakeRules.id, params.ruleId)).returning()
    if (!row) throw notFound('This rule')
    await announce(database, row.productionId, 'recipes')
    return { done: true as const }
  })
}

/** @throws PlainError for a recipe that contradicts itself or its purpose, or whose LUT is not there */
async function checked(database: Database, draft: RecipeDraft): Promise<RecipeDraft> {
  const errors = contradictions(asRecipe(draft)).filter(({ level }) => level === 'error')
  if (errors.length) throw new PlainError('contradiction', errors.map(({ message }) => message).join(' '))
  if (draft.viewingLut !== null && !(await listLuts(database)).some((lut) => lut.id === draft.viewingLut))
    throw new PlainError('no-lut', `There is no viewing LUT “${draft.viewingLut}” in the library.`)
  return draft
}
