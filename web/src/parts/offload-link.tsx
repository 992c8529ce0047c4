import { Button, type ButtonProps, Text } from '@chakra-ui/react'
import type { ReactElement } from 'react'
import { Link } from 'react-router'
import { useProduction } from '../app/production.tsx'
import { useRead } from '../data/queries.ts'

/** Leads to the offload of a volume, where it is in. */
export function OffloadLink({
  volumeLabel,
  ...look
}: { volumeLabel: string | null } & Pick<ButtonProps, 'size' | 'variant'>): ReactElement {
  const production = useProduction()
  const volumes = useRead('listVolumes', { params: { productionId: production.id } })
  const volume = volumes.data?.find(({ label, isHere }) => label === volumeLabel && isHere)
  if (!volume) return <Text color="quiet">when it is in</Text>
  return (
    <Button {...look} asChild>
      <Link to={`/p/${production.id}/intake?offload=${volume.id}`}>Offload {volume.label}…</Link>
    </Button>
  )
}
