import { Box, Button, Field, HStack, Input, NativeSelect, Stack, Text } from '@chakra-ui/react'
import type { Cut } from '@ennick/contract'
import { type ReactElement, useEffect, useState } from 'react'
import { useChange } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { DigitsField } from '../../parts/digits-field.tsx'
import { FolderPicker } from '../../parts/folder-picker.tsx'
import { Problem } from '../../parts/notices.tsx'
import { PlannedCopy } from '../../parts/planned-copy.tsx'
import { count } from '../../parts/words.ts'

type PullOf = 'originals' | 'proxies'
const says: Record<PullOf, string> = {
  originals: 'Originals, to finish with',
  proxies: 'Proxies, to go on cutting with',
}

/** Copies what a cut needs: what, where to, how much, and what is not here, before anything is copied. */
export function PullDialog({ cut, isOpen, onClose }: { cut: Cut; isOpen: boolean; onClose: () => void }): ReactElement {
  const [of, setOf] = useState<PullOf>('originals')
  const [folder, setFolder] = useState<string | null>(null)
  const [name, setName] = useState(`${cut.name} pull`)
  const [isWhole, setWhole] = useState(true)
  const [frames, setFrames] = useState('25')
  const handles = of === 'originals' && !isWhole ? Number.parseInt(frames, 10) || 0 : null
  const plan = useChange('planPull')
  const start = useChange('pull', onClose)
  const params = { cutId: cut.id }
  const { mutate, reset } = plan
  useEffect(() => {
    if (!isOpen || folder === null || name.trim() === '') {
      reset()
      return
    }
    const timer = window.setTimeout(
      () => mutate({ params: { cutId: cut.id }, body: { of, folder, name, handles } }),
      200,
    )
    return () => window.clearTimeout(timer)
  }, [isOpen, cut.id, of, folder, name, handles, mutate, reset])
  const error = start.error ?? plan.error
  const ready = plan.data && !plan.error && !plan.isPending ? plan.data : null
  return (
    <Dialog
      title={`Pull what “${cut.name}” uses`}
      isOpen={isOpen}
      onClose={onClose}
      footer={
        <Button
          disabled={!ready || ready.blocked !== null || folder === null}
          loading={start.isPending}
          onClick={() =>
            folder !== null && start.mutate({ params, body: { of, folder, name, handles, hash: 'xxh64' } })
          }
        >
          {ready ? `Copy and verify ${count(ready.files, 'file')}` : 'Copy and verify'}
        </Button>
      }
    >
      <Stack gap="4">
        <HStack gap="4" align="start">
          <Field.Root width="18rem" flexShrink="0">
            <Field.Label>What travels</Field.Label>
            <NativeSelect.Root>
              <NativeSelect.Field value={of} onChange={(event) => setOf(event.target.value as PullOf)}>
                {Object.entries(says).map(([value, words]) => (
                  <option key={value} value={value}>
                    {words}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </Field.Root>
          <Field.Root required>
            <Field.Label>Into a folder called</Field.Label>
            <Input value={name} onChange={(event) => setName(event.target.value)} />
          </Field.Root>
        </HStack>
        {of === 'originals' && (
          <HStack gap="4" align="end">
            <Field.Root width="18rem" flexShrink="0">
              <Field.Label>How much of each</Field.Label>
              <NativeSelect.Root>
                <NativeSelect.Field
                  value={isWhole ? 'whole' : 'used'}
                  onChange={(event) => setWhole(event.target.value === 'whole')}
                >
                  <option value="whole">Whole files</option>
                  <option value="used">What is used, with handles</option>
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </Field.Root>
            {!isWhole && <DigitsField width="8rem" label="Handles, in frames" value={frames} onChange={setFrames} />}
          </HStack>
        )}
        <Box>
          <Text mb="1" fontWeight="medium">
            Which is made in
          </Text>
          <FolderPicker onChoose={setFolder} />
        </Box>
        {error && <Problem message={error.message} />}
        {plan.data && !plan.error && <PlannedCopy plan={plan.data} />}
        <Text color="quiet" fontSize="0.9rem">
          {handles === null
            ? 'Whole files, below a folder for each volume. '
            : 'Stretches of files whose frames stand alone (all-intra in MOV, with PCM sound), packet for packet, each ' +
              'picture and sample held against the original, under its own timecode and reel and with its first label ' +
              'in the name; of everything else whole files. '}
          Every copy is read back and compared before it gets its name, and nothing is overwritten: what is outstanding
          comes with another pull into the same folder. A manifest of the checksums and a table of what is in it go
          along
          {of === 'originals'
            ? ', and once nothing is missing and the preflight passes the lists on these very copies.'
            : ', and the list as it was read. Sound, stills and pictures with an alpha channel go as they are.'}
        </Text>
      </Stack>
    </Dialog>
  )
}
