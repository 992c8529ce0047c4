import { Box, Button, chakra, Grid, HStack, Text } from '@chakra-ui/react'
import type { ClipDetail } from '@ennick/contract'
import { Fragment, type ReactElement, useState } from 'react'
import { Link } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { addressOf } from '../../data/api.ts'
import { useRead } from '../../data/queries.ts'
import { useUnderWay } from '../../data/under-way.ts'
import { HistoryList } from '../../parts/history-list.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { RoleChoice } from '../../parts/role-choice.tsx'
import { Section, Sheet } from '../../parts/sheet.tsx'
import { LargeStrip } from '../../parts/span-strip.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { bytes, when } from '../../parts/words.ts'
import { useViewer } from '../../viewer/address.ts'
import { PixelShape } from './pixel-shape.tsx'
import { Waveform } from './waveform.tsx'

/** Everything that is known of one clip. */
export function ClipSheet({ clipId, onClose }: { clipId: string | null; onClose: () => void }): ReactElement {
  const production = useProduction()
  const detail = useRead('readClip', clipId === null ? null : { params: { clipId } })
  const data = detail.data
  const viewer = useViewer()
  const underWay = useUnderWay().get(clipId ?? '')
  const isOriginal = data?.role.role === 'original'
  const role = data && <Role key={data.clip.id} role={data.role} />
  return (
    <Sheet title={data?.clip.title ?? 'Clip'} isOpen={clipId !== null} onClose={onClose}>
      {detail.isPending && <Loading what="the clip" />}
      {detail.error && <Problem message={detail.error.message} />}
      {data && (
        <>
          <Button size="sm" mb="3" onClick={() => viewer.open({ clipId: data.clip.id })}>
            {data.clip.kind === 'sound' ? 'Listen to it' : 'Look at it'}
          </Button>
          {data.clip.kind !== 'sound' && <Filmstrip key={data.clip.id} clipId={data.clip.id} />}
          {data.notices.length > 0 && (
            <Section title="Notices">
              {data.notices.map((notice) => (
                <HStack key={notice.message} gap="3" align="baseline" py="0.5">
                  <Box width="9rem" flexShrink="0">
                    <StateWord word={notice.kind} />
                  </Box>
                  <Text>{notice.message}</Text>
                </HStack>
              ))}
            </Section>
          )}
          {!isOriginal && role}
          {data.strip && (
            <Section title="Span">
              <LargeStrip strip={data.strip} />
            </Section>
          )}
          {data.hasSound && (
            <Waveform key={`sound-${data.clip.id}`} clipId={data.clip.id} tracks={data.tracks} levels={data.levels} />
          )}
          {data.syncedSound && <SyncedSound sound={data.syncedSound} productionId={production.id} />}
          {data.described.length > 0 && (
            <Section title="Described">
              <Grid templateColumns="9rem 1fr auto" rowGap="1" columnGap="3">
                {data.described.map((line) => (
                  <Fragment key={line.field}>
                    <Text color="quiet">{line.title}</Text>
                    <Text overflowWrap="anywhere">{line.value}</Text>
                    <Text color="quiet" fontSize="0.85rem">
                      {sources[line.from]}
                    </Text>
                  </Fragment>
                ))}
              </Grid>
            </Section>
          )}
          {isOriginal && role}
          <PixelShape key={`shape-${data.clip.id}`} detail={data} />
          {data.factGroups.map((group) => (
            <Section key={group.title} title={group.title}>
              <Grid templateColumns="9rem 1fr" rowGap="1">
                {group.facts.map((fact) => (
                  <Fragment key={fact.label}>
                    <Text color="quiet">{fact.label}</Text>
                    <Text overflowWrap="anywhere">{fact.value}</Text>
                  </Fragment>
                ))}
              </Grid>
            </Section>
          ))}
          <Section title="Files of this clip">
            {data.files.map((file) => (
              <HStack key={file.path} gap="3" align="baseline" py="0.5">
                <StateWord word={file.presence} />
                <Text fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere" flex="1">
                  {file.path}
                </Text>
                <Text color="quiet">{bytes(file.sizeBytes)}</Text>
              </HStack>
            ))}
          </Section>
          {data.copies.length > 0 && (
            <Section title="The same recording elsewhere">
              {data.copies.map((copy) => (
                <HStack key={copy.path} gap="3" align="baseline" py="0.5">
                  <StateWord word={copy.presence} />
                  <Text fontFamily="mono" fontSize="0.85rem" overflowWrap="anywhere" flex="1">
                    {copy.path}
                  </Text>
                  <Text color="quiet" fontSize="0.85rem">
                    {copy.isVerified ? 'checksum read back' : 'alike, not verified'}
                  </Text>
                </HStack>
              ))}
            </Section>
          )}
          <Section title="Made of it">
            {underWay && <StateWord word={underWay} />}
            {data.pairs.length === 0 && !underWay && <Text color="quiet">Nothing yet.</Text>}
            {data.pairs.map((pair) => (
              <HStack key={pair.id} gap="3" py="0.5">
                <Box width="8rem">
                  <StateWord word={pair.verdict} />
                </Box>
                <chakra.a
                  as={Link}
                  {...{ to: `/p/${production.id}/pairs?pair=${pair.id}` }}
                  color="tide.fg"
                  textDecoration="underline"
                >
                  {pair.name}
                </chakra.a>
              </HStack>
            ))}
          </Section>
          <Section title="Used in">
            {data.uses.length === 0 && <Text color="quiet">No cut uses it.</Text>}
            {data.uses.map((use) => (
              <HStack key={`${use.cutId}-${use.track}-${use.event}`} gap="3" py="0.5">
                <Box width="8rem">
                  <StateWord word={use.state} />
                </Box>
                <chakra.a
                  as={Link}
                  {...{ to: `/p/${production.id}/cuts/${use.cutId}` }}
                  color="tide.fg"
                  textDecoration="underline"
                >
                  {use.cutName}
                </chakra.a>
                <Text color="quiet">
                  {use.track}, event {use.event}
                </Text>
              </HStack>
            ))}
          </Section>
          <Section title="History">
            {data.edits.map((edit) => (
              <HStack key={`${edit.at}-${edit.field}`} gap="3" align="baseline" py="0.5">
                <Text color="quiet" fontSize="0.85rem" whiteSpace="nowrap">
                  {when(edit.at)}
                </Text>
                <Text textDecoration={edit.isUndone ? 'line-through' : 'none'}>
                  {edit.field}: {edit.before || 'empty'} → {edit.after || 'empty'}
                  <Box as="span" color="quiet">
                    {' '}
                    ({edit.title}
                    {edit.isUndone ? ', taken back' : ''})
                  </Box>
                </Text>
              </HStack>
            ))}
            <HistoryList lines={data.history} />
          </Section>
        </>
      )}
    </Sheet>
  )
}

