import { Box, Button, HStack, Stack, Text } from '@chakra-ui/react'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useEffect } from 'react'
import { useProduction } from '../../app/production.tsx'
import { orderOfEdits, useChange, useRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { StateWord } from '../../parts/state-word.tsx'
import { bytes, count } from '../../parts/words.ts'

/** Takes the marked clips out of the production: what that comes to is said before. */
export function TakeOut({
  clipIds,
  isOpen,
  onClose,
  onDone,
}: {
  clipIds: readonly string[]
  isOpen: boolean
  onClose: () => void
  onDone: () => void
}): ReactElement {
  const production = useProduction()
  const preview = useChange('takeOutClips')
  const apply = useChange('takeOutClips', onDone, orderOfEdits)
  const { mutate } = preview
  const asked = clipIds.join(' ')
  useEffect(() => {
    if (isOpen && asked !== '')
      mutate({ params: { productionId: production.id }, body: { clipIds: asked.split(' '), apply: false } })
  }, [isOpen, asked, production.id, mutate])
  const error = apply.error ?? preview.error
  const { data } = preview
  return (
    <Dialog
      title={`Take ${count(clipIds.length, 'clip')} out of the production?`}
      isOpen={isOpen}
      onClose={onClose}
      footer={
        <Button
          disabled={!data || preview.isPending}
          loading={apply.isPending}
          onClick={() =>
            apply.mutate({
              params: { productionId: production.id },
              body: { clipIds: [...clipIds], apply: true },
            })
          }
        >
          Take {count(clipIds.length, 'clip')} out
        </Button>
      }
    >
      <Stack gap="2">
        <Text>
          No file is touched. Scans leave these files alone from now on, and what is known of the clips is kept: they
          can be brought back, and the step can be undone.
        </Text>
        {preview.isPending && <Loading what="what uses them" />}
        {data && data.used > 0 && (
          <Text>
            <StateWord word="needs a look" />{' '}
            {data.used === 1 ? 'One of them is' : `${formatNumber(data.used)} of them are`} used in
            {` ${data.cuts.join(', ')}`}: those events will have no original.
          </Text>
        )}
        {data && data.synced > 0 && (
          <Text>
            <StateWord word="needs a look" /> {count(data.synced, 'picture')}{' '}
            {data.synced === 1 ? 'is synced with one' : 'are synced with some'} of them, and will have no recording.
          </Text>
        )}
        {data && data.made > 0 && (
          <Text>
            <StateWord word="needs a look" /> {count(data.made, 'made item')} of them, {bytes(data.madeBytes)},{' '}
            {data.made === 1 ? 'stays' : 'stay'} on disk. To free that space, release them in Pairs first.
          </Text>
        )}
        {error && <Problem message={error.message} />}
      </Stack>
    </Dialog>
  )
}

const shownAtMost = 200

/** What was taken out, to be brought back. */
export function TakenOut({ isOpen, onClose }: { isOpen: boolean; onClose: () => void }): ReactElement {
  const params = { productionId: useProduction().id }
  const list = useRead('listTakenOut', isOpen ? { params } : null)
  const back = useChange('bringBackClips', undefined, orderOfEdits)
  const bringBack = (clipIds: readonly string[]): void => back.mutate({ params, body: { clipIds: [...clipIds] } })
  const clips = list.data ?? []
  const error = list.error ?? back.error
  return (
    <Dialog
      title="Clips taken out of the production"
      isOpen={isOpen}
      onClose={onClose}
      footer={
        <Button
          disabled={clips.length === 0}
          loading={back.isPending}
          onClick={() => bringBack(clips.map(({ clipId }) => clipId))}
        >
          Bring all {formatNumber(clips.length)} back
        </Button>
      }
    >
      {isOpen && list.isPending && <Loading what="what was taken out" />}
      {error && <Problem message={error.message} />}
      {list.data && clips.length === 0 && <Text color="quiet">Nothing was taken out.</Text>}
      <Box maxHeight="24rem" overflowY="auto">
        {clips.slice(0, shownAtMost).map(({ clipId, name, path, volumeLabel }) => (
          <HStack key={clipId} gap="3" py="0.5" align="baseline" data-testid="taken-out">
            <Text fontWeight="semibold">{name}</Text>
            <Text color="quiet" fontSize="0.85rem" flex="1" minWidth="0" overflowWrap="anywhere">
              {path} on {volumeLabel}
            </Text>
            <Button size="2xs" variant="outline" disabled={back.isPending} onClick={() => bringBack([clipId])}>
              Bring back
            </Button>
          </HStack>
        ))}
      </Box>
      {clips.length > shownAtMost && <Text color="quiet">and {clips.length - shownAtMost} more</Text>}
    </Dialog>
  )
}
