import { Box, Button, HStack, NativeSelect, Text } from '@chakra-ui/react'
import type { Cut, CutChange, CutChanges } from '@ennick/contract'
import { nameSome } from '@ennick/core'
import { type ReactElement, useMemo } from 'react'
import { Link } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { useAddressValue } from '../../data/remembered.ts'
import { Choice } from '../../parts/choices.tsx'
import { cutLabel } from '../../parts/cut-choice.tsx'
import { type Column, DataTable } from '../../parts/data-table.tsx'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { count } from '../../parts/words.ts'

const kinds = [
  ...(['added', 'gone', 'replaced', 'retimed', 'trimmed', 'transition changed', 'level changed'] as const),
  ...(['switched', 'moved'] as const),
]

/** What became of each event since another version of the cut, and what this one newly needs. */
export function ChangesView({ cut, cuts }: { cut: Cut; cuts: readonly Cut[] }): ReactElement {
  const line = cuts.filter((other) => other.lineId === cut.lineId && other.id !== cut.id)
  const before = line.filter((other) => other.version < cut.version).at(-1)
  const [since, setSince] = useAddressValue('since')
  const sinceId = line.some(({ id }) => id === since) ? since : (before?.id ?? line[0]?.id ?? '')
  const changes = useRead('compareCuts', sinceId ? { params: { cutId: cut.id }, query: { since: sinceId } } : null)
  const [kind, setKind] = useAddressValue('change')
  const shown = useMemo(
    () => (changes.data?.changes ?? []).filter((change) => !kind || change.kinds.some((each) => each === kind)),
    [changes.data, kind],
  )
  if (!sinceId) return <Empty title="There is one version of this cut">Read the next one with “Read a cut”.</Empty>
  if (changes.isPending) return <Loading what="what changed" />
  if (changes.error) return <Problem message={changes.error.message} />
  const { data } = changes
  if (!data) return <Empty title="There is nothing to compare with" />
  return (
    <Box>
      <HStack mb="3" gap="3" wrap="wrap">
        <Text fontWeight="semibold" fontSize="1.05rem">
          {summary(data)}
        </Text>
        <Box flex="1" />
        <Text color="quiet">since</Text>
        <NativeSelect.Root size="sm" width="15rem">
          <NativeSelect.Field
            aria-label="Compare with"
            bg="page"
            value={sinceId}
            onChange={(event) => setSince(event.target.value)}
          >
            {line.map((other) => (
              <option key={other.id} value={other.id}>
                {cutLabel(other, cuts)}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Choice label="Change" value={kind} onChange={setKind} all="every change" options={kinds} />
      </HStack>
      {data.reversed.map((tracks) => (
        <Reversed key={tracks.from} cut={cut} {...tracks} />
      ))}
      {data.levelsLost > 0 && (
        <HStack mb="3" gap="3" align="center">
          <StateWord word="needs a look" />
          <Text flex="1" minWidth="0">
            This list says nothing of how loud any sound is. In version {data.before.version}{' '}
            {count(data.levelsLost, 'use')} of sound {data.levelsLost === 1 ? 'has a level' : 'have levels'} of their
            own.
          </Text>
        </HStack>
      )}
      <Needs needs={data.needs} />
      <Section title="Events">
        {shown.length === 0 ? (
          <Text color="quiet">{data.changes.length ? 'No change of this kind.' : 'No event is another.'}</Text>
        ) : (
          <Box display="flex" height={`${Math.min(12, shown.length) * 50 + 44}px`}>
            <DataTable label="Changes" columns={columns} rows={shown} rowId={rowId} rowHeight={50} empty={null} />
          </Box>
        )}
      </Section>
    </Box>
  )
}

function summary({ counts, changes }: CutChanges): string {
  const parts = kinds.flatMap((kind) => (counts[kind] ? [`${counts[kind]} ${kind}`] : []))
  if (changes.length === 0) return 'Nothing changed'
  return `${count(changes.length, 'event')} changed: ${parts.join(', ')}`
}

/** Systems count tracks from the lowest layer or from the uppermost: what came over so is put right with one press. */
function Reversed({ cut, from, to }: { cut: Cut; from: string; to: string }): ReactElement {
  const flip = useChange('flipTracks')
  return (
    <Box mb="3">
      <HStack gap="3" align="center">
        <StateWord word="needs a look" />
        <Text flex="1" minWidth="0">
          {from} to {to} came over in reverse order: every event that is known again stands on the opposite track.
          {from.startsWith('V') && ' What should lie on top is below.'}
        </Text>
        <Button
          size="xs"
          loading={flip.isPending}
          onClick={() => flip.mutate({ params: { cutId: cut.id }, body: { from, to } })}
        >
          Flip {from} to {to}
        </Button>
      </HStack>
      {flip.error && <Problem message={flip.error.message} />}
    </Box>
  )
}

function Needs({ needs }: { needs: CutChanges['needs'] }): ReactElement | null {
  const production = useProduction()
  if (needs.length === 0) return null
  const away = new Set(needs.filter(({ presence }) => presence === 'away').map(({ volumeLabel }) => volumeLabel))
  const gone = needs.filter(({ presence }) => presence === 'gone').length
  const without = needs.filter(({ hasProxy }) => !hasProxy).length
  return (
    <Section title={`Newly needed: ${count(needs.length, 'clip')}`}>
      <Text color="quiet" mb="2">
        {[
          away.size ? `put in ${nameSome([...away].map((label) => `“${label}”`))}` : 'every volume is in',
          gone ? `${gone} gone from their place` : '',
          without ? `${without} without a proxy` : 'all have proxies',
        ]
          .filter(Boolean)
          .join(' · ')}
      </Text>
      {needs.map((need) => (
        <HStack
          key={need.clipId}
          gap="4"
          py="1"
          borderBottomWidth="1px"
          borderColor="rule"
          align="baseline"
          wrap="wrap"
        >
          <Box width="15rem" flexShrink="0" color="tide.fg" textDecoration="underline">
            <Link to={`/p/${production.id}/clips?clip=${need.clipId}`}>{need.clipName}</Link>
          </Box>
          <Box width="7rem">
            <StateWord word={need.presence} />
          </Box>
          <Text width="9rem">{need.volumeLabel}</Text>
          <Text width="6rem" color="quiet">
            {need.isNew ? 'new' : 'more of it'}
          </Text>
          <Text fontFamily="mono" fontSize="0.85rem" flex="1" minWidth="16rem">
            {nameSome(need.ranges, 6)}
          </Text>
          {!need.hasProxy && <StateWord word="no proxy" />}
        </HStack>
      ))}
    </Section>
  )
}

const either = ({ before, after }: CutChange): NonNullable<CutChange['after']> =>
  (after ?? before) as NonNullable<CutChange['after']>

/** What it is now, and below it what it was, where that is another. */
function Both({ now, was }: { now: string | undefined; was: string | undefined }): ReactElement {
  return (
    <>
      <Text truncate title={now}>
        {now ?? '—'}
      </Text>
      {was !== undefined && was !== now && (
        <Text truncate color="quiet" fontSize="0.82rem" title={was}>
          was {was}
        </Text>
      )}
    </>
  )
}

const columns: readonly Column<CutChange>[] = [
  {
    ...{ id: 'number', header: 'Event', width: 5.5, isMono: true },
    cell: ({ before, after }) => <Both now={after?.number} was={before?.number} />,
    sortBy: (change) => either(change).position,
  },
  {
    ...{ id: 'track', header: 'Track', width: 4, isMono: true },
    cell: ({ before, after }) => <Both now={after?.track} was={before?.track} />,
    sortBy: (change) => either(change).track,
  },
  {
    ...{ id: 'change', header: 'Change', width: 19.2 },
    cell: ({ words }) => (
      <Text whiteSpace="normal" lineHeight="1.25" title={words}>
        {words}
      </Text>
    ),
    sortBy: ({ words }) => words,
  },
  {
    ...{ id: 'name', header: 'Clip', width: 11 },
    cell: ({ before, after }) => <Both now={after?.name} was={before?.name} />,
    sortBy: (change) => either(change).name,
  },
  {
    ...{ id: 'record', header: 'Record', width: 17, isMono: true },
    cell: ({ before, after }) => <Both now={after?.record} was={before?.record} />,
  },
  {
    ...{ id: 'source', header: 'Source', width: 17, isMono: true },
    cell: ({ before, after }) => <Both now={after?.source} was={before?.source} />,
  },
]

const rowId = ({ before, after }: CutChange): string => `${before?.position ?? '-'}>${after?.position ?? '-'}`
