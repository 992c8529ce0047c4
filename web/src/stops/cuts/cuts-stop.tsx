import { Box, Button, chakra, HStack, Text } from '@chakra-ui/react'
import type { Cut, CutDetail, LandedCut } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useNavigate } from 'react-router'
import { clipMarksKey, useProduction } from '../../app/production.tsx'
import { addressOf } from '../../data/api.ts'
import { useChange, useRead } from '../../data/queries.ts'
import { useAddressValue, useMarks } from '../../data/remembered.ts'
import { CutChoice, useChosenCut } from '../../parts/cut-choice.tsx'
import { Dialog } from '../../parts/dialog.tsx'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Page } from '../../parts/page.tsx'
import { Section } from '../../parts/sheet.tsx'
import { LargeStrip } from '../../parts/span-strip.tsx'
import { Tab, TabList } from '../../parts/tab-list.tsx'
import { count, formatRate } from '../../parts/words.ts'
import { useViewer } from '../../viewer/address.ts'
import { ChangesView } from './changes-view.tsx'
import { EventsView } from './events-view.tsx'
import { PathsView } from './paths-view.tsx'
import { ReadCut } from './read-cut.tsx'

/** A cut with its tracks and events, and where each event lands. */
export function CutsStop(): ReactElement {
  const production = useProduction()
  const navigate = useNavigate()
  const { cuts, cut, isPending, error } = useChosenCut()
  const landed = useRead('readCut', cut ? { params: { cutId: cut.id } } : null).data?.cut
  const [isReading, setReading] = useState(false)
  const [isLeaving, setLeaving] = useState(false)
  const remove = useChange('removeCut', () => {
    setLeaving(false)
    navigate(`/p/${production.id}/cuts`)
  })
  if (isPending) return <Loading what="the cuts" />
  if (error) return <Problem message={error} />
  const read = (
    <Button size="sm" variant={cut ? 'outline' : 'solid'} onClick={() => setReading(true)}>
      Read a cut
    </Button>
  )
  return (
    <Page
      title={cut ? (landed ? answer(landed) : cut.name) : 'No cut yet'}
      answer={cut ? aboutCut(cut) : undefined}
      actions={
        <>
          {cut && <CutChoice stop="cuts" cuts={cuts} chosen={cut} />}
          {cut && (
            <Button size="sm" variant="ghost" onClick={() => setLeaving(true)}>
              Take out
            </Button>
          )}
          {read}
        </>
      }
    >
      {cut ? (
        <CutView key={cut.id} cut={cut} cuts={cuts} />
      ) : (
        <Empty title="Read the first cut">
          Ennick reads CMX 3600 EDL, OTIO, timeline XML and AAF, finds the original of every event, and says where it
          cannot.
        </Empty>
      )}
      <ReadCut cuts={cuts} isOpen={isReading} onClose={() => setReading(false)} />
      <Dialog
        title={`Take “${cut?.name ?? ''}” out of the production?`}
        isOpen={isLeaving}
        onClose={() => setLeaving(false)}
        footer={
          <Button loading={remove.isPending} onClick={() => cut && remove.mutate({ params: { cutId: cut.id } })}>
            Take the cut out
          </Button>
        }
      >
        <Text>
          Its decisions and the choices made for its events go with it, and its handoffs leave the list. Originals,
          proxies and files that were handed off stay where they are.
        </Text>
        {remove.error && <Problem message={remove.error.message} />}
      </Dialog>
    </Page>
  )
}

/** What a cut is, and where it came from. */
function aboutCut({ format, events, tracks, rate, dropFrame, raster, fileName, isNewest }: Cut): string {
  const counting = `${formatRate(rate)}${dropFrame ? ' drop-frame' : ''}`
  const parts = [
    format,
    `${count(events, 'event')} on ${count(tracks.length, 'track')} at ${counting}`,
    raster ? `${raster.width} × ${raster.height}` : '',
    `from ${fileName}${isNewest ? '' : ' — a newer version was read'}`,
  ]
  return parts.filter(Boolean).join(', ')
}

