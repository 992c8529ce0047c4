import { Box, Button, Field, Input, Stack, Text } from '@chakra-ui/react'
import type { Cut } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { type ReactElement, useCallback, useState } from 'react'
import { usePlanned } from '../../data/planned.ts'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { EvidenceList } from '../../parts/evidence-list.tsx'
import { FolderPicker } from '../../parts/folder-picker.tsx'
import { Problem } from '../../parts/notices.tsx'
import { count } from '../../parts/words.ts'

/** Holds a finished file against the originals of a cut: which one, where it begins, and what it is, before that. */
export function FinishedDialog({ cut, onClose }: { cut: Cut; onClose: () => void }): ReactElement {
  const [folder, setFolder] = useState<string | null>(null)
  const [name, setName] = useState<string | null>(null)
  const [start, setStart] = useState<string | null>(null)
  const open = useCallback((path: string | null) => {
    setFolder(path)
    setName(null)
    setStart(null)
  }, [])
  const asked =
    folder !== null && name !== null
      ? { params: { cutId: cut.id }, body: { folder, name, start: start || null } }
      : null
  const plan = usePlanned('planFinished', asked)
  const check = useChange('checkFinished', onClose)
  const error = check.error ?? plan.error
  const { ready, shown } = plan
  return (
    <Dialog
      title={`A finished file of “${cut.name}”`}
      isOpen
      onClose={onClose}
      footer={
        <Button
          disabled={!ready || ready.blocked !== null}
          loading={check.isPending}
          onClick={() => asked && check.mutate(asked)}
        >
          {ready ? `Check ${count(ready.comparable, 'event')}` : 'Check'}
        </Button>
      }
    >
      <Stack gap="4">
        <Box>
          <Text mb="1" fontWeight="medium">
            The render or master
          </Text>
          <FolderPicker
            onChoose={open}
            file={{
              chosen: name,
              onChoose: (chosen) => {
                setName(chosen)
                setStart(null)
              },
            }}
          />
        </Box>
        {error && <Problem message={error.message} />}
        {name !== null && (start !== null || shown) && (
          <Field.Root width="16rem">
            <Field.Label>Its first frame is, in the record</Field.Label>
            <Input
              fontFamily="mono"
              value={start ?? shown?.start ?? ''}
              onChange={(event) => setStart(event.target.value)}
            />
            <Field.HelperText>By its own timecode, where the cut lies in it by that.</Field.HelperText>
          </Field.Root>
        )}
        {shown && (
          <Box data-testid="finished-plan">
            <EvidenceList rows={shown.settings} expected="Cut and production" found="The file" />
            <Text mt="2">
              {formatNumber(shown.comparable)} of {count(shown.events, 'event')} of picture can be held against an
              original that is here.
            </Text>
            {shown.blocked !== null && <Problem message={shown.blocked} />}
          </Box>
        )}
        <Text color="quiet" fontSize="0.9rem">
          Every picture of the file is decoded. Each event is looked at from its first frame to its last, at up to five
          places of sixteen frames, and wherever the picture jumps in between. Grading, size, codec and bars do not
          count; what is reframed or written over is told as another picture. Transitions, keys and what lies under
          titles are left out. Nothing is written.
        </Text>
      </Stack>
    </Dialog>
  )
}
