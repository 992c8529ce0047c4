import { Box, Button, Field, Input, Stack, Text } from '@chakra-ui/react'
import { type ReactElement, useEffect, useState } from 'react'
import { useProduction } from '../app/production.tsx'
import { useChange } from '../data/queries.ts'
import { Dialog } from './dialog.tsx'
import { Loading, Problem } from './notices.tsx'
import { count } from './words.ts'

const mostListed = 100

/** What came a second time under its name is the original from now on; what that makes stale is said before. */
export function AcceptRedelivered({
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
  const { id: productionId } = useProduction()
  const [reason, setReason] = useState('')
  const preview = useChange('acceptRedelivered')
  const apply = useChange('acceptRedelivered', () => {
    setReason('')
    onDone()
  })
  const { mutate } = preview
  const asked = clipIds.join(' ')
  useEffect(() => {
    if (isOpen && asked !== '') mutate({ params: { productionId }, body: { clipIds: asked.split(' '), apply: false } })
  }, [isOpen, asked, productionId, mutate])
  const clips = preview.data?.clips ?? []
  const made = clips.reduce((sum, clip) => sum + clip.made, 0)
  const submit = (): void =>
    apply.mutate({
      params: { productionId },
      body: { clipIds: clips.map(({ clipId }) => clipId), reason, apply: true },
    })
  return (
    <Dialog
      title="Accept what was delivered again?"
      isOpen={isOpen}
      onClose={onClose}
      footer={
        <Button
          disabled={clips.length === 0 || preview.isPending || reason.trim().length < 3}
          loading={apply.isPending}
          onClick={submit}
        >
          Accept {count(clips.length, 'clip')}
        </Button>
      }
    >
      <Stack gap="3">
        {preview.isPending && <Loading what="what has changed" />}
        {preview.error && <Problem message={preview.error.message} />}
        {clips.length > 0 && (
          <>
            <Text>
              {clips.length === 1 ? 'This clip holds' : 'These clips hold'} other content than when{' '}
              {clips.length === 1 ? 'it was' : 'they were'} first seen. Accepted, that is the original in every cut. It
              is a mend, and can be taken back.
            </Text>
            {clips.length < clipIds.length && (
              <Text>{count(clipIds.length - clips.length, 'other clip')} marked: nothing of that changed.</Text>
            )}
            {made > 0 && (
              <Text>
                {count(made, 'made item')} of what was there before {made === 1 ? 'is' : 'are'} stale: make{' '}
                {made === 1 ? 'it' : 'them'} again in Pairs.
              </Text>
            )}
            <Box as="ul" listStyleType="none" maxHeight="14rem" overflowY="auto" aria-label="Delivered again">
              {clips.slice(0, mostListed).map(({ clipId, name, path, volumeLabel, saidPixelAspect }) => (
                <Box as="li" key={clipId} py="0.5">
                  <Text as="span" fontWeight="semibold">
                    {name}
                  </Text>{' '}
                  <Text as="span" color="quiet" overflowWrap="anywhere">
                    {path} on {volumeLabel}
                  </Text>
                  {saidPixelAspect !== null && (
                    <Text>
                      Its pixel aspect was set by hand, to {saidPixelAspect}, for what it held before. That stays: look
                      whether it still holds.
                    </Text>
                  )}
                </Box>
              ))}
            </Box>
            {clips.length > mostListed && <Text color="quiet">and {clips.length - mostListed} more</Text>}
            <Field.Root>
              <Field.Label>Who delivered it again, and why</Field.Label>
              <Input
                size="sm"
                bg="page"
                value={reason}
                onChange={(event) => setReason(event.target.value)}
                onKeyDown={(event) => {
                  if (event.key === 'Enter' && reason.trim().length >= 3) submit()
                }}
              />
            </Field.Root>
          </>
        )}
        {apply.error && <Problem message={apply.error.message} />}
      </Stack>
    </Dialog>
  )
}
