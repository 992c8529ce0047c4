import { Box, Button, Field, HStack, Input, Link, NativeSelect, Stack, Text } from '@chakra-ui/react'
import type { JoinOffer, MakeBatch } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { addressOf } from '../../data/api.ts'
import { useChange, useRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { bytes, count } from '../../parts/words.ts'

/** One file of all that a batch has made with a recipe: those that were made, and the means to make one. */
export function JoinBatch({ batch }: { batch: MakeBatch }): ReactElement | null {
  const [isAsking, setAsking] = useState(false)
  const remove = useChange('removeJoined')
  if (batch.counts.made < 2) return null
  return (
    <Box mt="3" data-testid="joined">
      <HStack gap="4">
        <Text fontWeight="semibold">One file of all</Text>
        <Button size="xs" variant="outline" onClick={() => setAsking(true)}>
          Join into one file…
        </Button>
      </HStack>
      {batch.joined.map(({ id, path, place, parts, duration, sizeBytes }) => (
        <HStack key={id} gap="4" mt="1">
          <Text flex="1" minWidth="0" overflowWrap="anywhere">
            {place}: {path}
            <Text as="span" color="quiet">
              {' '}
              {count(parts, 'item')}, {duration}, {bytes(sizeBytes)}
            </Text>
          </Text>
          <Link href={addressOf('readJoinedList', { joinedId: id, list: 'table' })}>What is where (CSV)</Link>
          <Link href={addressOf('readJoinedList', { joinedId: id, list: 'edl' })}>As a list (EDL)</Link>
          <Button
            size="xs"
            variant="ghost"
            aria-label={`Remove ${path}`}
            loading={remove.isPending}
            onClick={() => remove.mutate({ params: { joinedId: id } })}
          >
            Remove
          </Button>
        </HStack>
      ))}
      {remove.error && <Problem message={remove.error.message} />}
      {isAsking && <JoinDialog batchId={batch.id} onClose={() => setAsking(false)} />}
    </Box>
  )
}

function JoinDialog({ batchId, onClose }: { batchId: string; onClose: () => void }): ReactElement {
  const params = { batchId }
  const offers = useRead('offerJoins', { params })
  const [recipeId, setRecipeId] = useState<string | null>(null)
  const [name, setName] = useState<string | null>(null)
  const start = useChange('joinBatch', onClose)
  const offer = offers.data?.find((each) => each.recipeId === recipeId) ?? offers.data?.[0]
  const written = name ?? offer?.name ?? ''
  return (
    <Dialog
      title="Join into one file"
      isOpen
      onClose={onClose}
      footer={
        <Button
          disabled={!offer || offer.troubles.length > 0 || written.trim() === ''}
          loading={start.isPending}
          onClick={() => offer && start.mutate({ params, body: { recipeId: offer.recipeId, name: written } })}
        >
          Join {offer ? count(offer.total, 'item') : ''}
        </Button>
      }
    >
      {offers.isPending && <Loading what="what can be joined" />}
      {offers.error && <Problem message={offers.error.message} />}
      {offers.data && !offer && (
        <Text>
          Nothing of this batch can be one file: that takes two items of one recipe that are in use, and no OP-Atom.
        </Text>
      )}
      {offer && (
        <Stack gap="4">
          {(offers.data?.length ?? 0) > 1 && (
            <Field.Root>
              <Field.Label>Made with</Field.Label>
              <NativeSelect.Root>
                <NativeSelect.Field
                  value={offer.recipeId}
                  onChange={(event) => {
                    setRecipeId(event.target.value)
                    setName(null)
                  }}
                >
                  {offers.data?.map((each) => (
                    <option key={each.recipeId} value={each.recipeId}>
                      {each.recipe}
                    </option>
                  ))}
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </Field.Root>
          )}
          <Offered offer={offer} />
          <Field.Root>
            <Field.Label>Name, without ending</Field.Label>
            <Input value={written} onChange={(event) => setName(event.target.value)} />
            <Field.HelperText>
              It goes to “{offer.place}”, folder “joined”, and begins at 01:00:00:00. The items stay as they are; a list
              of what is where comes with it.
            </Field.HelperText>
          </Field.Root>
          {start.error && <Problem message={start.error.message} />}
        </Stack>
      )}
    </Dialog>
  )
}

/** Names that are shown one by one. */
const mostShown = 8

function Offered({ offer }: { offer: JoinOffer }): ReactElement {
  const { total, names, duration, bytes: size, freeBytes, troubles } = offer
  if (troubles.length > 0)
    return (
      <Box>
        <Problem message="These cannot be one file without being encoded again." />
        {troubles.slice(0, mostShown).map((trouble) => (
          <Text key={trouble} mt="1">
            {trouble}
          </Text>
        ))}
        {troubles.length > mostShown && <Text>and {troubles.length - mostShown} more</Text>}
      </Box>
    )
  return (
    <Box>
      <Text>
        {count(total, 'item')} in the order of shooting, {duration}, about {bytes(size)}
        {freeBytes !== null && `; ${bytes(freeBytes)} free`}. Pictures are copied as they are; of each part the sound is
        as long as its picture.
      </Text>
      <Text color="quiet" fontSize="0.9rem" overflowWrap="anywhere">
        {names.slice(0, mostShown).join(', ')}
        {total > mostShown && ` and ${total - mostShown} more`}
      </Text>
    </Box>
  )
}
