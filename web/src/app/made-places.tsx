import { Box, Button, Field, HStack, Input, NativeSelect, Stack, Text } from '@chakra-ui/react'
import type { MadePlace } from '@ennick/contract'
import { itemsOfKind, type PairKind, pairKinds } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { useChange, useRead } from '../data/queries.ts'
import { Dialog } from '../parts/dialog.tsx'
import { FolderPicker } from '../parts/folder-picker.tsx'
import { Loading, Problem } from '../parts/notices.tsx'
import { Section } from '../parts/sheet.tsx'
import { Tick } from '../parts/tick.tsx'
import { bytes, count } from '../parts/words.ts'
import { MadeListing } from './made-listing.tsx'
import { useProduction } from './production.tsx'

/** Where each kind of what is made of the production goes, and how much room there is. */
export function MadePlaces(): ReactElement {
  const params = { productionId: useProduction().id }
  const places = useRead('listMadePlaces', { params })
  const [isAdding, setAdding] = useState(false)
  return (
    <Section
      title="Where proxies and transcodes go"
      action={
        <Button size="xs" variant="ghost" onClick={() => setAdding(true)}>
          Add a place…
        </Button>
      }
    >
      {places.isPending && <Loading what="the places" />}
      {places.error && <Problem message={places.error.message} />}
      {places.data?.map((place) => (
        <Place key={place.id} place={place} isOnly={places.data.length === 1} />
      ))}
      {places.data && places.data.length > 1 && <Rule places={places.data} />}
      {isAdding && <AddPlace onClose={() => setAdding(false)} />}
    </Section>
  )
}

function Place({ place, isOnly }: { place: MadePlace; isOnly: boolean }): ReactElement {
  const [isChoosing, setChoosing] = useState(false)
  const [isLooking, setLooking] = useState(false)
  const remove = useChange('removeMadePlace')
  const takes = place.takes.map((kind) => itemsOfKind[kind])
  return (
    <Box data-testid="made-place" mb="4">
      {!isOnly && (
        <Text>
          <Box as="span" fontWeight="semibold">
            {place.label}
          </Box>
          <Box as="span" color="quiet">
            {' '}
            · {takes.length ? `takes ${takes.join(', ')}` : 'takes nothing new'}
            {place.isMain && ', and all copies that stand in for originals'}
          </Box>
        </Text>
      )}
      <Text fontFamily="mono" overflowWrap="anywhere" data-testid="made-path">
        {place.path}
      </Text>
      <Text color="quiet">
        {place.isHere ? '' : 'It is not there now. '}
        {place.files === 0 ? 'Nothing was made yet' : `${count(place.files, 'file')}, ${bytes(place.bytes)}`}
        {place.freeBytes !== null && ` · ${bytes(place.freeBytes)} free`}
      </Text>
      <HStack mt="2">
        <Button size="sm" variant="outline" onClick={() => setLooking(true)}>
          Look into it…
        </Button>
        <Button size="sm" variant="outline" onClick={() => setChoosing(true)}>
          Change its folder…
        </Button>
        {!place.isMain && (
          <Button
            size="sm"
            variant="ghost"
            loading={remove.isPending}
            onClick={() => remove.mutate({ params: { volumeId: place.id } })}
          >
            Give it up
          </Button>
        )}
      </HStack>
      {remove.error && <Problem message={remove.error.message} />}
      <MadeListing place={place} isOpen={isLooking} onClose={() => setLooking(false)} />
      {isChoosing && <ChangeFolder place={place} onClose={() => setChoosing(false)} />}
    </Box>
  )
}

function ChangeFolder({ place, onClose }: { place: MadePlace; onClose: () => void }): ReactElement {
  const [folder, setFolder] = useState<string | null>(null)
  const change = useChange('changeMadePlace', onClose)
  return (
    <Dialog
      title={`Where should “${place.label}” lie?`}
      isOpen
      onClose={onClose}
      footer={
        <Button
          disabled={folder === null}
          loading={change.isPending}
          onClick={() => folder !== null && change.mutate({ params: { volumeId: place.id }, body: { folder } })}
        >
          Have it lie there
        </Button>
      }
    >
      <Stack gap="3">
        <Text>
          {place.files
            ? 'Ennick moves no files. Move the folder above with all that is in it to where you want it, ' +
              'then choose it here: it is known by its marker. To have only new ones go elsewhere, add a place.'
            : 'A folder of the production’s own is made in the one that you choose. Nothing else in it is touched.'}
        </Text>
        <FolderPicker onChoose={setFolder} />
        {change.error && <Problem message={change.error.message} />}
      </Stack>
    </Dialog>
  )
}

/** Which kind of new items goes to which place. */
function Rule({ places }: { places: readonly MadePlace[] }): ReactElement {
  const production = useProduction()
  const set = useChange('setMadePlaceRule')
  return (
    <Box data-testid="place-rule">
      <Text color="quiet" mb="1">
        What goes where from now on. What was made already stays where it is.
      </Text>
      <HStack gap="4" wrap="wrap">
        {pairKinds.map((kind) => (
          <Field.Root key={kind} width="14rem">
            <Field.Label display="block" _firstLetter={{ textTransform: 'uppercase' }}>
              {itemsOfKind[kind]}
            </Field.Label>
            <NativeSelect.Root size="sm" disabled={set.isPending}>
              <NativeSelect.Field
                bg="page"
                value={places.find(({ takes }) => takes.includes(kind))?.id ?? ''}
                onChange={(event) =>
                  set.mutate({
                    params: { productionId: production.id },
                    body: { kind, placeId: event.target.value },
                  })
                }
              >
                {places.map(({ id, label }) => (
                  <option key={id} value={id}>
                    {label}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </Field.Root>
        ))}
      </HStack>
      {set.error && <Problem message={set.error.message} />}
    </Box>
  )
}

function AddPlace({ onClose }: { onClose: () => void }): ReactElement {
  const production = useProduction()
  const [label, setLabel] = useState('')
  const [takes, setTakes] = useState<readonly PairKind[]>([])
  const [folder, setFolder] = useState<string | null>(null)
  const add = useChange('addMadePlace', onClose)
  const isReady = folder !== null && label.trim() !== '' && takes.length > 0
  return (
    <Dialog
      title="A place of its own for some of what is made"
      isOpen
      onClose={onClose}
      footer={
        <Button
          disabled={!isReady}
          loading={add.isPending}
          onClick={() =>
            folder !== null &&
            add.mutate({ params: { productionId: production.id }, body: { folder, label, takes: [...takes] } })
          }
        >
          Add the place
        </Button>
      }
    >
      <Stack gap="3">
        <Text>
          New items of the kinds that you tick go there from now on. A folder of the production’s own is made in the one
          that you choose; nothing else in it is touched, and what was made already stays where it is.
        </Text>
        <Field.Root>
          <Field.Label>Name of the place</Field.Label>
          <Input
            bg="page"
            maxLength={80}
            value={label}
            placeholder="Optimized, on the finishing storage"
            onChange={(event) => setLabel(event.target.value)}
          />
        </Field.Root>
        <HStack role="group" aria-label="What goes there" gap="4" wrap="wrap">
          {pairKinds.map((kind) => (
            <Tick
              key={kind}
              label={itemsOfKind[kind]}
              isOn={takes.includes(kind)}
              onChange={(isOn) => setTakes(pairKinds.filter((each) => (each === kind ? isOn : takes.includes(each))))}
            />
          ))}
        </HStack>
        <FolderPicker onChoose={setFolder} />
        {add.error && <Problem message={add.error.message} />}
      </Stack>
    </Dialog>
  )
}
