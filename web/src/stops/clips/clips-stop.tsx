import { Button, chakra, HStack, NativeSelect, Text } from '@chakra-ui/react'
import type { Clip } from '@ennick/contract'
import { type ReactElement, useCallback, useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { clipMarksKey, useProduction } from '../../app/production.tsx'
import { addressOf } from '../../data/api.ts'
import { useRead } from '../../data/queries.ts'
import { useAddressValue, useMarks } from '../../data/remembered.ts'
import { type Column, DataTable } from '../../parts/data-table.tsx'
import { FilterField } from '../../parts/filter-field.tsx'
import { matches } from '../../parts/matches.ts'
import { Empty, Loading, Problem } from '../../parts/notices.tsx'
import { Page } from '../../parts/page.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { bytes, count, formatRate } from '../../parts/words.ts'
import { ClipSheet } from './clip-sheet.tsx'
import { SetReels } from './set-reels.tsx'

/** Narrowings that people ask for daily. */
const narrowings: Record<string, (clip: Clip) => boolean> = {
  'no reel': (clip) => clip.kind === 'picture' && clip.reel === null,
  'no proxy': (clip) => clip.kind === 'picture' && clip.proxies.length === 0,
  'not here': (clip) => clip.presence !== 'here',
  'in a cut': (clip) => clip.uses > 0,
  sound: (clip) => clip.kind === 'sound',
}

/** Every original with what its file says of itself. */
export function ClipsStop(): ReactElement {
  const production = useProduction()
  const navigate = useNavigate()
  const clips = useRead('listClips', { params: { productionId: production.id } })
  const [filter, setFilter] = useAddressValue('q')
  const [only, setOnly] = useAddressValue('only')
  const [openId, setOpenId] = useAddressValue('clip')
  const [marks, setMarks] = useMarks(clipMarksKey(production))
  const [isSettingReels, setSettingReels] = useState(false)
  const rows = useMemo(() => {
    const fits = narrowings[only] ?? (() => true)
    return (clips.data ?? []).filter(
      (clip) => fits(clip) && matches(filter, clip.name, clip.reel, clip.volumeLabel, clip.path, clip.codec, clip.startTimecode),
    )
  }, [clips.data, filter, only])
  const open = useCallback((clip: Clip) => setOpenId(clip.id), [setOpenId])
  if (clips.isPending) return <Loading what="the clips" />
  if (clips.error) return <Problem message={clips.error.message} />
  const marked = clips.data.filter((clip) => marks.has(clip.id))
  return (
    <Page
      isTall
      title={rows.length === clips.data.length ? count(clips.data.length, 'clip') : `${rows.length} of ${count(clips.data.length, 'clip')}`}
      answer={
        marked.length
          ? `${marked.length} marked, ${bytes(marked.reduce((sum, clip) => sum + clip.sizeBytes, 0))}`
          : 'Mark clips with x or their box, then make proxies or set reels'
      }
      actions={
        <>
          <FilterField label="Filter clips" value={filter} onChange={setFilter} />
          <NativeSelect.Root size="sm" width="8.5rem">
            <NativeSelect.Field aria-label="Show only" value={only} onChange={(event) => setOnly(event.target.value)} bg="page">
              <option value="">all clips</option>
              {Object.keys(narrowings).map((name) => (
                <option key={name}>{name}</option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
          <Button size="sm" variant="outline" disabled={marked.length === 0} onClick={() => setSettingReels(true)}>
            Set reel of {marked.length}
          </Button>
          <Button size="sm" disabled={marked.length === 0} onClick={() => navigate(`/p/${production.id}/make`)}>
            Plan proxies of {marked.length}
          </Button>
        </>
      }
    >
      <DataTable
        label="Clips"
        columns={columns}
        rows={rows}
        rowId={rowId}
        rowHeight={56}
        onOpen={open}
        marks={marks}
        onMarks={setMarks}
        empty={
          <Empty title={clips.data.length ? 'No clip fits the filter' : 'No clip yet'}>
            {clips.data.length
              ? 'Take a word out of the filter, or show all clips.'
              : 'Add a volume in Intake and scan it: each recording on it becomes a clip here.'}
          </Empty>
        }
      />
      <ClipSheet clipId={openId || null} onClose={() => setOpenId(null)} />
      <SetReels clips={marked} isOpen={isSettingReels} onClose={() => setSettingReels(false)} />
    </Page>
  )
}

const rowId = (clip: Clip): string => clip.id

const columns: readonly Column<Clip>[] = [
  { id: 'picture', header: '', width: 5.2, cell: (clip) => <Thumbnail clip={clip} /> },
  {
    id: 'name',
    header: 'Name',
    width: 12,
    cell: (clip) => (
      <>
        <Text truncate fontWeight="semibold" title={clip.name}>
          {clip.name}
        </Text>
        <Text truncate color="quiet" fontSize="0.82rem">
          {clip.volumeLabel}
          {clip.presence !== 'here' && `, ${clip.presence}`}
        </Text>
      </>
    ),
    sortBy: (clip) => clip.name,
  },
  {
    id: 'reel',
    header: 'Reel',
    width: 4.8,
    isMono: true,
    cell: (clip) => clip.reel ?? (clip.kind === 'picture' ? 'none' : ''),
    sortBy: (clip) => clip.reel ?? '',
  },
  {
    id: 'start',
    header: 'Start',
    width: 6.8,
    isMono: true,
    cell: (clip) => clip.startTimecode ?? '',
    sortBy: (clip) => clip.startTimecode ?? '',
  },
  {
    id: 'frames',
    header: 'Frames',
    width: 4.4,
    align: 'right',
    isMono: true,
    cell: (clip) => clip.frames ?? '',
    sortBy: (clip) => clip.frames ?? 0,
  },
  {
    id: 'rate',
    header: 'Rate',
    width: 3.8,
    align: 'right',
    isMono: true,
    cell: (clip) => (clip.rate ? formatRate(clip.rate) : ''),
    sortBy: (clip) => (clip.rate ? clip.rate.numerator / clip.rate.denominator : 0),
  },
  {
    id: 'raster',
    header: 'Raster',
    width: 6.4,
    align: 'right',
    isMono: true,
    cell: (clip) => (clip.width ? `${clip.width}×${clip.height}` : ''),
    sortBy: (clip) => (clip.width ?? 0) * (clip.height ?? 0),
  },
  { id: 'codec', header: 'Codec', width: 6.5, cell: (clip) => <span title={clip.codec}>{clip.codec}</span>, sortBy: (clip) => clip.codec },
  { id: 'channels', header: 'Sound', width: 5, cell: (clip) => clip.channels, sortBy: (clip) => clip.channels },
  {
    id: 'size',
    header: 'Size',
    width: 5,
    align: 'right',
    isMono: true,
    cell: (clip) => bytes(clip.sizeBytes),
    sortBy: (clip) => clip.sizeBytes,
  },
  { id: 'proxies', header: 'Proxy', width: 8.5, cell: (clip) => <ProxyState clip={clip} />, sortBy: (clip) => clip.proxies[0] ?? '' },
  { id: 'uses', header: 'Uses', width: 3, align: 'right', isMono: true, cell: (clip) => clip.uses || '', sortBy: (clip) => clip.uses },
]

function ProxyState({ clip }: { clip: Clip }): ReactElement | null {
  if (clip.kind !== 'picture') return null
  const worst = clip.proxies.find((verdict) => verdict !== 'sound') ?? clip.proxies[0]
  return <StateWord word={worst ?? 'no proxy'} />
}

function Thumbnail({ clip }: { clip: Clip }): ReactElement {
  const [isBroken, setBroken] = useState(false)
  if (clip.kind === 'sound' || isBroken) {
    return (
      <HStack height="44px" width="78px" bg="bg.subtle" justify="center" color="quiet" fontSize="0.8rem">
        {clip.kind === 'sound' ? 'sound' : 'no picture'}
      </HStack>
    )
  }
  return (
    <chakra.img
      src={addressOf('clipPicture', { clipId: clip.id })}
      alt=""
      loading="lazy"
      width="78px"
      height="44px"
      objectFit="contain"
      bg="bg.muted"
      onError={() => setBroken(true)}
    />
  )
}
