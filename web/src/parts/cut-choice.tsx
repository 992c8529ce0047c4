import { NativeSelect } from '@chakra-ui/react'
import type { Cut } from '@ennick/contract'
import { type ReactElement, useEffect } from 'react'
import { useNavigate, useParams } from 'react-router'
import { useProduction } from '../app/production.tsx'
import { useRead } from '../data/queries.ts'

/** The cuts of the production and the one that the address names, the one last looked at, or the newest. */
export function useChosenCut(): { cuts: readonly Cut[]; cut: Cut | null; isPending: boolean; error: string | null } {
  const production = useProduction()
  const { cutId } = useParams()
  const cuts = useRead('listCuts', { params: { productionId: production.id } })
  const list = cuts.data ?? []
  const key = `ennick.cut.${production.id}`
  const find = (id: string | null | undefined): Cut | undefined => list.find((cut) => cut.id === id)
  const cut = find(cutId) ?? find(sessionStorage.getItem(key)) ?? list.at(-1) ?? null
  const chosenId = cut?.id ?? null
  useEffect(() => {
    if (chosenId) sessionStorage.setItem(key, chosenId)
  }, [chosenId, key])
  return { cuts: list, cut, isPending: cuts.isPending, error: cuts.error?.message ?? null }
}

/** Chooses which cut a stop is about; the choice is in the address. */
export function CutChoice({
  stop,
  cuts,
  chosen,
}: {
  stop: 'cuts' | 'mend' | 'handoff'
  cuts: readonly Cut[]
  chosen: Cut
}): ReactElement {
  const production = useProduction()
  const navigate = useNavigate()
  return (
    <NativeSelect.Root size="sm" width="20rem">
      <NativeSelect.Field
        aria-label="Cut"
        value={chosen.id}
        onChange={(event) => navigate(`/p/${production.id}/${stop}/${event.target.value}`)}
        bg="page"
      >
        {cuts.map((cut) => (
          <option key={cut.id} value={cut.id}>
            {cutLabel(cut, cuts)}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  )
}

/** A cut by its name, and which of its versions it is: names often hold a version of their own. */
export function cutLabel(cut: Cut, all: readonly Cut[]): string {
  const versions = all.filter((other) => other.lineId === cut.lineId)
  return versions.length > 1 ? `${cut.name} (${versions.indexOf(cut) + 1} of ${versions.length})` : cut.name
}
