import { Box, chakra, Grid, Text } from '@chakra-ui/react'
import type { RecipeInfo } from '@ennick/contract'
import type { ReactElement } from 'react'

/** The recipes, each saying what it is for. */
export function RecipeChoice({
  recipes,
  chosen,
  onChoose,
}: {
  recipes: readonly RecipeInfo[]
  chosen: string
  onChoose: (id: string) => void
}): ReactElement {
  return (
    <Grid role="radiogroup" aria-label="Recipe" templateColumns="repeat(auto-fit, minmax(16rem, 1fr))" gap="5" mb="6">
      {recipes.map((recipe) => (
        <chakra.label
          key={recipe.id}
          display="flex"
          gap="3"
          cursor="pointer"
          borderTopWidth="2px"
          borderColor={recipe.id === chosen ? 'tide.solid' : 'rule'}
          pt="2"
        >
          <Box pt="1">
            <input
              type="radio"
              name="recipe"
              value={recipe.id}
              checked={recipe.id === chosen}
              onChange={() => onChoose(recipe.id)}
              aria-label={recipe.name}
            />
          </Box>
          <Box>
            <Text fontWeight="semibold">{recipe.name}</Text>
            <Text fontSize="0.92rem">{recipe.purpose}</Text>
            <Text color="quiet" fontSize="0.85rem">
              Version {recipe.version}
              {recipe.suffix ? ` · name ends in ${recipe.suffix}` : ' · same name as the original'}
              {recipe.viewingLut ? ` · log pictures through “${recipe.viewingLut}”` : ''}
            </Text>
          </Box>
        </chakra.label>
      ))}
    </Grid>
  )
}
