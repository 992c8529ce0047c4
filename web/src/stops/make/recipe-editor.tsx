import { Box, Button, Grid, HStack, Text } from '@chakra-ui/react'
import type { OfferedRecipe, RecipeDraft } from '@ennick/contract'
import { contradictions, fitToTarget, isMeantFor, targetTroubles } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { Page } from '../../parts/page.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { RecipeFields } from './recipe-fields.tsx'
import { RecipePreview } from './recipe-preview.tsx'
import { draftOf } from './recipe-words.ts'

/**
 * Writes a recipe: what it says at the left, what it makes of a real frame at the right, and what contradicts itself.
 */
export function RecipeEditor({
  recipe,
  purpose,
  onEnd,
}: {
  recipe: OfferedRecipe
  /** `fit`: a copy that is made to fit the production's target. */
  purpose: 'change' | 'copy' | 'fit'
  /** @param recipeId what was kept; null when nothing was */
  onEnd: (recipeId: string | null) => void
}): ReactElement {
  const { target } = useProduction()
  const isCopy = purpose !== 'change'
  const [draft, setDraft] = useState<RecipeDraft>(() => {
    const own = draftOf(recipe)
    if (purpose === 'fit' && target) return { ...fitToTarget(own, target), name: `${recipe.name}, for ${target.name}` }
    return isCopy ? { ...own, name: `${recipe.name}, copy` } : own
  })
  const add = useChange('addRecipe', (kept) => onEnd(kept.id))
  const change = useChange('changeRecipe', (kept) => onEnd(kept.id))
  const wrong = contradictions({ ...draft, id: recipe.id, version: recipe.version })
  const notTaken = target && isMeantFor(draft, target) ? targetTroubles(draft, target) : []
  const error = add.error ?? change.error
  const keep = (): void =>
    isCopy ? add.mutate({ body: draft }) : change.mutate({ params: { recipeId: recipe.id }, body: draft })
  return (
    <Page
      title={isCopy ? `A recipe after “${recipe.name}”` : `Change “${recipe.name}”`}
      answer={
        isCopy
          ? 'The one that it is copied from stays as it is'
          : `It becomes version ${recipe.version + 1}; what older versions made is stale then`
      }
      actions={
        <HStack gap="2">
          <Button variant="ghost" onClick={() => onEnd(null)}>
            Cancel
          </Button>
          <Button
            disabled={wrong.some(({ level }) => level === 'error')}
            loading={add.isPending || change.isPending}
            onClick={keep}
          >
            Keep {isCopy ? 'the recipe' : `version ${recipe.version + 1}`}
          </Button>
        </HStack>
      }
    >
      {error && <Problem message={error.message} />}
      <Box role="status" mb={wrong.length + notTaken.length ? '4' : '0'}>
        {wrong.map(({ level, message }) => (
          <Text key={message}>
            <StateWord word={level === 'error' ? 'contradiction' : 'needs a look'} /> {message}
          </Text>
        ))}
        {notTaken.map((trouble) => (
          <Text key={trouble}>
            <StateWord word="not taken" /> by {target?.name}. {trouble}
          </Text>
        ))}
      </Box>
      <Grid templateColumns="minmax(24rem, 1fr) minmax(26rem, 1.1fr)" gap="8">
        <RecipeFields draft={draft} onChange={(part) => setDraft({ ...draft, ...part })} />
        <RecipePreview draft={draft} />
      </Grid>
    </Page>
  )
}
