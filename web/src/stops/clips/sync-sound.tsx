import { Box, Button, HStack, NativeSelect, Stack, Text } from '@chakra-ui/react'
import type { SoundSync, SoundSyncRequest } from '@ennick/contract'
import { type CameraSound, cameraSounds } from '@ennick/core'
import { type ReactElement, useEffect, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { orderOfEdits, useChange, useRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { JobLine } from '../../parts/job-line.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { Section } from '../../parts/sheet.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { Tab, TabList } from '../../parts/tab-list.tsx'
import { Tick } from '../../parts/tick.tsx'
import { count } from '../../parts/words.ts'
import { SyncFound } from './sync-found.tsx'

type Method = SoundSyncRequest['by']['method']

const methods: readonly { id: Method; word: string; about: string }[] = [
  {
    id: 'timecode',
    word: 'By timecode',
    about: 'A picture and a recording that carry one timecode were taken at one moment.',
  },
  {
    id: 'waveform',
    word: 'By waveform',
    about:
      'The scratch tracks of the cameras are laid on the recordings by their sound, to the sample; ' +
      'clocks that were wrong or run apart are told.',
  },
  {
    id: 'points',
    word: 'By marked points',
    about:
      'The in points of a picture and of a recording are one moment, such as a clap. ' +
      'Set them in the viewer (v on the row, then i).',
  },
]

/**
 * Finds which recordings ran while pictures were taken, shows each with its exact offset and everything that is left
 * over, and keeps it with the clips when told to.
 */
export function SyncSound(props: { clipIds: readonly string[]; isOpen: boolean; onClose: () => void }): ReactElement {
  // What was chosen for one selection means nothing for the next.
  return <SyncDialog key={String(props.isOpen)} {...props} />
}

function SyncDialog({
  clipIds,
  isOpen,
  onClose,
}: {
  clipIds: readonly string[]
  isOpen: boolean
  onClose: () => void
}): ReactElement {
  const production = useProduction()
  const params = { productionId: production.id }
  const [method, setMethod] = useState<Method>('timecode')
  const [jobId, setJobId] = useState<string | null>(null)
  const [choices, setChoices] = useState<Readonly<Record<string, string>>>({})
  const [nudges, setNudges] = useState<Readonly<Record<string, number>>>({})
  const [clocks, setClocks] = useState<readonly string[]>([])
  const [tracks, setTracks] = useState<readonly number[] | null>(null)
  const [cameraSound, setCameraSound] = useState<CameraSound>('muted')
  const [withWords, setWithWords] = useState(true)
  const listen = useChange('listenToClips', ({ id }) => setJobId(id))
  const job = useRead('readJob', jobId === null ? null : { params: { jobId } })
  // What was found last stays in sight while it is asked for again.
  const [last, setLast] = useState<SoundSync | null>(null)
  const preview = useChange('syncSound', setLast)
  const keep = useChange('syncSound', onClose, orderOfEdits)
  const isHeard = job.data?.state === 'done'
  const by = method === 'waveform' ? (jobId !== null && isHeard ? { method, jobId } : null) : { method }
  const body = by && {
    ...{ by, clipIds: [...clipIds], clocks: [...clocks], tracks: tracks && [...tracks], cameraSound, withWords },
    choices: Object.entries(choices).map(([clipId, soundId]) => ({ clipId, soundId })),
    nudges: Object.entries(nudges).map(([clipId, samples]) => ({ clipId, samples })),
  }
  const { mutate, reset } = preview
  const asked = JSON.stringify(body)
  useEffect(() => {
    const wanted = JSON.parse(asked)
    if (isOpen && wanted) mutate({ params: { productionId: production.id }, body: { ...wanted, apply: false } })
    else reset()
  }, [isOpen, asked, production.id, mutate, reset])
  const found = by ? last : null
  const error = keep.error ?? preview.error ?? listen.error
  const choose = (next: Method): void => {
    setMethod(next)
    setLast(null)
    setChoices({})
    setNudges({})
    setClocks([])
  }
  return (
    <Dialog
      title={clipIds.length ? `Sync ${count(clipIds.length, 'clip')} with sound` : 'Sync pictures with sound'}
      size="xl"
      isOpen={isOpen}
      onClose={onClose}
      footer={
        <Button
          disabled={!found || preview.isPending || found.changes === 0}
          loading={keep.isPending}
          onClick={() => body && keep.mutate({ params, body: { ...body, apply: true } })}
        >
          {found?.syncedTotal ? `Keep the sync of ${count(found.syncedTotal, 'picture')}` : 'Keep the sync'}
        </Button>
      }
    >
      <Stack gap="4">
        <TabList label="How to sync">
          {methods.map(({ id, word }) => (
            <Tab key={id} isChosen={method === id} onChoose={() => choose(id)}>
              {word}
            </Tab>
          ))}
        </TabList>
        <Text color="quiet">
          {methods.find(({ id }) => id === method)?.about} The link to the recording is kept with the picture’s clip, in
          columns. No file is changed, and it can be undone.
        </Text>
        {error && <Problem message={error.message} />}
        {method === 'waveform' && !isHeard && (
          <Box>
            <Button
              size="sm"
              loading={listen.isPending || job.data?.state === 'waiting' || job.data?.state === 'running'}
              loadingText="Listening"
              onClick={() => listen.mutate({ params, body: { clipIds: [...clipIds] } })}
            >
              {clipIds.length ? `Listen to ${count(clipIds.length, 'picture')}` : 'Listen to all pictures'}
            </Button>
            {job.data && <JobLine job={job.data} />}
          </Box>
        )}
        {by && !found && !error && <Loading what="the recordings" />}
        {found && (
          <>
            <Clocks clocks={found.clocks} chosen={clocks} onChoose={setClocks} />
            <SyncFound
              found={found}
              choices={choices}
              onChoose={setChoices}
              onNudge={(clipId, samples) => setNudges({ ...nudges, [clipId]: (nudges[clipId] ?? 0) + samples })}
            />
            {found.syncedTotal > 0 && (
              <Used
                found={found}
                tracks={tracks}
                onTracks={setTracks}
                cameraSound={cameraSound}
                onCameraSound={setCameraSound}
              />
            )}
          </>
        )}
        <Tick
          label="Take scene and take from the sound where the picture has none"
          isOn={withWords}
          onChange={setWithWords}
        />
      </Stack>
    </Dialog>
  )
}

/** Cards whose timecode was wrong all over: said, and put right where that is wanted. */
function Clocks({
  clocks,
  chosen,
  onChoose,
}: {
  clocks: SoundSync['clocks']
  chosen: readonly string[]
  onChoose: (chosen: readonly string[]) => void
}): ReactElement | null {
  if (clocks.length === 0) return null
  return (
    <Section title="Wrong clocks">
      {clocks.map(({ group, words, agreeing, others }) => (
        <Box key={group} py="1" data-testid="wrong-clock">
          <Text>
            <b>{group}</b>: {words}. {agreeing} pictures say the same.
          </Text>
          {(others > 0 || chosen.includes(group)) && (
            <Tick
              label="Place the rest of it by its timecode, put right by that"
              isOn={chosen.includes(group)}
              onChange={(isOn) => onChoose(isOn ? [...chosen, group] : chosen.filter((each) => each !== group))}
            />
          )}
        </Box>
      ))}
    </Section>
  )
}

/** Which tracks of the recordings are used, and what becomes of the camera's own sound. */
function Used({
  found,
  tracks,
  onTracks,
  cameraSound,
  onCameraSound,
}: {
  found: SoundSync
  tracks: readonly number[] | null
  onTracks: (tracks: readonly number[] | null) => void
  cameraSound: CameraSound
  onCameraSound: (sound: CameraSound) => void
}): ReactElement {
  const all = found.tracks.map(({ track }) => track)
  const names = found.tracks.flatMap((each) => (tracks === null || tracks.includes(each.track) ? each.names : []))
  const mix = names.find((name) => /mix/i.test(name))
  return (
    <Section title="What is used">
      <HStack gap="5" align="start" wrap="wrap">
        <Box role="group" aria-label="Tracks of the recordings">
          {found.tracks.map(({ track, names }) => (
            <Tick
              key={track}
              label={names.length ? `${track + 1}: ${names.join(', ')}` : `Track ${track + 1}`}
              isOn={tracks === null || tracks.includes(track)}
              onChange={(isOn) => {
                const next = all.filter((each) => (each === track ? isOn : (tracks?.includes(each) ?? true)))
                onTracks(next.length === all.length ? null : next)
              }}
            />
          ))}
        </Box>
        <HStack>
          <Text>The camera’s own sound is</Text>
          <NativeSelect.Root size="sm" width="8rem">
            <NativeSelect.Field
              aria-label="The camera’s own sound"
              value={cameraSound}
              onChange={(event) => onCameraSound(event.target.value as CameraSound)}
            >
              {cameraSounds.map((each) => (
                <option key={each}>{each}</option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
        </HStack>
      </HStack>
      {cameraSound === 'kept' && (
        <HStack mt="2" gap="2" align="center">
          <StateWord word="needs a look" />
          <Text>
            It is heard together with {mix ? `“${mix}”` : 'the recording'}. Mute or drop it, unless it is meant to be.
          </Text>
        </HStack>
      )}
    </Section>
  )
}
