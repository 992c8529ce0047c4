import { Box, Button, Field, HStack, Input, NativeSelect, Stack, Text } from '@chakra-ui/react'
import type { HashKindName, OffloadPlan, Volume } from '@ennick/contract'
import { formatNumber, nameSome } from '@ennick/core'
import { type ReactElement, useEffect, useState } from 'react'
import { usePlanned } from '../../data/planned.ts'
import { useChange, useRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
import { Tick } from '../../parts/tick.tsx'
import { bytes, count } from '../../parts/words.ts'
import { DestinationChoice, NoDestination } from './destination-choice.tsx'
import { PassedOver } from './passed-over.tsx'
import { TakenClips } from './taken-clips.tsx'

const hashes: Record<HashKindName, string> = { xxh64: 'xxHash64', md5: 'MD5', sha1: 'SHA-1' }
const usualHash: HashKindName = 'xxh64'

/** Copies a card to storage: where to, how much, what will be left free, before anything is copied. */
export function OffloadDialog({
  volume,
  volumes,
  onClose,
  onAdd,
}: {
  volume: Volume | null
  volumes: readonly Volume[]
  onClose: () => void
  onAdd: () => void
}): ReactElement {
  const destinations = volumes.filter(
    (each) => !each.isRemovable && each.kind !== 'upload' && each.isHere && each.id !== volume?.id,
  )
  const [destinationId, setDestinationId] = useState('')
  const [folder, setFolder] = useState('')
  const [chosenHash, setChosenHash] = useState<HashKindName | null>(null)
  const [mendsLost, setMendsLost] = useState(true)
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const start = useChange('offloadVolume', onClose)
  const id = volume?.id ?? ''
  const label = volume?.label ?? ''
  const usualFolder = [volume?.box.day, label].filter(Boolean).join('/')
  useEffect(() => {
    if (!id) return
    setFolder(usualFolder)
    setChosenHash(null)
    setLeft(new Set())
  }, [id, usualFolder])
  const lost = useRead('listLostHere', id ? { params: { volumeId: id } } : null)
  const clips = useRead('listVolumeClips', id ? { params: { volumeId: id } } : null)
  const plan = usePlanned(
    'planOffload',
    id && destinationId && folder.trim() !== ''
      ? {
          params: { volumeId: id },
          body: { destinationId, folder, hash: 'xxh64', leave: [...left], mendsLost: false },
        }
      : null,
  )
  const error = start.error ?? plan.error
  const lostHere = lost.data ?? []
  const { shown } = plan
  const listedBy = shown?.listedBy ?? []
  // What its own manifest has is compared for nothing, so that is chosen unless somebody chooses otherwise.
  const hash = chosenHash ?? (listedBy.includes(usualHash) ? usualHash : (listedBy[0] ?? usualHash))
  return (
    <Dialog
      title={`Offload ${label} to storage`}
      isOpen={volume !== null}
      onClose={onClose}
      footer={
        <Button
          disabled={!plan.ready || plan.ready.blocked !== null}
          loading={start.isPending}
          onClick={() =>
            start.mutate({
              params: { volumeId: id },
              body: { destinationId, folder, hash, leave: [...left], mendsLost: mendsLost && lostHere.length > 0 },
            })
          }
        >
          {plan.ready ? `Copy and verify ${count(plan.ready.files, 'file')}` : 'Copy and verify'}
        </Button>
      }
    >
      <Stack gap="4">
        {destinations.length === 0 ? (
          <NoDestination
            what="copy"
            onAdd={() => {
              onClose()
              onAdd()
            }}
          />
        ) : (
          <HStack gap="4" align="start">
            <DestinationChoice destinations={destinations} value={destinationId} onChange={setDestinationId} />
            <Field.Root required>
              <Field.Label>into the folder</Field.Label>
              <Input value={folder} onChange={(event) => setFolder(event.target.value)} />
            </Field.Root>
            <Field.Root width="14rem" flexShrink="0">
              <Field.Label>Checksum</Field.Label>
              <NativeSelect.Root>
                <NativeSelect.Field
                  value={hash}
                  onChange={(event) => setChosenHash(event.target.value as HashKindName)}
                >
                  {Object.entries(hashes).map(([value, name]) => (
                    <option key={value} value={value}>
                      {value === usualHash ? `${name} (quickest)` : name}
                    </option>
                  ))}
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </Field.Root>
          </HStack>
        )}
        {clips.error && <Problem message={clips.error.message} />}
        {destinations.length > 0 && clips.data && clips.data.length > 0 && (
          <TakenClips clips={clips.data} left={left} onChange={setLeft} />
        )}
        {lostHere.length > 0 && (
          <Box>
            <Tick
              label={`Repoint ${count(lostHere.length, 'lost original')} to the copies`}
              isOn={mendsLost}
              onChange={setMendsLost}
            />
            <Text color="quiet" fontSize="0.9rem">
              {nameSome(lostHere.map(({ name }) => name))}: not at{' '}
              {lostHere.length === 1 ? 'its place' : 'their places'} any more, and the very content is on {label}. It is
              a mend, and can be taken back.
            </Text>
          </Box>
        )}
        {error && <Problem message={error.message} />}
        {shown && (
          <>
            <Text>
              {count(shown.files, 'file')}, {bytes(shown.bytes)} to {shown.target}
              {shown.already > 0 && `; ${formatNumber(shown.already)} of them are there already and will be compared`}
              {shown.left > 0 &&
                `; ${count(shown.left, 'file')} ${shown.left === 1 ? 'stays' : 'stay'} behind, by choice`}
              <Box as="span" color="quiet">
                {' '}
                · {bytes(shown.freeBytes)} free,{' '}
                {shown.leftBytes < 0 ? 'too little' : `${bytes(shown.leftBytes)} left afterwards`}
              </Box>
            </Text>
            {shown.unreadable.length > 0 && <Problem message={whatCannotBeRead(shown.unreadable)} />}
            {listedBy.length > 0 && <Text>{heldAgainst(listedBy, hash)}</Text>}
            <PassedOver kinds={shown.passedOver} />
            {shown.blocked && <Problem message={shown.blocked} />}
          </>
        )}
        <Text color="quiet" fontSize="0.9rem">
          Every copy is read back and compared before it gets its name. Nothing is overwritten, and nothing on {label}{' '}
          is touched. What is no clip goes along. A manifest of the checksums is written beside the copy; the clips then
          live on the copy, and {label} is known to hold another.
        </Text>
      </Stack>
    </Dialog>
  )
}

const whatCannotBeRead = (list: OffloadPlan['unreadable']): string =>
  `${count(list.length, 'folder or file', 'folders or files')} cannot be read and would not be copied: ` +
  `${nameSome(list.map(({ path }) => path))}. ${list[0]?.reason} The offload will not count as done.`

const heldAgainst = (listedBy: readonly HashKindName[], hash: HashKindName): string =>
  listedBy.includes(hash)
    ? `Its own manifest lists files by ${hashes[hash]}: each copy is held against that.`
    : `Its own manifest lists files by ${listedBy.map((kind) => hashes[kind]).join(' and ')}: ` +
      'choose that, and each copy is held against it.'