const sources = { file: 'from the file', sidecar: 'from a log', rule: 'by a rule', person: 'by a person' } as const

const tiles = 8

/** What its file is for. */
function Role({ role }: { role: ClipDetail['role'] }): ReactElement {
  return (
    <Section title="Its role">
      <Text mb="1">{role.reason ? `No original: ${role.reason}.` : 'An original: cuts may land on it.'}</Text>
      <RoleChoice volumeId={role.volumeId} path={role.path} role={role.declared} label="What this file is" />
    </Section>
  )
}

/** The recording that a picture was synced with: its identity is kept, so that a cut finds it again. */
function SyncedSound({
  sound,
  productionId,
}: {
  sound: NonNullable<ClipDetail['syncedSound']>
  productionId: string
}): ReactElement {
  return (
    <Section title="Its recording">
      {sound.recordings.map(({ clipId, name, presence }) => (
        <HStack key={clipId} gap="3">
          <StateWord word={presence} />
          <chakra.a
            as={Link}
            {...{ to: `/p/${productionId}/clips?clip=${clipId}` }}
            color="tide.fg"
            textDecoration="underline"
          >
            {name}
          </chakra.a>
        </HStack>
      ))}
      {sound.missing > 0 && <Text fontWeight="semibold">{sound.missing} of its files are no clips here any more.</Text>}
      <Text>
        Synced by {sound.method === 'points' ? 'marked points' : sound.method}; its first frame is{' '}
        <Box as="span" fontFamily="mono" fontSize="0.88rem">
          {sound.offset}
        </Box>
      </Text>
      <Text color="quiet">
        {sound.tracks ? `Uses ${sound.tracks.join(', ')}` : 'Uses all of its tracks'}; the camera’s own sound is{' '}
        {sound.cameraSound}.
      </Text>
    </Section>
  )
}

/** Eight pictures over the clip's length; the one under the pointer, or chosen with the arrow keys, is shown large. */
function Filmstrip({ clipId }: { clipId: string }): ReactElement {
  const [state, setState] = useState<'loading' | 'shown' | 'none'>('loading')
  const [tile, setTile] = useState<number | null>(null)
  const address = addressOf('clipFilmstrip', { clipId })
  return (
    <Box
      mb="5"
      bg="bg.subtle"
      minHeight="72px"
      role="slider"
      aria-label="Filmstrip"
      aria-valuemin={1}
      aria-valuemax={tiles}
      aria-valuenow={(tile ?? 0) + 1}
      tabIndex={0}
      onPointerMove={(event) => {
        const box = event.currentTarget.getBoundingClientRect()
        setTile(Math.max(0, Math.min(tiles - 1, Math.floor(((event.clientX - box.left) / box.width) * tiles))))
      }}
      onPointerLeave={() => setTile(null)}
      onKeyDown={(event) => {
        if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return
        event.preventDefault()
        setTile(Math.max(0, Math.min(tiles - 1, (tile ?? -1) + (event.key === 'ArrowRight' ? 1 : -1))))
      }}
      onBlur={() => setTile(null)}
    >
      {tile !== null && state === 'shown' && (
        <Box overflow="hidden" mb="1" data-testid="large-frame">
          <chakra.img
            src={address}
            alt=""
            maxWidth="none"
            width={`${tiles * 100}%`}
            style={{ marginLeft: `${-100 * tile}%` }}
          />
        </Box>
      )}
      {state !== 'none' && (
        <chakra.img
          src={address}
          alt="Filmstrip"
          width="100%"
          onLoad={() => setState('shown')}
          onError={() => setState('none')}
        />
      )}
      {state === 'none' && (
        <Text color="quiet" p="3">
          No picture can be shown while its file is not here.
        </Text>
      )}
    </Box>
  )
}
