import { listedRaster, partsOfScale } from '../../cut/index.ts'
import { groupBy } from '../../text/index.ts'
import {
  type Check,
  eventNumbers,
  eventsOf,
  type Finding,
  type FindingContext,
  fact,
  remark,
  usedClips,
} from '../finding.ts'

/** What the proxies have brought into the cut, and what changes when it goes to its originals. */
export const fromProxies: Check = (context) => [
  ...mixedRecipes(context),
  ...lookDiffers(context),
  ...proxyScale(context),
  ...oldNames(context),
]

/** Proxies of one recipe in several versions: parts of the cut were judged on other pictures than the rest. */
function mixedRecipes(context: FindingContext): Finding[] {
  const made = usedClips(context).flatMap(({ clip, events }) =>
    clip.pairs.flatMap(({ id, kind, recipe }) => (kind === 'proxy' && recipe ? [{ id, recipe, clip, events }] : [])),
  )
  return [...groupBy(made, ({ recipe }) => recipe.id)].flatMap(([id, list]) => {
    const versions = [...groupBy(list, ({ recipe }) => recipe.version)].sort(([a], [b]) => b - a)
    const [newest, ...older] = versions
    if (!newest || older.length === 0) return []
    const stale = older.flatMap(([, each]) => each)
    const name = newest[1][0]?.recipe.name
    const parts = versions.map(([version, each]) => `${each.length} by version ${version}`)
    return [
      remark(
        'mixed recipes',
        id,
        `The proxies of this cut were made with “${name}” in ${versions.length} versions: ${parts.join(', ')}.`,
        eventsOf(stale),
        stale.map(({ clip, recipe }) =>
          fact('recipe', `version ${newest[0]}`, `${clip.name}: version ${recipe.version}`, 'an older version'),
        ),
        { mends: ['make again'], pairIds: stale.map((pair) => pair.id) },
      ),
    ]
  })
}

/** An original was renamed, or what its recipe names by was corrected: who links by names does not find the proxy. */
function oldNames(context: FindingContext): Finding[] {
  const old = usedClips(context).flatMap(({ clip, events }) =>
    clip.pairs.flatMap((pair) => (pair.nameToday === null ? [] : [{ ...pair, now: pair.nameToday, clip, events }])),
  )
  const [first] = old
  if (!first) return []
  const whose =
    old.length === 1 ? `The proxy ${first.name} is` : `${old.length} of the files made of this cut’s originals are`
  return [
    remark(
      'old proxy name',
      '',
      `${whose} not called as ${old.length === 1 ? 'its recipe' : 'their recipes'} would name ` +
        `${old.length === 1 ? `it now: ${first.now}` : 'them now'}. A room that links by names does not find ` +
        `${old.length === 1 ? 'it' : 'them'}.`,
      eventsOf(old),
      old.map(({ name, now, clip }) => fact('name', now, name, `made of ${clip.name}`)),
      { mends: ['rename'], pairIds: old.map(({ id }) => id) },
    ),
  ]
}

/** A LUT is burnt into proxies: the look of the cut changes with the swap. */
function lookDiffers(context: FindingContext): Finding[] {
  const burnt = usedClips(context).flatMap(({ clip, events }) => {
    const lut = clip.pairs.find(({ kind, viewingLut }) => kind === 'proxy' && viewingLut !== null)?.viewingLut
    return lut ? [{ clip, events, lut }] : []
  })
  return [...groupBy(burnt, ({ lut }) => lut)].map(([lut, list]) => {
    const whose =
      list.length === 1 ? `The proxy of ${list[0]?.clip.name} shows` : `The proxies of ${list.length} clips show`
    return remark(
      'look differs',
      lut,
      `${whose} the viewing LUT “${lut}”, which is not in the originals: the look changes when the cut goes to them. ` +
        'Hand the LUT on with it.',
      eventsOf(list),
      list.map(({ clip }) => fact('look', 'as it was shot', `${clip.name}: through ${lut}`, 'a LUT is burnt in')),
    )
  })
}

/** A scale that a proxy's size had made necessary: it is not the editor's own, and goes when the cut leaves. */
function proxyScale(context: FindingContext): Finding[] {
  const raster = context.raster ?? context.production
  if (!raster) return []
  const scaled = context.events.flatMap((event, position) => {
    const medium = listedRaster(event)
    const clipId = context.resolutions[position]?.clipId
    const own = clipId == null ? null : context.clips.get(clipId)?.facts.picture
    const isOther = medium && own && (medium.width !== own.width || medium.height !== own.height)
    if (!event.fit || !isOther || event.fit.scalePercent === 100) return []
    return [{ event, position, medium, own, parts: partsOfScale(event.fit.scalePercent, medium, raster) }]
  })
  if (scaled.length === 0) return []
  const positions = scaled.map(({ position }) => position)
  return [
    remark(
      'proxy scale',
      '',
      `The size of its proxy is in the scale of ${eventNumbers(context, positions)}. It is taken out when the cut ` +
        'leaves on originals; what the editor did besides stays.',
      positions,
      scaled.map(({ event, medium, own, parts }) =>
        fact(
          'scale',
          `${parts.ownPercent} % by the editor`,
          `${event.fit?.scalePercent} % in the list`,
          `${medium.width} × ${medium.height} instead of ${own.width} × ${own.height}`,
        ),
      ),
    ),
  ]
}
