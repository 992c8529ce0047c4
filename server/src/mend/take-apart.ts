import { type ApartPiece, type CutEvent, count, type JoinedEntry, takeApart } from '@ennick/core'
import { type CutState, readCutState } from '../cuts/cut-state.ts'
import { PlainError } from '../errors.ts'
import type { Database } from '../store/database.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import type { MendRow } from './links.ts'
import { type EditedEvents, keepAsVersion, standingOf } from './version-mend.ts'

/**
 * Has the uses of joined files name the parts that they show, each on the clip that its part was made of. What comes of
 * it is the next version of the cut.
 * @param apply false answers what would become of each event, and changes nothing
 * @throws PlainError when one of them cannot be taken apart: then none is
 */
export async function takeApartUses(
  database: Database,
  material: KeptMaterial,
  cutId: string,
  { findingKeys, apply }: { findingKeys: readonly string[]; apply: boolean },
): Promise<{ told: string[]; mend: MendRow | null; cutId: string | null }> {
  const state = await readCutState(database, cutId, material)
  const edited = takeAllApart(state, findingKeys)
  const told = [...edited.told]
  if (!apply) return { told, mend: null, cutId: null }
  const kept = await keepAsVersion(database, state, edited, {
    ...{ kind: 'take apart', word: 'apart' },
    titleOf: (uses, version) => `Take ${uses} of joined files in “${state.row.name}” apart, as version ${version}`,
  })
  return { told, ...kept }
}

/** All events, with those of the findings as events of their parts, and what became of each in words. */
function takeAllApart(state: CutState, findingKeys: readonly string[]): EditedEvents {
  const { cut, material, resolutions } = state
  const wanted = new Set(findingKeys)
  const positions = new Set<number>()
  for (const { key, mends, events } of state.findings)
    if (wanted.delete(key) && mends.includes('take apart')) for (const position of events) positions.add(position)
  if (wanted.size > 0 || positions.size === 0)
    throw new PlainError('no-finding', 'One of these findings is there no more: look at the list again.', {
      status: 409,
    })
  const clipOf = clipsOf(state)
  const numbers = new FreshNumbers(cut.events)
  const told: string[] = []
  const chosen = new Map<string, string>()
  const events = cut.events.flatMap((event, position) => {
    const source = positions.has(position) ? material.joined.of(event) : undefined
    const need = resolutions[position]?.exactNeed
    if (!source || !need) return [event]
    const apart = takeApart(cut, event, source, need)
    const which = `event ${event.number} on ${event.track}`
    if ('refusal' in apart)
      throw new PlainError('cannot-take-apart', `${which} cannot be taken apart: ${apart.refusal}.`, { status: 409 })
    told.push(`${which} shows ${apart.pieces.map(sentenceOf).join(', then ')}`)
    return apart.pieces.map((piece, index) => {
      const clipId = clipOf(piece.entry)
      if (clipId !== null) chosen.set(standingOf(piece.event), clipId)
      return { ...piece.event, number: numbers.of(event.number, index) }
    })
  })
  return { events, told, chosen }
}

const sentenceOf = ({ event, entry, lentFrom }: ApartPiece): string => {
  const frames = count(event.source.endFrame - event.source.startFrame, 'frame')
  const lent = lentFrom.map(({ clipName }) => clipName).join(' and ')
  return `${frames} of ${entry.clipName}${lent && `, with its transition going on in it instead of in ${lent}`}`
}

/** Which clip of the production, or of its trial, a part was made of; null where that is not known any more. */
function clipsOf({ material: { production, clips } }: CutState): (entry: JoinedEntry) => string | null {
  const copies = new Map(production.trialOf?.clips.map(([copy, original]) => [original, copy]))
  return ({ clipId }) => {
    const id = clipId === undefined ? undefined : (copies.get(clipId) ?? clipId)
    return id !== undefined && clips.has(id) ? id : null
  }
}

/**
 * Numbers for events that become several: the first keeps its own, the others get such as no event has. Picture and
 * sound of one number keep being of one.
 */
class FreshNumbers {
  readonly #given = new Map<string, string>()
  readonly #width: number
  #last: number

  constructor(events: readonly CutEvent[]) {
    this.#last = Math.max(0, ...events.map(({ number }) => Number(number) || 0))
    this.#width = events[0]?.number.length ?? 1
  }

  of(number: string, index: number): string {
    if (index === 0) return number
    const key = `${number} ${index}`
    const given = this.#given.get(key) ?? String(++this.#last).padStart(this.#width, '0')
    this.#given.set(key, given)
    return given
  }
}
