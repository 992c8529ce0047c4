import { Box, Button, Text } from '@chakra-ui/react'
import type { OfferedRecipe } from '@ennick/contract'
import { isMeantFor, targetTroubles } from '@ennick/core'
import type { ReactElement } from 'react'
import { useProduction } from '../../app/production.tsx'
import { Go } from '../../parts/go.tsx'
import { StateWord } from '../../parts/state-word.tsx'

/** Whether the production's target takes what a recipe makes, and if not, why and how it would. */
export function TargetFit({ recipe, onFit }: { recipe: OfferedRecipe; onFit: () => void }): ReactElement | null {
  const { id, target } = useProduction()
  if (!target || !isMeantFor(recipe, target)) return null
  const troubles = targetTroubles(recipe, target)
  return (
    <Box mt="2" data-testid="target-fit">
      {troubles.length === 0 ? (
        <>
          <Text>
            <StateWord word="taken" /> by {target.name}
          </Text>
          {target.bringIn && (
            <Text color="quiet" fontSize="0.9rem">
              {target.bringIn}
            </Text>
          )}
        </>
      ) : (
        <>
          <Text>
            <StateWord word="not taken" /> by <Go to={`/p/${id}/settings`}>{target.name}</Go>
          </Text>
          {troubles.map((trouble) => (
            <Text key={trouble}>{trouble}</Text>
          ))}
          <Button size="xs" variant="outline" mt="1" onClick={onFit}>
            Copy and make it fit…
          </Button>
        </>
      )}
    </Box>
  )
}
