import { NativeSelect } from '@chakra-ui/react'
import type { FileRole } from '@ennick/core'
import type { ReactElement } from 'react'
import { useChange } from '../data/queries.ts'
import { Problem } from './notices.tsx'

const roles: Record<FileRole, string> = {
  original: 'originals',
  proxy: 'proxies',
  optimized: 'optimized transcodes',
  deliverable: 'deliverables',
}

/** Says what the files in a place are, or leaves it to the evidence. */
export function RoleChoice({
  volumeId,
  path,
  role,
  label,
}: {
  volumeId: string
  path: string
  role: FileRole | null
  label: string
}): ReactElement {
  const declare = useChange('declareRole')
  return (
    <>
      <NativeSelect.Root size="sm" width="18rem" disabled={declare.isPending}>
        <NativeSelect.Field
          aria-label={label}
          value={role ?? ''}
          onChange={(event) =>
            declare.mutate({
              params: { volumeId },
              body: { path, role: (event.target.value || null) as FileRole | null },
            })
          }
        >
          <option value="">what the evidence says</option>
          {Object.entries(roles).map(([value, name]) => (
            <option key={value} value={value}>
              {name}, whatever the evidence says
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      {declare.error && <Problem message={declare.error.message} />}
    </>
  )
}
