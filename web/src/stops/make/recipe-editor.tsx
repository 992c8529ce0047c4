import { Box, Button, Grid, HStack, Text } from '@chakra-ui/react'
import type { OfferedRecipe, RecipeDraft } from '@ennick/contract'
import { contradictions } from '@ennick/core'
import { type ReactElement, useState } from 'react'
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
  purpose: 'change' | 'copy'
  /** @param recipeId what was kept; null when nothing was */
  onEnd: (recipeId: string | null) => void
}): ReactElement {
  const [draft, setDraft] = useState<RecipeDraft>(() =>
    purpose === 'copy' ? { ...draftOf(recipe), name: `${recipe.name}, copy` } : draftOf(recipe),
  )
  const add = useChange('addRecipe', (kept) => onEnd(kept.id))
  const change = useChange('changeRecipe', (kept) => onEnd(kept.id))
  const wrong = contradictions({ ...draft, id: recipe.id, version: recipe.version })
  const error = add.error ?? change.error
  const keep = (): void =>
    purpose === 'copy' ? add.mutate({ body: draft }) : change.mutate({ params: { recipeId: recipe.id }, body: draft })
  return (
    <Page
      title={purpose === 'copy' ? `A recipe after “${recipe.name}”` : `Change “${recipe.name}”`}
      answer={
        purpose === 'copy'
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
            Keep {purpose === 'copy' ? 'the recipe' : `version ${recipe.version + 1}`}
          </Button>
        </HStack>
      }
    >
      {error && <Problem message={error.message} />}
      <Box role="status" mb={wrong.length ? '4' : '0'}>
        {wrong.map(({ level, message }) => (
          <Text key={message}>
            <StateWord word={level === 'error' ? 'contradiction' : 'needs a look'} /> {message}
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
