import { Button, Text } from '@chakra-ui/react'
import type { Cut } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useChange, useRead } from '../../data/queries.ts'
import { Problem } from '../../parts/notices.tsx'
import { PullList } from '../../parts/pull-list.tsx'
import { Section } from '../../parts/sheet.tsx'
import { PullDialog } from './pull-dialog.tsx'
import { SincePullLines } from './since-then.tsx'

/** What was copied of a cut to where it goes on, and what of it is outstanding. */
export function Pulls({ cut }: { cut: Cut }): ReactElement {
  const pulls = useRead('listPulls', { params: { cutId: cut.id } })
  const again = useChange('pull')
  const [isOpen, setOpen] = useState(false)
  return (
    <Section
      title="Pulls"
      action={
        <Button size="xs" variant="outline" onClick={() => setOpen(true)}>
          Pull what it uses
        </Button>
      }
    >
      {pulls.error && <Problem message={pulls.error.message} />}
      {pulls.data?.length === 0 && (
        <Text color="quiet">
          Nothing of this cut was copied yet. A pull takes the originals it uses to finishing, or their proxies along,
          and nothing else.
        </Text>
      )}
      <PullList
        pulls={pulls.data ?? []}
        again={(pull) => again.mutate({ params: { cutId: cut.id }, body: pull.asked })}
        since={({ job }, button) => <SincePullLines jobId={job.id} cutId={cut.id} again={button} />}
        isPending={again.isPending}
        error={again.error?.message}
      />
      <PullDialog cut={cut} isOpen={isOpen} onClose={() => setOpen(false)} />
    </Section>
  )
}
