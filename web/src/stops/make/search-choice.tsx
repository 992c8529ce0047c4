import { NativeSelect } from '@chakra-ui/react'
import { formatNumber } from '@ennick/core'
import type { ReactElement } from 'react'
import { useProduction } from '../../app/production.tsx'
import { call } from '../../data/api.ts'
import { useRead } from '../../data/queries.ts'

/** Chooses all clips that a saved search finds now. */
export function SearchChoice({ onChoose }: { onChoose: (clipIds: string[]) => void }): ReactElement | null {
  const params = { productionId: useProduction().id }
  const searches = useRead('listSearches', { params })
  if (!searches.data?.length) return null
  const choose = async (searchId: string): Promise<void> => {
    const search = searches.data.find((candidate) => candidate.id === searchId)
    if (search) onChoose((await call('listClipIds', { params, body: { condition: search.condition } })).ids)
  }
  return (
    <NativeSelect.Root size="sm" width="18rem" display="inline-block">
      <NativeSelect.Field
        aria-label="Choose by a saved search"
        value=""
        onChange={(event) => void choose(event.target.value)}
        bg="page"
      >
        <option value="">choose by a saved search…</option>
        {searches.data.map((search) => (
          <option key={search.id} value={search.id}>
            {search.name} ({formatNumber(search.count)})
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  )
}
