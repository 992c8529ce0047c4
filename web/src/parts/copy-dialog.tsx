import { Box, Button, Field, HStack, Input, Stack, Text } from '@chakra-ui/react'
import type { PullPlanInfo } from '@ennick/contract'
import { type ReactElement, type ReactNode, useEffect, useState } from 'react'
import { Dialog } from './dialog.tsx'
import { FolderPicker } from './folder-picker.tsx'
import { Problem } from './notices.tsx'
import { PlannedCopy } from './planned-copy.tsx'
import { count } from './words.ts'

/** What is planned of a copy, or was refused. */
interface Planned {
  readonly data: PullPlanInfo | undefined
  readonly error: { readonly message: string } | null
  readonly isPending: boolean
}

/** Copies files into a folder of their own: where to, how much, and what is not here, before anything is copied. */
export function CopyDialog({
  title,
  usualName,
  isOpen,
  onClose,
  plan,
  onPlan,
  start,
  onStart,
  before,
  besideName,
  children,
}: {
  title: string
  usualName: string
  isOpen: boolean
  onClose: () => void
  plan: Planned
  /** Asks for a plan of a place, or for none; it changes with whatever else is asked for. */
  onPlan: (place: { folder: string; name: string } | null) => void
  start: Pick<Planned, 'error' | 'isPending'>
  onStart: (place: { folder: string; name: string }) => void
  /** What is asked besides. */
  before?: ReactNode
  besideName?: ReactNode
  /** What is said of the copy. */
  children?: ReactNode
}): ReactElement {
  const [folder, setFolder] = useState<string | null>(null)
  const [name, setName] = useState(usualName)
  useEffect(() => {
    if (!isOpen || folder === null || name.trim() === '') {
      onPlan(null)
      return
    }
    const timer = window.setTimeout(() => onPlan({ folder, name }), 200)
    return () => window.clearTimeout(timer)
  }, [isOpen, folder, name, onPlan])
  const error = start.error ?? plan.error
  const ready = plan.data && !plan.error && !plan.isPending ? plan.data : null
  return (
    <Dialog
      title={title}
      isOpen={isOpen}
      onClose={onClose}
      footer={
        <Button
          disabled={!ready || ready.blocked !== null || folder === null}
          loading={start.isPending}
          onClick={() => folder !== null && onStart({ folder, name })}
        >
          {ready ? `Copy and verify ${count(ready.files, 'file')}` : 'Copy and verify'}
        </Button>
      }
    >
      <Stack gap="4">
        {before}
        <HStack gap="4" align="end">
          <Field.Root required>
            <Field.Label>Into a folder called</Field.Label>
            <Input value={name} onChange={(event) => setName(event.target.value)} />
          </Field.Root>
          {besideName}
        </HStack>
        <Box>
          <Text mb="1" fontWeight="medium">
            Which is made in
          </Text>
          <FolderPicker onChoose={setFolder} />
        </Box>
        {error && <Problem message={error.message} />}
        {plan.data && !plan.error && <PlannedCopy plan={plan.data} />}
        {children}
      </Stack>
    </Dialog>
  )
}
