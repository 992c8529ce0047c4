import { groupBy } from '../../text/index.ts'
import { formatRate, sameRate } from '../../time/index.ts'
import { type Check, eventsOf, fact, remark, usedClips } from '../finding.ts'

/** Originals that were recorded at another rate than the production's: slow motion, or a camera that was set wrong. */
export const otherRate: Check = (context) => {
  const { production } = context
  if (!production) return []
  const other = usedClips(context).flatMap(({ clip, events }) => {
    const rate = clip.facts.picture?.rate
    return rate && !sameRate(rate, production.rate) ? [{ clip, events, rate: formatRate(rate) }] : []
  })
  return [...groupBy(other, ({ rate }) => rate)].map(([rate, list]) => {
    const names = list.length === 1 ? `${list[0]?.clip.name} was` : `${list.length} originals of this cut were`
    return remark(
      'other rate',
      rate,
      `${names} recorded at ${rate}, and the production counts at ${formatRate(production.rate)}.`,
      eventsOf(list),
      list.map(({ clip }) => fact('rate', formatRate(production.rate), `${clip.name}: ${rate}`, 'the rates differ')),
    )
  })
}
