import { z } from 'zod'
import { done, id } from '../common.ts'
import {
  intakeRule,
  newIntakeRule,
  offeredRecipe,
  recipe,
  recipeCheck,
  recipeDraft,
  recipePreview,
} from '../recipes.ts'
import { ofClip, ofProduction, ofRecipe, route } from './define.ts'

/** Recipes and intake rules. */
export const recipesRoutes = {
  listRecipes: route('GET', '/api/recipes', 'The recipes to choose from, each in its newest version', {
    response: z.array(offeredRecipe),
  }),
  addRecipe: route('POST', '/api/recipes', 'Keep a new recipe', { body: recipeDraft, response: recipe }),
  changeRecipe: route('PUT', '/api/recipes/:recipeId', 'Keep the next version of a recipe', {
    params: ofRecipe,
    body: recipeDraft,
    response: recipe,
  }),
  retireRecipe: route('DELETE', '/api/recipes/:recipeId', 'Offer a recipe no more; what it made stays', {
    params: ofRecipe,
    response: done,
  }),
  checkRecipe: route('POST', '/api/recipes/check', 'What in a recipe contradicts itself or its purpose', {
    body: recipeDraft,
    response: recipeCheck,
  }),
  previewRecipe: route('POST', '/api/clips/:clipId/recipe-preview', 'A frame of a clip before and after a recipe', {
    params: ofClip,
    body: z.object({ recipe: recipeDraft, atPercent: z.number().min(0).max(100).default(50) }),
    response: recipePreview,
  }),
  listIntakeRules: route(
    'GET',
    '/api/productions/:productionId/intake-rules',
    'Which clips get which recipe as they come in',
    {
      params: ofProduction,
      response: z.array(intakeRule),
    },
  ),
  addIntakeRule: route(
    'POST',
    '/api/productions/:productionId/intake-rules',
    'Give clips of a saved search a recipe as they come in',
    {
      params: ofProduction,
      body: newIntakeRule,
      response: intakeRule,
    },
  ),
  removeIntakeRule: route('DELETE', '/api/intake-rules/:ruleId', 'End a rule; what it made stays', {
    params: z.object({ ruleId: id }),
    response: done,
  }),
} as const
