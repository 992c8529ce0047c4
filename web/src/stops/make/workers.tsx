import { Text } from '@chakra-ui/react'
import type { Job } from '@ennick/contract'
import { codecTraits, recipeCodecs } from '@ennick/core'
import type { ReactElement } from 'react'
import { useRead } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'

/** Which worker processes take jobs, on which machine, and what each does now. */
export function Workers({ waiting }: { waiting: readonly Job[] }): ReactElement | null {
  const { data, error } = useRead('listWorkers', {})
  if (error) return <Problem message={error.message} />
  if (!data) return null
  const here = data.filter((worker) => worker.state === 'here')
  const able = new Set(here.flatMap((worker) => worker.codecs))
  const wanting = [...new Set(waiting.flatMap((job) => job.codecs))].filter((codec) => !able.has(codec))
  return (
    <Section title={`Workers: ${here.length}`}>
      {here.length === 0 && (
        <Text mb="1">
          <StateWord word="needs a look" /> Nothing takes jobs now. Start Ennick again, or run ./ennick worker on a
          machine that sees the storage.
        </Text>
      )}
      {here.length > 0 && wanting.length > 0 && (
        <Text mb="1">
          <StateWord word="needs a look" /> No worker can encode{' '}
          {wanting.map((codec) => codecTraits[codec].label).join(', ')}: what needs it waits until one that can signs
          on.
        </Text>
      )}
      {data.map((worker) => (
        <Text key={worker.id} data-testid="worker" data-state={worker.state} py="0.5">
          {worker.state === 'lost' && <StateWord word="lost" />} {worker.host}
          <Text as="span" color="quiet">
            {' '}
            · {count(worker.cores, 'core')} · {worker.makesAtOnce} at once ·{' '}
            {worker.codecs.length < recipeCodecs.length &&
              `${worker.codecs.map((codec) => codecTraits[codec].label).join(', ')} only · `}
            {worker.pathMap.map(({ from, to }) => `has ${from} at ${to} · `)}
            {worker.state === 'lost'
              ? `ended without a word; ${worker.jobs.map((job) => job.title).join(', ')} goes to another`
              : worker.jobs.length
                ? worker.jobs.map((job) => `${job.title}${job.isPaused ? ' (paused)' : ''}`).join(', ')
                : 'waits for work'}
          </Text>
        </Text>
      ))}
    </Section>
  )
}
