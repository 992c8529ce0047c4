import { normalName } from '../../naming/index.ts'
import { groupBy } from '../../text/index.ts'
import { type Check, eventsOf, type FindingClip, fact, placeOf, remark, usedClips } from '../finding.ts'

type Clips = ReadonlyMap<string, FindingClip>
const named = new WeakMap<Clips, Map<string, FindingClip[]>>()

/** All clips by their names, put together once for all cuts of a production. */
function byName(clips: Clips): Map<string, FindingClip[]> {
  const known = named.get(clips) ?? groupBy([...clips.values()], ({ name }) => normalName(name))
  named.set(clips, known)
  return known
}

/** Places of others that are named one by one. */
const mostNamed = 3

/**
 * Names of the cut that more than one original has. Those of other content are told apart from the same file twice: a
 * counter that restarts on every card is the first, a card that was copied twice the second.
 */
export const equalNames: Check = (context) => {
  const used = usedClips(context)
  return (['equal names', 'duplicate'] as const).flatMap((kind) => {
    const isMeant = (clip: FindingClip, other: FindingClip): boolean =>
      other.id !== clip.id && isSameContent(clip, other) === (kind === 'duplicate')
    const own = used.flatMap(({ clip, events }) => {
      const others = (byName(context.clips).get(normalName(clip.name)) ?? []).filter((other) => isMeant(clip, other))
      return others.length ? [{ clip, events, others }] : []
    })
    const [first] = own
    if (!first) return []
    const names = own.length === 1 ? `${first.clip.name} is` : `${own.length} originals of this cut are`
    const message =
      kind === 'duplicate'
        ? `${names} in the production more than once, with the same content. The cut uses one of each.`
        : `${names} called like others, with other content: take care with what goes by names alone.`
    const evidence = own.map(({ clip, others }) => {
      const more = others.length - mostNamed
      const named = others
        .slice(0, mostNamed)
        .map((other) => placeOf(other))
        .join(', ')
      return fact(
        'name',
        placeOf(clip),
        more > 0 ? `${named} and ${more} more` : named,
        kind === 'duplicate' ? 'the same content' : 'other content',
      )
    })
    return [remark(kind, '', message, eventsOf(own), evidence)]
  })
}

const isSameContent = (a: FindingClip, b: FindingClip): boolean =>
  a.fingerprint !== null && a.fingerprint === b.fingerprint
