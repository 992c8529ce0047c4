import { Link as Anchor, Button, Flex, Text } from '@chakra-ui/react'
import type { Production, Trial } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { FlaskConical } from 'lucide-react'
import { type ReactElement, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { useChange, useRead } from '../data/queries.ts'
import { Dialog } from '../parts/dialog.tsx'
import { Problem } from '../parts/notices.tsx'
import { count } from '../parts/words.ts'

/** Over every stop of a trial: what it is one of, how it stands to that, and the two ways in which it ends. */
export function TrialBar({ production }: { production: Production }): ReactElement | null {
  const params = { productionId: production.id }
  const trial = useRead('readTrial', production.trialOf ? { params } : null)
  const [asked, setAsked] = useState<'keep' | 'end' | null>(null)
  const { data } = trial
  const { trialOf } = production
  if (!trialOf) return null
  const home = data?.productionName ?? 'its production'
  return (
    <Flex
      role="status"
      data-testid="trial"
      align="center"
      gap="3"
      px="8"
      py="1.5"
      bg="tide.subtle"
      borderBottomWidth="1px"
      borderColor="rule"
    >
      <FlaskConical size={16} aria-hidden />
      <Text flex="1" minWidth="0">
        <b>A trial of “{data?.cutName ?? '…'}”.</b> Nothing that is mended here reaches {home} before it is kept.
        {data && ` ${count(data.mends, 'mend')} so far; ${inTheWay(data)}.`}
      </Text>
      {trial.error && <Problem message={trial.error.message} />}
      <Button size="xs" disabled={!data || (data.keepCount === 0 && !data.asVersion)} onClick={() => setAsked('keep')}>
        Keep it…
      </Button>
      <Button size="xs" variant="outline" disabled={!data} onClick={() => setAsked('end')}>
        Throw it away…
      </Button>
      {data && asked === 'keep' && (
        <KeepTrial production={production} trial={data} home={home} onClose={() => setAsked(null)} />
      )}
      {data && asked === 'end' && (
        <EndTrial production={production} trial={data} home={home} onClose={() => setAsked(null)} />
      )}
    </Flex>
  )
}

/** Labels, each once, with how often it comes. */
function eachOnce(labels: readonly string[]): [string, number][] {
  const times = new Map<string, number>()
  for (const label of labels) times.set(label, (times.get(label) ?? 0) + 1)
  return [...times]
}

function inTheWay({ blocking: { before, now } }: Trial): string {
  const here = `${count(now, 'finding blocks', 'findings block')} the handoff`
  return before === now ? `${here}, as there` : `${here}, ${before} there`
}

interface Ending {
  readonly production: Production
  readonly trial: Trial
  readonly home: string
  readonly onClose: () => void
}

function KeepTrial({ production, trial, home, onClose }: Ending): ReactElement {
  const navigate = useNavigate()
  const there = (cutId: string): string => `/p/${production.trialOf?.productionId}/mend/${cutId}`
  const keep = useChange('keepTrial', ({ cutId, stays }) => {
    if (stays === null) void navigate(there(cutId))
  })
  return (
    <Dialog
      title={`Keep the trial in ${home}: a preview, nothing is changed yet`}
      isOpen
      onClose={onClose}
      footer={
        <Button
          loading={keep.isPending}
          disabled={keep.data !== undefined}
          onClick={() => keep.mutate({ params: { productionId: production.id } })}
        >
          Keep it in {home}
        </Button>
      }
    >
      <Text mb="3">
        {trial.keepCount > 0 && `${count(trial.keepCount, 'link')} will point there as here. `}
        {trial.asVersion && `“${trial.cutName}” gets its next version there. `}
        Each is a mend there that can be taken back. The trial ends with it.
      </Text>
      {eachOnce(trial.keeps).map(([label, times]) => (
        <Text key={label} py="0.5" borderTopWidth="1px" borderColor="rule" overflowWrap="anywhere">
          {label}
          {times > 1 && `, ${times} times`}
        </Text>
      ))}
      {trial.keepCount > trial.keeps.length && (
        <Text color="quiet">and {formatNumber(trial.keepCount - trial.keeps.length)} more</Text>
      )}
      {trial.stays.length > 0 && (
        <Text mt="3">
          <b>Not kept:</b> {trial.stays.join(' ')}
        </Text>
      )}
      {keep.error && <Problem message={keep.error.message} />}
      {keep.data && keep.data.stays !== null && (
        <Text mt="3" role="status">
          It is kept. The trial itself stays: {keep.data.stays}{' '}
          <Anchor asChild color="tide.fg" textDecoration="underline">
            <Link to={there(keep.data.cutId)}>Go to {home}</Link>
          </Anchor>
        </Text>
      )}
    </Dialog>
  )
}

function EndTrial({ production, trial, home, onClose }: Ending): ReactElement {
  const navigate = useNavigate()
  const end = useChange('endTrial', () => {
    const { productionId, cutId } = production.trialOf ?? { productionId: '', cutId: '' }
    void navigate(trial.productionName === null ? '/' : `/p/${productionId}/mend/${cutId}`)
  })
  return (
    <Dialog
      title="Throw the trial away"
      isOpen
      onClose={onClose}
      footer={
        <Button loading={end.isPending} onClick={() => end.mutate({ params: { productionId: production.id } })}>
          Throw it away
        </Button>
      }
    >
      <Text>
        {trial.mends === 0 ? 'Nothing was mended in it. ' : `${count(trial.mends, 'mend')} of it go with it. `}
        {home} stays as it is, and no file is touched.
      </Text>
      {end.error && <Problem message={end.error.message} />}
    </Dialog>
  )
}
