import { describeShortfall, trimUse } from '@ennick/core'
import { type CutState, readCutState } from '../cuts/cut-state.ts'
import { PlainError } from '../errors.ts'
import type { Database } from '../store/database.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import type { MendRow } from './links.ts'
import { type EditedEvents, keepAsVersion } from './version-mend.ts'

/**
 * Lets the uses of some findings give up the frames that their originals do not have. What comes of it is the next
 * version of the cut.
 * @throws PlainError when one of them cannot be trimmed: then none is
 */
export async function trimUses(
  database: Database,
  material: KeptMaterial,
  cutId: string,
  findingKeys: readonly string[],
): Promise<{ mend: MendRow; cutId: string }> {
  const state = await readCutState(database, cutId, material)
  return keepAsVersion(database, state, trimEvents(state, findingKeys), {
    ...{ kind: 'trim', word: 'trimmed' },
    titleOf: (uses, version) => `Trim ${uses} of “${state.row.name}”, as version ${version}`,
  })
}

/** All events, with those of the findings trimmed, and what was done to each in words. */
function trimEvents(state: CutState, findingKeys: readonly string[]): EditedEvents {
  const events = [...state.cut.events]
  const told: string[] = []
  const findings = new Map(state.findings.map((finding) => [finding.key, finding]))
  for (const key of new Set(findingKeys)) {
    const [position = -1] = findings.get(key)?.events ?? []
    const event = state.cut.events[position]
    const lack = state.resolutions[position]?.shortfall
    if (!event || !lack)
      throw new PlainError('no-finding', 'One of these findings is there no more: look at the list again.', {
        status: 409,
      })
    const trimmed = trimUse(state.cut, position, lack)
    if ('refusal' in trimmed)
      throw new PlainError(
        'cannot-trim',
        `Event ${event.number} on ${event.track} cannot be trimmed: ${trimmed.refusal}.`,
      )
    events[position] = trimmed.event
    told.push(`event ${event.number} on ${event.track} gives up ${describeShortfall(trimmed.gives)}`)
  }
  return { events, told, chosen: new Map() }
}
