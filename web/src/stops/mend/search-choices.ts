import type { RepointPlanRow } from '@ennick/contract'
import { type CarriedChoice, carryOver, type OpenChoice } from '@ennick/core'
import { useMemo, useState } from 'react'

/** What a repoint would take for one wanted thing, with the reason where it is refused. */
export interface SearchChoice {
  readonly wantedId: string
  readonly candidateId: string
  readonly reason?: string
}

type Picked = ReadonlyMap<string, string | null>

/** What a person takes and leaves of what a search found. */
export interface SearchChoices {
  readonly choices: readonly SearchChoice[]
  /** Which thing gets a file, by the file. */
  readonly takers: ReadonlyMap<string, string>
  readonly reasons: ReadonlyMap<string, string>
  /** What the last choice of a person says for others, and for which thing that choice was. */
  readonly carried: (CarriedChoice & { readonly wantedId: string }) | null
  pickedFor(row: RepointPlanRow): string | null
  pick(wantedId: string, candidateId: string | null): void
  pickAll(picks: readonly (readonly [wantedId: string, candidateId: string | null])[]): void
  giveReason(wantedId: string, reason: string): void
  forget(): void
}

export function useSearchChoices(rows: readonly RepointPlanRow[]): SearchChoices {
  const [picked, setPicked] = useState<Picked>(new Map())
  const [latest, setLatest] = useState<string | null>(null)
  const [reasons, setReasons] = useState<ReadonlyMap<string, string>>(new Map())
  const choices = useMemo(() => choicesOf(rows, picked, reasons), [rows, picked, reasons])
  const takers = useMemo(() => new Map(choices.map((choice) => [choice.candidateId, choice.wantedId])), [choices])
  const carried = useMemo(
    () => (latest === null ? null : carriedBy(latest, rows, picked, takers)),
    [latest, rows, picked, takers],
  )
  return {
    ...{ choices, takers, reasons, carried },
    pickedFor: (row) => pickedOf(row, picked),
    pick: (wantedId, candidateId) => {
      setPicked(new Map(picked).set(wantedId, candidateId))
      setLatest(wantedId)
    },
    pickAll: (picks) => setPicked(new Map([...picked, ...picks])),
    giveReason: (wantedId, reason) => setReasons(new Map(reasons).set(wantedId, reason)),
    forget: () => {
      setPicked(new Map())
      setLatest(null)
    },
  }
}

const pickedOf = ({ wantedId, candidateId }: RepointPlanRow, picked: Picked): string | null =>
  picked.has(wantedId) ? (picked.get(wantedId) ?? null) : candidateId

const choicesOf = (
  rows: readonly RepointPlanRow[],
  picked: Picked,
  reasons: ReadonlyMap<string, string>,
): SearchChoice[] =>
  rows.flatMap((row): SearchChoice[] => {
    const { wantedId, rated } = row
    const candidateId = pickedOf(row, picked)
    if (candidateId === null) return []
    const isRefused = rated.some((each) => each.candidateId === candidateId && each.refusal !== null)
    return [{ wantedId, candidateId, ...(isRefused && { reason: reasons.get(wantedId)?.trim() ?? '' }) }]
  })

/** What a person's choice for one row says for others: those that nobody has chosen for, and that get another file. */
function carriedBy(
  wantedId: string,
  rows: readonly RepointPlanRow[],
  picked: Picked,
  takers: ReadonlyMap<string, string>,
): SearchChoices['carried'] {
  const chosen = rows.find((row) => row.wantedId === wantedId)
  const candidateId = picked.get(wantedId)
  if (!chosen || !candidateId) return null
  const open = ({ wantedId: id, known, rated }: RepointPlanRow): OpenChoice => ({
    ...{ id, known },
    options: rated
      .filter((each) => each.refusal === null && (takers.get(each.candidateId) ?? id) === id)
      .map((each) => ({ id: each.candidateId, path: each.path })),
  })
  const others = rows.filter((row) => !picked.has(row.wantedId))
  const carried = carryOver(open(chosen), candidateId, others.map(open), false)
  const now = new Map(others.map((row) => [row.wantedId, row.candidateId]))
  const news = (carried?.choices ?? []).filter(({ id, option }) => now.get(id) !== option.id)
  return carried && news.length ? { ...carried, wantedId, choices: news } : null
}
