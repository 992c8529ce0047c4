import { readFile } from 'node:fs/promises'
import { builtInLut, builtInLutPath } from '../engine/luts.ts'
import { anyOf } from '../store/any-of.ts'
import type { Queryable } from '../store/database.ts'
import type { KnownClip } from '../store/known-material.ts'
import { luts } from '../store/lut-schema.ts'
import type { WrittenFile } from './hand-off.ts'
import type { PullPlan } from './pull-plan.ts'

/** The viewing LUTs that proxies were made with: through these a cut was seen that goes on with originals. */
export interface UsedLuts {
  /** The names of those of a clip's proxies; empty where they show what the original holds. */
  namesOf(clip: KnownClip): string
  readonly files: readonly WrittenFile[]
}

const lutsOf = ({ pairs }: KnownClip): string[] => [
  ...new Set(pairs.flatMap(({ isActive, viewingLut }) => (isActive && viewingLut !== null ? [viewingLut] : []))),
]

/** Reads those of what is planned, with their .cube files; of one that is not in the library any more its id alone. */
export async function readUsedLuts(database: Queryable, { clips }: PullPlan): Promise<UsedLuts> {
  const used = [...new Set(clips.flatMap(({ clip }) => lutsOf(clip)))]
  const rows = await database.select().from(luts).where(anyOf(luts.id, used))
  const known = new Map(rows.map(({ id, name, cube }) => [id, { name, cube }]))
  if (used.includes(builtInLut.id))
    known.set(builtInLut.id, { name: builtInLut.name, cube: await readFile(builtInLutPath, 'utf8') })
  return {
    namesOf: (clip) =>
      lutsOf(clip)
        .map((id) => known.get(id)?.name ?? id)
        .join(', '),
    files: [...known].map(([id, { cube }]) => ({ name: `LUT ${id}.cube`, content: cube })),
  }
}
