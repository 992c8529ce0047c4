import { Box, Button, Text } from '@chakra-ui/react'
import type { Restore } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import type { ReactElement } from 'react'
import { Link } from 'react-router'
import { useRead } from '../data/queries.ts'
import { DetailLines } from '../parts/detail-lines.tsx'
import { JobLine } from '../parts/job-line.tsx'
import { Section } from '../parts/sheet.tsx'
import { count } from '../parts/words.ts'
import { useProduction } from './production.tsx'

/** Of a production that came back from its archive: how that went, and the way to its proxies. */
export function RestoredSection(): ReactElement | null {
  const { id: productionId } = useProduction()
  const restored = useRead('readRestore', { params: { productionId } })
  if (!restored.data) return null
  const { job, outcome } = restored.data
  return (
    <Section
      title="Came back from its archive"
      action={
        outcome && (
          <Button size="xs" asChild>
            <Link to={`/p/${productionId}/make`}>Make the proxies…</Link>
          </Button>
        )
      }
    >
      <JobLine job={job} />
      {outcome && <Outcome outcome={outcome} />}
    </Section>
  )
}

function Outcome({ outcome }: { outcome: NonNullable<Restore['outcome']> }): ReactElement {
  const { verified, clips, recipes, cuts, trouble, troubleCount, lacks, lacksCount } = outcome
  const told = [
    verified === null
      ? 'Its files were not read back.'
      : `${count(verified, 'file is', 'files are')} byte for byte what the archive’s manifests say.`,
    `${count(clips, 'clip')} ${clips === 1 ? 'is' : 'are'} here.`,
    recipes.length ? `Recipes that were not known here: ${recipes.join(', ')}.` : '',
  ]
  return (
    <Box pl="8.5rem" pt="1.5" pb="3">
      <Text>{told.filter(Boolean).join(' ')}</Text>
      {cuts.map(({ name, version, events, onOriginal }) => (
        <Text key={`${name} ${version}`}>
          “{name}”, version {version}: {onOriginal === events ? 'all' : `${formatNumber(onOriginal)} of`}{' '}
          {count(events, 'event')} on original
        </Text>
      ))}
      <DetailLines
        details={{
          lines: trouble.map(({ path, reason }) => ({ path, state: 'not as written', detail: reason })),
          total: troubleCount,
        }}
      />
      {lacksCount > 0 && (
        <>
          <Text pt="2">
            The archive lacks {count(lacksCount, 'original')}, as it said when it was made. An event that is on original
            by such a name is on another file: look at it.
          </Text>
          <DetailLines
            details={{
              lines: lacks.map(({ name, reason }) => ({ path: name, state: 'outstanding', detail: reason })),
              total: lacksCount,
            }}
          />
        </>
      )}
    </Box>
  )
}
