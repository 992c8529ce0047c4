import { Button, Text } from '@chakra-ui/react'
import { legalWords } from '@ennick/core'
import { type ReactElement, useState } from 'react'
import { usePlanned } from '../data/planned.ts'
import { useChange, useRead } from '../data/queries.ts'
import { CopyDialog, useCopyPlace } from '../parts/copy-dialog.tsx'
import { Problem } from '../parts/notices.tsx'
import { PullList } from '../parts/pull-list.tsx'
import { Section } from '../parts/sheet.tsx'
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
        the history. It is whole when nothing is outstanding. It comes back as a new production, “From its archive”, in
        this Ennick or another; the proxies are made anew from there.
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
  const { id: productionId, name } = useProduction()
  const place = useCopyPlace(legalWords(`${name} archive`))
  const { chosen } = place
  const plan = usePlanned('planArchive', isOpen && chosen ? { params: { productionId }, body: chosen } : null)
  const start = useChange('archive', onClose)
  return (
    <CopyDialog
      title={`Archive the originals of “${name}”`}
      isOpen={isOpen}
      onClose={onClose}
      place={place}
      plan={plan}
      start={start}
      onStart={() => chosen && start.mutate({ params: { productionId }, body: { ...chosen, hash: 'xxh64' } })}
    />
  )
}
