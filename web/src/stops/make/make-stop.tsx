import { Box, Button, HStack, Text } from '@chakra-ui/react'
import { lazy, type ReactElement, Suspense, useEffect } from 'react'
import { clipMarksKey, useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { useAddressValue, useMarks } from '../../data/remembered.ts'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Page } from '../../parts/page.tsx'
import { Section } from '../../parts/sheet.tsx'
import { bytes, count } from '../../parts/words.ts'
import { PlanTable } from './plan-table.tsx'
import { Queue } from './queue.tsx'
import { RecipeChoice } from './recipe-choice.tsx'

// The chart library is the heaviest part of the interface: it comes when a plan is looked at.
const WeightChart = lazy(() => import('./weight-chart.tsx'))

/** Choose clips and a recipe, see what it will make and weigh, then queue it and watch. */
export function MakeStop(): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const clips = useRead('listClips', { params })
  const recipes = useRead('listRecipes', {})
  const jobs = useRead('listJobs', { params })
  const [marks, setMarks] = useMarks(clipMarksKey(production))
  const [recipeId, setRecipeId] = useAddressValue('recipe')
  const [view, setView] = useAddressValue('view')
  const plan = useChange('planMake')
  const make = useChange('make', () => {
    setMarks(new Set())
    setView('queue')
  })
  const recipe = recipes.data?.find((candidate) => candidate.id === recipeId) ?? recipes.data?.[0] ?? null
  const withoutProxy = (clips.data ?? []).filter((clip) => clip.kind === 'picture' && clip.proxies.length === 0 && clip.presence === 'here')
  const chosen = (clips.data ?? []).filter((clip) => marks.has(clip.id)).map((clip) => clip.id)
  const chosenText = chosen.join(' ')
  const { mutate, reset } = plan
  const chosenRecipe = recipe?.id ?? null
  useEffect(() => {
    if (chosenText && chosenRecipe)
      mutate({ params: { productionId: production.id }, body: { clipIds: chosenText.split(' '), recipeId: chosenRecipe } })
    else reset()
  }, [chosenText, chosenRecipe, production.id, mutate, reset])

  if (clips.isPending || recipes.isPending) return <Loading what="the recipes" />
  if (clips.error) return <Problem message={clips.error.message} />
  const live = (jobs.data ?? []).filter((job) => job.kind === 'make' && (job.state === 'running' || job.state === 'waiting')).length
  const going = plan.data?.items.filter((item) => item.skipped === null).length ?? 0
  const isQueue = view === 'queue' || (view === '' && chosen.length === 0 && live > 0)
  return (
    <Page
      title={
        live ? `${count(live, 'proxy', 'proxies')} on the queue` : chosen.length ? `${count(chosen.length, 'clip')} chosen` : 'Make proxies'
      }
      answer={
        live
          ? 'They are checked against their originals before they get their names'
          : `${count(withoutProxy.length, 'clip')} here without a proxy`
      }
      actions={
        <HStack role="tablist" aria-label="Make" gap="1">
          <Button role="tab" aria-selected={!isQueue} size="sm" variant={isQueue ? 'ghost' : 'subtle'} onClick={() => setView('plan')}>
            Plan
          </Button>
          <Button role="tab" aria-selected={isQueue} size="sm" variant={isQueue ? 'subtle' : 'ghost'} onClick={() => setView('queue')}>
            Queue
          </Button>
        </HStack>
      }
    >
      {isQueue ? (
        <Queue jobs={jobs.data ?? []} />
      ) : (
        <>
          <RecipeChoice recipes={recipes.data ?? []} chosen={recipe?.id ?? ''} onChoose={setRecipeId} />
          {chosen.length === 0 ? (
            <Empty title="No clip is chosen">
              <Text mb="3">Mark clips in Clips, or take all that have no proxy yet.</Text>
              <Button size="sm" disabled={withoutProxy.length === 0} onClick={() => setMarks(new Set(withoutProxy.map((clip) => clip.id)))}>
                Choose {count(withoutProxy.length, 'clip')} without a proxy
              </Button>
            </Empty>
          ) : (
            <Section
              title="The plan"
              action={
                <HStack gap="3" pb="1">
                  <Button size="xs" variant="ghost" onClick={() => setMarks(new Set())}>
                    Choose none
                  </Button>
                  <Button
                    size="sm"
                    loading={make.isPending}
                    disabled={going === 0 || plan.isPending || plan.data?.blocked != null}
                    onClick={() => recipe && make.mutate({ params, body: { clipIds: chosen, recipeId: recipe.id } })}
                  >
                    Make {count(going, 'proxy', 'proxies')}
                  </Button>
                </HStack>
              }
            >
              {plan.error && <Problem message={plan.error.message} />}
              {make.error && <Problem message={make.error.message} />}
              {plan.data?.blocked && <Problem message={plan.data.blocked} />}
              {plan.isPending && <Loading what="the plan" />}
              {plan.data && (
                <>
                  <Text mb="3">
                    {plan.data.exact ? '' : 'About '}
                    {bytes(plan.data.bytes)} to {plan.data.destination}
                    <Box as="span" color="quiet">
                      {' '}
                      · {bytes(plan.data.freeBytes)} free, {bytes(Math.max(0, plan.data.freeBytes - plan.data.bytes))} left afterwards
                    </Box>
                  </Text>
                  <PlanTable plan={plan.data} />
                  <Box mt="6" maxWidth="46rem">
                    <Suspense fallback={<Loading what="the comparison" />}>
                      <WeightChart plan={plan.data} chosen={recipe?.id ?? ''} />
                    </Suspense>
                  </Box>
                </>
              )}
            </Section>
          )}
        </>
      )}
    </Page>
  )
}
