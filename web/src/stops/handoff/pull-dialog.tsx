import { Box, Field, HStack, NativeSelect, Text } from '@chakra-ui/react'
import type { Cut } from '@ennick/contract'
import { legalWords } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { usePlanned } from '../../data/planned.ts'
import { useChange } from '../../data/queries.ts'
import { CopyDialog, useCopyPlace } from '../../parts/copy-dialog.tsx'
import { DigitsField } from '../../parts/digits-field.tsx'

type PullOf = 'originals' | 'proxies'
const says: Record<PullOf, string> = {
  originals: 'Originals, to finish with',
  proxies: 'Proxies, to go on cutting with',
}

/** Copies what a cut needs: what, where to, how much, and what is not here, before anything is copied. */
export function PullDialog({ cut, isOpen, onClose }: { cut: Cut; isOpen: boolean; onClose: () => void }): ReactElement {
  const [of, setOf] = useState<PullOf>('originals')
  const [isWhole, setWhole] = useState(true)
  const [frames, setFrames] = useState('25')
  const handles = of === 'originals' && !isWhole ? Number.parseInt(frames, 10) || 0 : null
  const place = useCopyPlace(legalWords(`${cut.name} pull`))
  const asked = place.chosen && { ...place.chosen, of, handles }
  const plan = usePlanned('planPull', isOpen && asked ? { params: { cutId: cut.id }, body: asked } : null)
  const start = useChange('pull', onClose)
  return (
    <CopyDialog
      title={`Pull what “${cut.name}” uses`}
      isOpen={isOpen}
      onClose={onClose}
      place={place}
      plan={plan}
      start={start}
      onStart={() => asked && start.mutate({ params: { cutId: cut.id }, body: { ...asked, hash: 'xxh64' } })}
      before={
        <HStack gap="4" align="end">
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
          {of === 'originals' && (
            <Field.Root>
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
          )}
        </HStack>
      }
      besideName={
        handles !== null && (
          <Box flexShrink="0">
            <DigitsField width="9rem" label="Handles, in frames" value={frames} onChange={setFrames} />
          </Box>
        )
      }
    >
      <Text color="quiet" fontSize="0.9rem">
        {handles === null
          ? 'Whole files, below a folder for each volume. '
          : 'Stretches of files whose frames stand alone (all-intra in MOV, with PCM sound), packet for packet, each ' +
            'picture and sample held against the original, under its own timecode and reel and with its first label ' +
            'in the name; of everything else whole files. '}
        Every copy is read back and compared before it gets its name, and nothing is overwritten: what is outstanding
        comes with another pull into the same folder. A manifest of the checksums and a table of what is in it go along
        {of === 'originals'
          ? ', and once nothing is missing and the preflight passes the lists on these very copies.'
          : ', and the list as it was read. Sound, stills and pictures with an alpha channel go as they are.'}
      </Text>
    </CopyDialog>
  )
}
