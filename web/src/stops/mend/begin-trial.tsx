import { Button, Text } from '@chakra-ui/react'
import type { Cut } from '@ennick/contract'
import { type ReactElement, useState } from 'react'
import { useNavigate } from 'react-router'
import { useProduction } from '../../app/production.tsx'
import { useChange, useRead } from '../../data/queries.ts'
import { Dialog } from '../../parts/dialog.tsx'
import { Problem } from '../../parts/notices.tsx'

/** Takes a cut with what it uses out as a production of its own, where mends can be tried. None within a trial. */
export function BeginTrial({ cut }: { cut: Cut }): ReactElement | null {
  const production = useProduction()
  const navigate = useNavigate()
  const [isOpen, setOpen] = useState(false)
  const productions = useRead('listProductions', {})
  const begin = useChange('beginTrial', ({ productionId, cutId }) => {
    void productions.refetch().then(() => navigate(`/p/${productionId}/mend/${cutId}`))
  })
  if (production.trialOf) return null
  return (
    <>
      <Button size="sm" variant="ghost" onClick={() => setOpen(true)}>
        Try in isolation…
      </Button>
      <Dialog
        title={`Try “${cut.name}” in isolation`}
        isOpen={isOpen}
        onClose={() => setOpen(false)}
        footer={
          <Button loading={begin.isPending} onClick={() => begin.mutate({ params: { cutId: cut.id } })}>
            Begin the trial
          </Button>
        }
      >
        <Text mb="2">
          Ennick makes a production of its own with this cut and what it uses. Links are copied, and no file. Search,
          repoint, trim and choose there as you like: {production.name} and its other cuts stay as they are.
        </Text>
        <Text>Then keep what came of it, as mends of {production.name} that can be taken back, or throw it away.</Text>
        {begin.error && <Problem message={begin.error.message} />}
      </Dialog>
    </>
  )
}
