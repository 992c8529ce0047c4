import { Box, Button, Field, HStack, Input, Stack, Text } from '@chakra-ui/react'
import type { FetchPlan, Volume } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'
import { bytes, count } from '../../parts/words.ts'
import { DestinationChoice, NoDestination } from './destination-choice.tsx'

/** Fetches what a list in a store names: what that is and where it goes, before anything comes. */
export function FetchDialog({
  isOpen,
  volumes,
  onClose,
  onAdd,
}: {
  isOpen: boolean
  volumes: readonly Volume[]
  onClose: () => void
  onAdd: () => void
}): ReactElement {
  const destinations = volumes.filter((each) => !each.isRemovable && each.isHere)
  const [address, setAddress] = useState('')
  const [chosenId, setChosenId] = useState('')
  const [folder, setFolder] = useState('')
  const plan = useChange('planFetch')
  const start = useChange('fetchToVolume', () => {
    setAddress('')
    plan.reset()
    onClose()
  })
  const destinationId = chosenId || (destinations.length === 1 ? (destinations[0]?.id ?? '') : '')
  const isAsked = address.trim() !== '' && destinationId !== '' && folder.trim() !== ''
  const asked = { params: { volumeId: destinationId }, body: { address, folder } }
  const shown = plan.data ?? null
  /** What was read speaks of what was asked then. */
  const change = (set: (value: string) => void) => (value: string) => {
    set(value)
    plan.reset()
    start.reset()
  }
  const error = start.error ?? plan.error
  return (
    <Dialog
      title="Fetch from a store"
      isOpen={isOpen}
      onClose={onClose}
      footer={
        shown ? (
          <Button disabled={shown.blocked !== null} loading={start.isPending} onClick={() => start.mutate(asked)}>
            Fetch and verify {count(shown.files, 'file')}
          </Button>
        ) : (
          <Button disabled={!isAsked} loading={plan.isPending} onClick={() => plan.mutate(asked)}>
            Read the list
          </Button>
        )
      }
    >
      {destinations.length === 0 ? (
        <NoDestination
          what="fetch"
          onAdd={() => {
            onClose()
            onAdd()
          }}
        />
      ) : (
        <Stack gap="4">
          <Field.Root required>
            <Field.Label>Address of the list</Field.Label>
            <Input
              value={address}
              onChange={(event) => change(setAddress)(event.target.value)}
              placeholder="https://store.example/day-3/proxies.md5"
              fontFamily="mono"
              fontSize="0.9rem"
              spellCheck={false}
            />
            <Field.HelperText>
              A list of checksums: an ASC MHL manifest, or what md5sum, sha1sum or xxhsum write. What it names lies
              beside it.
            </Field.HelperText>
          </Field.Root>
          <HStack gap="4" align="start">
            <DestinationChoice destinations={destinations} value={destinationId} onChange={change(setChosenId)} />
            <Field.Root required>
              <Field.Label>into the folder</Field.Label>
              <Input
                value={folder}
                onChange={(event) => change(setFolder)(event.target.value)}
                placeholder="day 3/proxies"
              />
            </Field.Root>
          </HStack>
          {error && <Problem message={error.message} />}
          {shown && <Planned plan={shown} />}
          <Text color="quiet" fontSize="0.9rem">
            It goes on in the background, beside all other work. A file gets its name only when all of it is there, has
            the checksum of the list and was read back: nobody cuts with half a file. Nothing is overwritten. What has
            come is scanned.
          </Text>
        </Stack>
      )}
    </Dialog>
  )
}

function Planned({ plan }: { plan: FetchPlan }): ReactElement {
  const more = plan.files - plan.paths.length
  return (
    <Box>
      <Text>
        {count(plan.files, 'file')}
        {plan.bytes !== null && `, ${bytes(plan.bytes)},`} to {plan.target}
        {plan.bytes === null && '; the list does not say how large they are'}
        {plan.already > 0 && `; ${plan.already} there already, to be compared`}
        <Box as="span" color="quiet">
          {' '}
          · {bytes(plan.freeBytes)} free
        </Box>
      </Text>
      <Box as="ul" fontFamily="mono" fontSize="0.85rem" mt="2" maxHeight="10rem" overflowY="auto">
        {plan.paths.map((path) => (
          <li key={path}>{path}</li>
        ))}
        {more > 0 && <li>and {more} more</li>}
      </Box>
      {plan.passedOver.length > 0 && (
        <Text mt="2">
          Passed over: {plan.passedOver.join(', ')}. Hidden files, and a store’s own history of manifests, are not
          fetched.
        </Text>
      )}
      {plan.blocked && <Problem message={plan.blocked} />}
    </Box>
  )
}
