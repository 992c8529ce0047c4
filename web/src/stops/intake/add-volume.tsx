import { Box, Button, Field, Input, NativeSelect, Stack, Text } from '@chakra-ui/react'
import type { BoxLabel, VolumeKindName } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useChange, useLook } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { FolderPicker } from '../../parts/folder-picker.tsx'
import { Loading, Problem } from '../../parts/notices.tsx'
import { BoxFields } from './box-fields.tsx'
import { FolderMap } from './folder-map.tsx'
import { volumeKinds } from './volume-kinds.ts'

/**
 * Adds a volume: where it lies today, what the label on its box says, and what it is. What its folders suggest is filled
 * in where nobody has written anything. It is scanned at once.
 */
export function AddVolume({ isOpen, onClose }: { isOpen: boolean; onClose: () => void }): ReactElement {
  const production = useProduction()
  const [label, setLabel] = useState('')
  const [kind, setKind] = useState<VolumeKindName>('card')
  const [rootPath, setRootPath] = useState<string | null>(null)
  const [written, setWritten] = useState<BoxLabel>({})
  const survey = useLook('surveyFolder', isOpen && rootPath ? { query: { path: rootPath } } : null)
  const box = { ...survey.data?.suggested, ...written }
  const scan = useChange('scanVolume')
  const add = useChange('addVolume', (volume) => {
    scan.mutate({ params: { volumeId: volume.id } })
    setLabel('')
    setWritten({})
    onClose()
  })
  return (
    <Dialog
      title="Add a volume"
      isOpen={isOpen}
      onClose={onClose}
      footer={
        <Button
          loading={add.isPending}
          disabled={label.trim() === '' || rootPath === null}
          onClick={() =>
            rootPath && add.mutate({ params: { productionId: production.id }, body: { label, kind, rootPath, box } })
          }
        >
          {label.trim() ? `Add ${label.trim()} and scan it` : 'Add and scan it'}
        </Button>
      }
    >
      <Stack gap="4">
        <Stack direction="row" gap="4">
          <Field.Root required>
            <Field.Label>Label on the box</Field.Label>
            <Input value={label} onChange={(event) => setLabel(event.target.value)} autoFocus />
            <Field.HelperText>Months later it is the only way to find the disc.</Field.HelperText>
          </Field.Root>
          <Field.Root>
            <Field.Label>Kind</Field.Label>
            <NativeSelect.Root>
              <NativeSelect.Field value={kind} onChange={(event) => setKind(event.target.value as VolumeKindName)}>
                {Object.entries(volumeKinds).map(([value, name]) => (
                  <option key={value} value={value}>
                    {name}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </Field.Root>
        </Stack>
        <FolderPicker onChoose={setRootPath} />
        {survey.isFetching && <Loading what="the folder" />}
        {survey.error && <Problem message={survey.error.message} />}
        {survey.data && !survey.isFetching && <FolderMap survey={survey.data} />}
        <Box>
          <BoxFields box={box} onChange={(change) => setWritten({ ...written, ...change })} />
          <Text color="quiet" fontSize="0.9rem" mt="1">
            Kept with every clip of it, also when it lies elsewhere. A reel that a file says itself stays.
          </Text>
        </Box>
        <Text color="quiet" fontSize="0.9rem">
          {kind === 'upload'
            ? 'An upload folder holds small proxies that come before their originals. It is scanned by itself as they arrive.'
            : 'Ennick reads the folder and all below it. It never writes to it.'}
        </Text>
        {add.error && <Problem message={add.error.message} />}
      </Stack>
    </Dialog>
  )
}
