import { Box, Button, HStack, Text } from '@chakra-ui/react'
import { lazy, type ReactElement, Suspense, useState } from 'react'
import { clipMarksKey, useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { useAddress, useAddressValue, useMarks } from '../../data/remembered.ts'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Page } from '../../parts/page.tsx'
import { Section } from '../../parts/sheet.tsx'
import { Tab, TabList } from '../../parts/tab-list.tsx'
import { count } from '../../parts/words.ts'
import { AlsoMake } from './also-make.tsx'
import { PlanSummary, PlanTable } from './plan-table.tsx'
import { Queue } from './queue.tsx'
import { RecipeChoice } from './recipe-choice.tsx'
import { RecipeEditor } from './recipe-editor.tsx'
import { SearchChoice } from './search-choice.tsx'
import { SizeSampling } from './size-sampling.tsx'
import { ViewingLuts } from './viewing-luts.tsx'

// The chart library is the heaviest part of the interface: it comes when a plan is looked at.
const WeightChart = lazy(() => import('./weight-chart.tsx'))

/** Clips that could have a proxy made of them now, and have none. */
const wantingProxy = {
  all: [
    { field: 'proxy', operator: 'is' as const, value: 'no proxy' },
    { field: 'presence', operator: 'is' as const, value: 'here' },
  ],
}

/** Choose clips and a recipe, see what it will make and weigh, then queue it and watch. */
export function MakeStop(): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const recipes = useRead('listRecipes', {})
  const jobs = useRead('listJobs', { params })
  const [marks, setMarks] = useMarks(clipMarksKey(production))
  const [recipeId, setRecipeId] = useAddressValue('recipe')
  const [view, setView] = useAddressValue('view')
  const setAddress = useAddress()
  const [holdsAtFailure, setHoldsAtFailure] = useState(false)
  const [isLooking, setLooking] = useState(false)
  const [alsoChosen, setAlso] = useState<string[]>([])
  const make = useChange('make', () => {
    setMarks(new Set())
    setView('queue')
  })
  const recipe = recipes.data?.find((candidate) => candidate.id === recipeId) ?? recipes.data?.[0] ?? null
  const withoutProxy = useRead('listClipIds', { params, body: { condition: wantingProxy } })
  const chosen = [...marks]
  const also = alsoChosen.filter((id) => id !== recipe?.id)
  const planned =
    chosen.length && recipe ? { params, body: { clipIds: chosen, recipeId: recipe.id, alsoRecipeIds: also } } : null
  const plan = useRead('planMake', planned)

  if (withoutProxy.isPending || recipes.isPending) return <Loading what="the recipes" />
  if (withoutProxy.error) return <Problem message={withoutProxy.error.message} />
  const without = withoutProxy.data.ids
  const live = (jobs.data ?? []).filter(
    (job) => job.kind === 'make' && (job.state === 'running' || job.state === 'waiting'),
  ).length
  const lists = plan.data ? [plan.data.items, ...plan.data.also.map((each) => each.items)] : []
  const going = lists.flat().filter((item) => item.skipped === null).length
  const isProxies = recipe?.purpose.startsWith('cutting') && also.length === 0
  if (recipe && (view === 'copy' || view === 'fit' || (view === 'change' && !recipe.isBuiltIn)))
    return (
      <RecipeEditor
        key={`${recipe.id} ${view}`}
        recipe={recipe}
        purpose={view}
        onEnd={(kept) => setAddress({ view: 'plan', recipe: kept ?? recipe.id })}
      />
    )
  const isQueue = view === 'queue' || (view === '' && chosen.length === 0 && live > 0)
  return (
    <Page
      title={
        live
          ? `${count(live, 'job')} on the queue`
          : chosen.length
            ? `${count(chosen.length, 'clip')} chosen`
            : 'Make proxies and copies'
      }
      answer={
        live
          ? 'They are checked against their originals before they get their names'
          : `${count(without.length, 'clip')} here without a proxy`
      }
      actions={
        <HStack gap="1">
          <Button size="sm" variant="ghost" onClick={() => setLooking(true)}>
            Viewing LUTs…
          </Button>
          <TabList label="Make">
            <Tab isChosen={!isQueue} onChoose={() => setView('plan')}>
              Plan
            </Tab>
            <Tab isChosen={isQueue} onChoose={() => setView('queue')}>
              Queue
            </Tab>
          </TabList>
        </HStack>
      }
    >
      {isQueue ? (
        <Queue jobs={jobs.data ?? []} />
      ) : (
        <>
          {recipe && (
            <RecipeChoice recipes={recipes.data ?? []} chosen={recipe} onChoose={setRecipeId} onEdit={setView}>
              {chosen.length === 0 ? (
                <Empty title="No clip is chosen">
                  <Text mb="3">Mark clips in Clips, or take all that have no proxy yet.</Text>
                  <Button size="sm" mr="3" disabled={without.length === 0} onClick={() => setMarks(new Set(without))}>
                    Choose {count(without.length, 'clip')} without a proxy
                  </Button>
                  <SearchChoice onChoose={(ids) => setMarks(new Set(ids))} />
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
                        disabled={going === 0 || plan.data?.blocked != null}
                        onClick={() =>
                          make.mutate({
                            params,
                            body: { clipIds: chosen, recipeId: recipe.id, alsoRecipeIds: also, holdsAtFailure },
                          })
                        }
                      >
                        Make {isProxies ? count(going, 'proxy', 'proxies') : count(going, 'copy', 'copies')}
                      </Button>
                    </HStack>
                  }
                >
                  {plan.error && <Problem message={plan.error.message} />}
                  {make.error && <Problem message={make.error.message} />}
                  {plan.data && <PlanSummary plan={plan.data} />}
                  {plan.data && <SizeSampling key={[recipe.id, ...also].join(' ')} plan={plan.data} />}
                  {plan.isLoading && <Loading what="the plan" />}
                  <AlsoMake
                    recipes={(recipes.data ?? []).filter((each) => each.id !== recipe.id)}
                    chosen={also}
                    plan={plan.data}
                    onChange={setAlso}
                  />
                  {going > 1 && (
                    <label style={{ display: 'flex', gap: '0.5rem', alignItems: 'baseline', marginTop: '0.5rem' }}>
                      <input
                        type="checkbox"
                        checked={holdsAtFailure}
                        onChange={(event) => setHoldsAtFailure(event.target.checked)}
                      />
                      Hold the rest when one of them fails
                    </label>
                  )}
                </Section>
              )}
            </RecipeChoice>
          )}
          {chosen.length > 0 && plan.data && (
            <>
              <PlanTable plan={plan.data} />
              <Box mt="6" maxWidth="52rem">
                <Suspense fallback={<Loading what="the comparison" />}>
                  <WeightChart plan={plan.data} chosen={recipe?.id ?? ''} />
                </Suspense>
              </Box>
            </>
          )}
        </>
      )}
      <ViewingLuts clipIds={chosen} isOpen={isLooking} onClose={() => setLooking(false)} />
    </Page>
  )
}
