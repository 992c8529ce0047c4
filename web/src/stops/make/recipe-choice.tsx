import { Box, Button, Grid, HStack, Text } from '@chakra-ui/react'
import { type OfferedRecipe, recipeFile } from '@ennick/contract'
import { legalWords } from '@ennick/core'
import { type ReactElement, type ReactNode, useRef, useState } from 'react'
import { useChange } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { IntakeRules } from './intake-rules.tsx'
import { draftOf, recipeFileText, recipeLine } from './recipe-words.ts'
import { TargetFit } from './target-fit.tsx'

/** The recipes by what they are for; beside them the chosen one, and what can be done with it. */
export function RecipeChoice({
  recipes,
  chosen,
  onChoose,
  onEdit,
  children,
}: {
  recipes: readonly OfferedRecipe[]
  chosen: OfferedRecipe
  onChoose: (id: string) => void
  onEdit: (method: 'change' | 'copy' | 'fit') => void
  /** What is to be made with it. */
  children: ReactNode
}): ReactElement {
  const retire = useChange('retireRecipe', () => onChoose(''))
  const add = useChange('addRecipe', (recipe) => onChoose(recipe.id))
  const file = useRef<HTMLInputElement>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const purposes = [...new Set(recipes.map((recipe) => recipe.purpose))]
  const read = async (given: File | undefined): Promise<void> => {
    setProblem(null)
    if (!given) return
    try {
      const parsed = recipeFile.safeParse(JSON.parse(await given.text()))
      if (!parsed.success) {
        const issue = parsed.error.issues[0]
        setProblem(
          `${given.name} is no recipe that can be read: ${issue?.path.join('.') || 'its start'}, ${issue?.message}.`,
        )
      } else add.mutate({ body: parsed.data.recipe })
    } catch {
      setProblem(`${given.name} is no JSON file.`)
    }
  }
  const error = problem ?? add.error?.message ?? retire.error?.message ?? null
  return (
    <Grid templateColumns="minmax(20rem, 5fr) 6fr" gap="8" mb="6">
      <Box role="radiogroup" aria-label="Recipe">
        {purposes.map((purpose) => (
          <Box key={purpose} mb="2">
            <Text color="quiet" fontSize="0.85rem" borderBottomWidth="1px" borderColor="rule">
              For {purpose}
            </Text>
            {recipes
              .filter((recipe) => recipe.purpose === purpose)
              .map((recipe) => (
                <label
                  key={recipe.id}
                  style={{
                    display: 'flex',
                    alignItems: 'baseline',
                    gap: '0.6rem',
                    padding: '0.2rem 0',
                    cursor: 'pointer',
                  }}
                >
                  <input
                    type="radio"
                    name="recipe"
                    value={recipe.id}
                    checked={recipe.id === chosen.id}
                    onChange={() => onChoose(recipe.id)}
                    aria-label={recipe.name}
                  />
                  <Text fontWeight={recipe.id === chosen.id ? 'semibold' : 'normal'}>{recipe.name}</Text>
                </label>
              ))}
          </Box>
        ))}
        <Button size="xs" variant="ghost" onClick={() => file.current?.click()}>
          Import a recipe…
        </Button>
        <input
          ref={file}
          type="file"
          accept=".json,application/json"
          aria-label="Recipe file"
          hidden
          onChange={(event) => void read(event.target.files?.[0])}
        />
        {error && <Problem message={error} />}
      </Box>
      <Box borderLeftWidth="1px" borderColor="rule" pl="8">
        <Text as="h2" fontWeight="semibold" fontSize="1.05rem">
          {chosen.name}
        </Text>
        <Text mb="1">{chosen.about}</Text>
        <Text color="quiet" fontSize="0.9rem">
          {recipeLine(chosen)}
        </Text>
        <Text color="quiet" fontSize="0.9rem">
          Version {chosen.version}
          {chosen.isBuiltIn ? ', built in' : ''}
        </Text>
        {chosen.warnings.map((warning) => (
          <Text key={warning} mt="1">
            <StateWord word="needs a look" /> {warning}
          </Text>
        ))}
        <TargetFit recipe={chosen} onFit={() => onEdit('fit')} />
        <HStack mt="3" mb="4" gap="2">
          {!chosen.isBuiltIn && (
            <Button size="xs" variant="outline" onClick={() => onEdit('change')}>
              Change…
            </Button>
          )}
          <Button size="xs" variant="outline" onClick={() => onEdit('copy')}>
            Copy and change…
          </Button>
          <Button size="xs" variant="ghost" asChild>
            <a
              href={`data:application/json;charset=utf-8,${encodeURIComponent(recipeFileText(draftOf(chosen)))}`}
              download={`${legalWords(chosen.name)}.recipe.json`}
            >
              Export
            </a>
          </Button>
          {!chosen.isBuiltIn && (
            <Button
              size="xs"
              variant="ghost"
              loading={retire.isPending}
              onClick={() => retire.mutate({ params: { recipeId: chosen.id } })}
            >
              Retire
            </Button>
          )}
        </HStack>
        <IntakeRules recipe={chosen} />
        <Box mt="5">{children}</Box>
      </Box>
    </Grid>
  )
}
