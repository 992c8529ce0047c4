import { Box, Button, Flex, Stack, Text } from '@chakra-ui/react'
import type { CollectionResult, Cut } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, type ReactNode, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { useAddressValue } from '../../data/remembered.ts'
import { FolderPicker } from '../../parts/folder-picker.tsx'
import { JobLine } from '../../parts/job-line.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { bytes, count } from '../../parts/words.ts'

/** Rows that are drawn at once. */
const atOnce = 200

/** Whether a folder that claims to hold everything does: what is there, what is another, missing, or extra. */
export function CollectionCheck({ cut }: { cut: Cut }): ReactElement {
  const production = useProduction()
  const [folder, setFolder] = useState<string | null>(null)
  const [jobId, setJobId] = useAddressValue('collection')
  const check = useChange('checkCollection', (job) => setJobId(job.id))
  const job = useRead('readJob', jobId ? { params: { jobId } } : null)
  const isDone = job.data?.state === 'done'
  const result = useRead('readCollection', isDone ? { params: { jobId } } : null)
  const start = (cutId: string | null): void => {
    if (folder) check.mutate({ params: { productionId: production.id }, body: { folder, cutId } })
  }
  const isRunning = job.data?.state === 'waiting' || job.data?.state === 'running'
  return (
    <Stack gap="4">
      <Text maxWidth="48rem">
        A folder, a disk or a box that came back: does it hold every original? It is compared by content first, wherever
        a file lies and whatever it is called, then by name. Nothing is changed.
      </Text>
      <Box maxWidth="48rem">
        <FolderPicker onChoose={setFolder} />
      </Box>
      <Flex gap="2">
        <Button size="sm" disabled={!folder || isRunning} loading={check.isPending} onClick={() => start(cut.id)}>
          Check it for this cut
        </Button>
        <Button size="sm" variant="outline" disabled={!folder || isRunning} onClick={() => start(null)}>
          Check it for the whole production
        </Button>
      </Flex>
      {check.error && <Problem message={check.error.message} />}
      {job.data && !isDone && <JobLine job={job.data} />}
      {isDone && result.isPending && <Loading what="what was found" />}
      {result.error && <Problem message={result.error.message} />}
      {result.data && job.data && <CollectionFound title={job.data.title} result={result.data} />}
    </Stack>
  )
}

const says = { there: 'its content is there', another: 'another content has its name', missing: 'not there' } as const

function CollectionFound({ title, result }: { title: string; result: CollectionResult }): ReactElement {
  const of = (outcome: keyof typeof says): CollectionResult['needed'] =>
    result.needed.filter((row) => row.outcome === outcome)
  const wrong = [...of('missing'), ...of('another')]
  const all = count(result.needed.length, 'file')
  const there = of('there').length
  const answer = wrong.length
    ? `${formatNumber(there)} of ${all} are there; ${formatNumber(of('missing').length)} missing, ` +
      `${formatNumber(of('another').length)} another of that name.`
    : `All ${all} are there.`
  const isOne = (number: number, one: string, more: string): string => (number === 1 ? one : more)
  const events = count(result.unknown, 'event')
  const unknown = `${events} of the cut ${isOne(result.unknown, 'has', 'have')} no known original`
  const besides = [
    result.extraCount ? `${count(result.extraCount, 'file')} (${bytes(result.extraBytes)}) are not asked for` : '',
    result.unknown ? `${unknown}: what ${isOne(result.unknown, 'it needs', 'they need')} cannot be told` : '',
    result.stills
      ? `${count(result.stills, 'sequence')} of stills ${isOne(result.stills, 'was', 'were')} not compared`
      : '',
  ].filter(Boolean)
  const unread = count(result.unreadable.length, 'folder or file', 'folders or files')
  const named = `${result.unreadable.slice(0, 5).join(', ')}${result.unreadable.length > 5 ? ' …' : ''}`
  return (
    <Section title={title}>
      <Text fontWeight="semibold">{answer}</Text>
      {besides.length > 0 && <Text color="quiet">{besides.join(' · ')}.</Text>}
      {result.unreadable.length > 0 && (
        <Problem message={`${unread} could not be read, so what is there was not compared: ${named}.`} />
      )}
      <Box mt="3">
        {[...wrong, ...of('there')].slice(0, atOnce).map((row) => (
          <Line key={`${row.clipId} ${row.name}`} word={row.outcome} name={row.name} path={row.path}>
            {says[row.outcome]}
          </Line>
        ))}
        {result.extra.slice(0, atOnce).map((row) => (
          <Line key={row.path} word="extra" name={row.path} path={null}>
            not asked for, {bytes(row.sizeBytes)}
          </Line>
        ))}
      </Box>
      {(result.needed.length > atOnce || result.extraCount > atOnce) && (
        <Text color="quiet">What is wrong comes first; the first {atOnce} of each are shown.</Text>
      )}
    </Section>
  )
}

function Line(props: { word: string; name: string; path: string | null; children: ReactNode }): ReactElement {
  return (
    <Flex gap="4" py="1" borderTopWidth="1px" borderColor="rule" align="baseline" data-testid="collected">
      <Box width="7rem" flexShrink="0">
        <StateWord word={props.word} />
      </Box>
      <Text flex="1" minWidth="0" overflowWrap="anywhere">
        {props.name}
        {props.path && (
          <Box as="span" color="quiet" fontFamily="mono" fontSize="0.85rem">
            {' '}
            {props.path}
          </Box>
        )}
      </Text>
      <Text color="quiet">{props.children}</Text>
    </Flex>
  )
}
