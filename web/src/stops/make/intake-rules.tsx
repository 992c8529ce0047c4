import { Button, HStack, NativeSelect, Text } from '@chakra-ui/react'
import type { OfferedRecipe } from '@ennick/contract'
import type { ReactElement } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'

/** Which clips get the recipe by themselves as they come in. */
export function IntakeRules({ recipe }: { recipe: OfferedRecipe }): ReactElement {
  const params = { productionId: useProduction().id }
  const searches = useRead('listSearches', { params })
  const rules = useRead('listIntakeRules', { params })
  const add = useChange('addIntakeRule')
  const remove = useChange('removeIntakeRule')
  const own = (rules.data ?? []).filter((rule) => rule.recipeId === recipe.id)
  const open = (searches.data ?? []).filter((search) => !own.some((rule) => rule.searchId === search.id))
  return (
    <>
      {own.map((rule) => (
        <HStack key={rule.id} gap="2">
          <Text>As they come in, clips of “{rule.search}” get it.</Text>
          <Button size="xs" variant="ghost" onClick={() => remove.mutate({ params: { ruleId: rule.id } })}>
            End this rule
          </Button>
        </HStack>
      ))}
      {searches.data?.length === 0 ? (
        <Text color="quiet" fontSize="0.9rem">
          Save a search in Clips, and clips that it finds can get this recipe as they come in.
        </Text>
      ) : (
        open.length > 0 && (
          <NativeSelect.Root size="sm" width="22rem">
            <NativeSelect.Field
              aria-label="Give it to clips as they come in"
              value=""
              bg="page"
              onChange={(event) =>
                event.target.value &&
                add.mutate({ params, body: { searchId: event.target.value, recipeId: recipe.id } })
              }
            >
              <option value="">give it as they come in to clips of…</option>
              {open.map((search) => (
                <option key={search.id} value={search.id}>
                  {search.name}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        )
      )}
      {add.error && <Problem message={add.error.message} />}
    </>
  )
}
