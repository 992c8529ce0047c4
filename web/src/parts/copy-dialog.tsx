import { Box, Button, Field, HStack, Input, Stack, Text } from '@chakra-ui/react'
import type { PullPlanInfo } from '@ennick/contract'
import { type ReactElement, type ReactNode, useState } from 'react'
import type { Planned } from '../data/planned.ts'
import { Dialog } from './dialog.tsx'
import { FolderPicker } from './folder-picker.tsx'
import { Problem } from './notices.tsx'
import { PlannedCopy } from './planned-copy.tsx'
import { count } from './words.ts'

/** Where a copy goes, while that is chosen. */
export interface CopyPlace {
  readonly name: string
  readonly setName: (name: string) => void
  readonly setFolder: (folder: string | null) => void
  /** Null until a folder and a name are chosen. */
  readonly chosen: { folder: string; name: string } | null
}

export function useCopyPlace(usualName: string): CopyPlace {
  const [folder, setFolder] = useState<string | null>(null)
  const [name, setName] = useState(usualName)
  return { name, setName, setFolder, chosen: folder === null || name.trim() === '' ? null : { folder, name } }
}

/** Copies files into a folder of their own: where to, how much, and what is not here, before anything is copied. */
export function CopyDialog({
  title,
  isOpen,
  onClose,
  place,
  plan,
  start,
  onStart,
  before,
  besideName,
  children,
}: {
  title: string
  isOpen: boolean
  onClose: () => void
  place: CopyPlace
  plan: Planned<PullPlanInfo>
  start: { readonly error: { readonly message: string } | null; readonly isPending: boolean }
  onStart: () => void
  /** What is asked besides. */
  before?: ReactNode
  besideName?: ReactNode
  /** What is said of the copy. */
  children?: ReactNode
}): ReactElement {
  const error = start.error ?? plan.error
  const { ready } = plan
  return (
    <Dialog
      title={title}
      isOpen={isOpen}
      onClose={onClose}
      footer={
        <Button disabled={!ready || ready.blocked !== null} loading={start.isPending} onClick={onStart}>
          {ready ? `Copy and verify ${count(ready.files, 'file')}` : 'Copy and verify'}
        </Button>
      }
    >
      <Stack gap="4">
        {before}
        <HStack gap="4" align="end">
          <Field.Root required>
            <Field.Label>Into a folder called</Field.Label>
            <Input value={place.name} onChange={(event) => place.setName(event.target.value)} />
          </Field.Root>
          {besideName}
        </HStack>
        <Box>
          <Text mb="1" fontWeight="medium">
            Which is made in
          </Text>
          <FolderPicker onChoose={place.setFolder} />
        </Box>
        {error && <Problem message={error.message} />}
        {plan.shown && <PlannedCopy plan={plan.shown} />}
        {children}
      </Stack>
    </Dialog>
  )
}
