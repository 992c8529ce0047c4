import { Box, Button, Field, Input, Stack, Text } from '@chakra-ui/react'
import { type ReactElement, useEffect, useState } from 'react'
import { useChange, useRead } from '../data/queries.ts'
import { Dialog } from '../parts/dialog.tsx'
import { FolderPicker } from '../parts/folder-picker.tsx'
import { Problem } from '../parts/notices.tsx'
import { PlannedCopy } from '../parts/planned-copy.tsx'
import { PullList } from '../parts/pull-list.tsx'
import { Section } from '../parts/sheet.tsx'
import { count } from '../parts/words.ts'
import { useProduction } from './production.tsx'

/** When the picture is done: every original into one folder, with what it takes to begin again. */
export function ArchiveSection(): ReactElement {
  const { id: productionId } = useProduction()
  const archives = useRead('listArchives', { params: { productionId } })
  const again = useChange('archive')
  const [isOpen, setOpen] = useState(false)
  return (
    <Section
      title="When the picture is done"
      action={
        <Button size="xs" variant="outline" onClick={() => setOpen(true)}>
          Archive the originals
        </Button>
      }
    >
      <Text color="quiet">
        Proxies can be made again, and are released in Pairs. An archive holds every original of the production, each
        copy read back, and what it takes to begin again: the lists of its cuts, the ledger, the recipes, the log and
        the history. It is whole when nothing is outstanding. To come back, add its folders as volumes, scan them, and
        read the lists: the proxies that are missing are made from there.
      </Text>
      {archives.error && <Problem message={archives.error.message} />}
      <PullList
        pulls={archives.data ?? []}
        again={({ asked: { folder, name, hash } }) =>
          again.mutate({ params: { productionId }, body: { folder, name, hash } })
        }
        isPending={again.isPending}
        error={again.error?.message}
      />
      <ArchiveDialog isOpen={isOpen} onClose={() => setOpen(false)} />
    </Section>
  )
}

function ArchiveDialog({ isOpen, onClose }: { isOpen: boolean; onClose: () => void }): ReactElement {
  const production = useProduction()
  const productionId = production.id
  const [folder, setFolder] = useState<string | null>(null)
  const [name, setName] = useState(`${production.name} archive`)
  const plan = useChange('planArchive')
  const start = useChange('archive', onClose)
  const { mutate, reset } = plan
  useEffect(() => {
    if (!isOpen || folder === null || name.trim() === '') {
      reset()
      return
    }
    const timer = window.setTimeout(() => mutate({ params: { productionId }, body: { folder, name } }), 200)
    return () => window.clearTimeout(timer)
  }, [isOpen, productionId, folder, name, mutate, reset])
  const error = start.error ?? plan.error
  const ready = plan.data && !plan.error && !plan.isPending ? plan.data : null
  return (
    <Dialog
      title={`Archive the originals of “${production.name}”`}
      isOpen={isOpen}
      onClose={onClose}
      footer={
        <Button
          disabled={!ready || ready.blocked !== null || folder === null}
          loading={start.isPending}
          onClick={() =>
            folder !== null && start.mutate({ params: { productionId }, body: { folder, name, hash: 'xxh64' } })
          }
        >
          {ready ? `Copy and verify ${count(ready.files, 'file')}` : 'Copy and verify'}
        </Button>
      }
    >
      <Stack gap="4">
        <Field.Root required>
          <Field.Label>Into a folder called</Field.Label>
          <Input value={name} onChange={(event) => setName(event.target.value)} />
        </Field.Root>
        <Box>
          <Text mb="1" fontWeight="medium">
            Which is made in
          </Text>
          <FolderPicker onChoose={setFolder} />
        </Box>
        {error && <Problem message={error.message} />}
        {plan.data && !plan.error && <PlannedCopy plan={plan.data} />}
      </Stack>
    </Dialog>
  )
}