function answer(cut: LandedCut): string {
  const { onOriginal, onProxy, originalMissing, short, unresolved } = cut.states
  const all = count(cut.events, 'event')
  if (onOriginal === cut.events)
    return cut.events === 1 ? 'The one event is on its original' : `All ${all} are on their original`
  const named = (number: number, words: string): string[] => (number ? [`${formatNumber(number)} ${words}`] : [])
  const parts = [
    ...named(onProxy, 'on proxy'),
    ...named(originalMissing, 'with their original missing'),
    ...named(short, 'short'),
    ...named(unresolved, 'unresolved'),
  ]
  return `${formatNumber(onOriginal)} of ${all} on their original: ${parts.join(', ')}`
}

const views = [
  ['', 'Events'],
  ['changes', 'What changed'],
  ['paths', 'Paths'],
  ['spans', 'Spans and uses'],
] as const

function CutView({ cut, cuts }: { cut: Cut; cuts: readonly Cut[] }): ReactElement {
  const detail = useRead('readCut', { params: { cutId: cut.id } })
  const [view, setView] = useAddressValue('view')
  const viewer = useViewer()
  const navigate = useNavigate()
  const production = useProduction()
  const [, setMarks] = useMarks(clipMarksKey(production))
  const hasVersions = cuts.some((other) => other.lineId === cut.lineId && other.id !== cut.id)
  if (detail.isPending) return <Loading what="the cut" />
  if (detail.error) return <Problem message={detail.error.message} />
  const { data } = detail
  const used = [...new Set(data.events.flatMap(({ kind, clipId }) => (kind === 'picture' && clipId ? [clipId] : [])))]
  return (
    <Box>
      <HStack gap="1" mb="4">
        <TabList label="Views of the cut">
          {views.map(([id, name]) =>
            id === 'changes' && !hasVersions ? null : (
              <Tab key={id} isChosen={view === id} onChoose={() => setView(id || null)}>
                {name}
              </Tab>
            ),
          )}
        </TabList>
        <Box flex="1" />
        <Button size="xs" variant="outline" onClick={() => viewer.open({ cutId: cut.id })}>
          Watch the cut
        </Button>
        {used.length > 0 && (
          <Button
            size="xs"
            variant="outline"
            onClick={() => {
              setMarks(new Set(used))
              void navigate(`/p/${production.id}/make`)
            }}
          >
            Plan proxies of {count(used.length, 'clip')}
          </Button>
        )}
        <chakra.a
          href={addressOf('readCutList', { cutId: cut.id })}
          color="tide.fg"
          textDecoration="underline"
          fontSize="0.9rem"
        >
          The list as it was read
        </chakra.a>
      </HStack>
      {view === '' && data.leftOut.length > 0 && <LeftOut parts={data.leftOut} />}
      {view === 'changes' && hasVersions && <ChangesView cut={cut} cuts={cuts} />}
      {view === 'paths' && <PathsView detail={data} />}
      {view === 'spans' && <Spans strips={data.strips} />}
      {view === '' && <EventsView detail={data} />}
      {view === '' && data.markers.length > 0 && (
        <Section title="Markers">
          {data.markers.map(({ record, name, note }) => (
            <HStack key={`${record} ${name}`} gap="4" py="0.5">
              <Text fontFamily="mono" fontSize="0.88rem">
                {record}
              </Text>
              <Text fontWeight="semibold">{name}</Text>
              <Text color="quiet">{note}</Text>
            </HStack>
          ))}
        </Section>
      )}
    </Box>
  )
}

/** What of a list with faults was not taken, by a person's choice. */
function LeftOut({ parts }: { parts: CutDetail['leftOut'] }): ReactElement {
  return (
    <Section title={`Left out of the list: ${count(parts.length, 'part')}`}>
      {parts.slice(0, 20).map(({ location, reason }) => (
        <Text key={`${location} ${reason}`} py="0.5" overflowWrap="anywhere">
          <b>{location}</b>: {reason}
        </Text>
      ))}
      {parts.length > 20 && <Text color="quiet">and {parts.length - 20} more</Text>}
    </Section>
  )
}

function Spans({ strips }: { strips: CutDetail['strips'] }): ReactElement {
  if (strips.length === 0) return <Text color="quiet">No event has found a clip yet.</Text>
  return (
    <HStack wrap="wrap" gap="8" align="start">
      {strips.map((entry) => (
        <Box key={entry.clipId}>
          <Text fontWeight="semibold">{entry.name}</Text>
          <LargeStrip strip={entry.strip} width={460} />
        </Box>
      ))}
    </HStack>
  )
}
