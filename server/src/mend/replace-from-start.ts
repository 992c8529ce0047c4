import { basename } from 'node:path'
import { placeFromStart } from '@ennick/core'
import { type CutState, readCutState } from '../cuts/cut-state.ts'
import { notFound, PlainError } from '../errors.ts'
import type { Database } from '../store/database.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import type { KnownClip } from '../store/known-material.ts'
import type { MendRow } from './links.ts'
import { type EditedEvents, keepAsVersion, standingOf } from './version-mend.ts'

/**
 * Has events show another clip from its first frame on, where theirs is not to be had and that one has no source points
 * of the cut. What comes of it is the next version of the cut.
 * @param apply false answers what would become of each event, and changes nothing
 * @throws PlainError when one of them cannot show it: then none does
 */
export async function replaceFromStart(
  database: Database,
  material: KeptMaterial,
  cutId: string,
  { positions, clipId, apply }: { positions: readonly number[]; clipId: string; apply: boolean },
): Promise<{ told: string[]; mend: MendRow | null; cutId: string | null }> {
  const state = await readCutState(database, cutId, material)
  const clip = state.material.clips.get(clipId)
  if (!clip) throw notFound('This clip')
  const edited = placeAll(state, clip, positions)
  const told = [...edited.told]
  if (!apply) return { told, mend: null, cutId: null }
  const kept = await keepAsVersion(database, state, edited, {
    ...{ kind: 'replace from the start', word: 'replaced' },
    titleOf: (uses, version) =>
      `${uses} of “${state.row.name}” from the start of ${basename(clip.main.path)}, as version ${version}`,
  })
  return { told, ...kept }
}

function placeAll(state: CutState, clip: KnownClip, positions: readonly number[]): EditedEvents {
  const events = [...state.cut.events]
  const told: string[] = []
  const chosen = new Map<string, string>()
  const { facts, fullPath } = clip.main
  const name = basename(fullPath)
  const refuse = (why: string): PlainError => new PlainError('cannot-replace', why, { status: 409 })
  if (clip.presence !== 'here' || !facts) throw refuse(`${name} is not here to be looked at.`)
  for (const position of new Set(positions)) {
    const event = state.cut.events[position]
    if (!event) throw new PlainError('no-event', `The cut has no event at position ${position}.`)
    const medium = { name, path: fullPath, reel: clip.reel, facts }
    const placed = placeFromStart({ ...state.cut, events }, position, medium)
    const which = `event ${event.number} on ${event.track}`
    if ('refusal' in placed) throw refuse(`${which} cannot show ${name} from its start: ${placed.refusal}.`)
    events[position] = placed.event
    chosen.set(standingOf(event), clip.id)
    const { startFrame, endFrame } = placed.event.source
    told.push(`${which} shows ${endFrame - startFrame} frames of ${name} from its first on`)
  }
  return { events, told, chosen }
}
