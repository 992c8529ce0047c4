import { Button, Text } from '@chakra-ui/react'
import type { MakePlan } from '@ennick/contract'
import { useQueryClient } from '@tanstack/react-query'
import { type ReactElement, useEffect, useState } from 'react'
import { call } from '../../data/api.ts'

/**
 * Sizes of what has no constant rate are told from parts of the originals. They are encoded one after another while a
 * plan is looked at, and the plan is made anew when all are there; the person may go on without waiting.
 */
export function SizeSampling({ plan }: { plan: MakePlan }): ReactElement | null {
  const queries = useQueryClient()
  const [isLeft, setLeft] = useState(false)
  const [more, setMore] = useState(0)
  const [error, setError] = useState<string | null>(null)
  const { of, wanting } = plan.samples
  useEffect(() => {
    if (wanting.length === 0 || isLeft) return
    let isLooked = true
    const sampleAll = async (): Promise<void> => {
      for (const [index, { clipId, recipeId }] of wanting.entries()) {
        setMore(index)
        await call('sampleSize', { params: { clipId }, body: { recipeId } })
        if (!isLooked) return
      }
      await queries.invalidateQueries({ queryKey: ['planMake'] })
    }
    sampleAll().catch((problem: Error) => isLooked && setError(problem.message))
    return () => {
      isLooked = false
    }
  }, [wanting, isLeft, queries])
  if (error) return <Text color="quiet">Sizes could not be told from parts of the originals: {error}</Text>
  if (plan.basis === 'exact') return null
  if (wanting.length === 0 || isLeft)
    return (
      <Text color="quiet">
        {plan.basis === 'sampled'
          ? 'Sizes are told from parts of the originals.'
          : 'Sizes are a guess from typical pictures.'}
      </Text>
    )
  return (
    <Text color="quiet">
      Telling sizes from parts of the originals: {of - wanting.length + more} of {of}{' '}
      <Button size="xs" variant="ghost" onClick={() => setLeft(true)}>
        Cancel
      </Button>
    </Text>
  )
}
