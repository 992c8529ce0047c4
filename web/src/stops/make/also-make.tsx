import { Box, Button, HStack, NativeSelect, Text } from '@chakra-ui/react'
import { type MakePlan, mostAlsoMade, type OfferedRecipe } from '@ennick/contract'
import type { ReactElement } from 'react'
import { bytes, count } from '../../parts/words.ts'

/** Other recipes for the same clips: each original is read once for all of them. */
export function AlsoMake({
  recipes,
  chosen,
  plan,
  onChange,
}: {
  /** Those that may be added. */
  recipes: readonly OfferedRecipe[]
  /** The ids of those that were. */
  chosen: readonly string[]
  plan: MakePlan | undefined
  onChange: (chosen: string[]) => void
}): ReactElement {
  const open = recipes.filter((recipe) => !chosen.includes(recipe.id))
  return (
    <Box mt="3">
      {chosen.map((id) => {
        const planned = plan?.also.find((each) => each.recipeId === id)
        const going = planned?.items.filter((item) => item.skipped === null) ?? []
        const reasons = [...new Set(planned?.items.flatMap((item) => item.skipped ?? []))]
        return (
          <HStack key={id} gap="3" align="baseline">
            <Text>
              and “{recipes.find((recipe) => recipe.id === id)?.name ?? id}”
              {planned &&
                `: ${count(going.length, 'clip')}, ${bytes(going.reduce((sum, item) => sum + (item.bytes ?? 0), 0))}`}
              {reasons.length > 0 && (
                <Text as="span" color="quiet" fontSize="0.9rem">
                  {' '}
                  · not made of {planned && planned.items.length - going.length}: {reasons[0]}
                </Text>
              )}
            </Text>
            <Button size="xs" variant="ghost" onClick={() => onChange(chosen.filter((other) => other !== id))}>
              Leave out
            </Button>
          </HStack>
        )
      })}
      {open.length > 0 && chosen.length < mostAlsoMade && (
        <NativeSelect.Root size="sm" width="24rem" mt="1">
          <NativeSelect.Field
            aria-label="Also make"
            value=""
            bg="page"
            onChange={(event) => event.target.value && onChange([...chosen, event.target.value])}
          >
            <option value="">Also make…</option>
            {open.map((recipe) => (
              <option key={recipe.id} value={recipe.id}>
                {recipe.name}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      )}
    </Box>
  )
}
