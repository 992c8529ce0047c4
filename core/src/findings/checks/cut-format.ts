import { formatRate, sameRate } from '../../time/index.ts'
import { type Check, type Finding, fact } from '../finding.ts'

/** The cut is to be in the raster and at the rate of the finished programme, not in those of the proxies. */
export const cutFormat: Check = ({ rate, raster, production, events }) => {
  const findings: Finding[] = []
  const all = events.map((_, position) => position)
  const found = { clipId: null, pairIds: [], events: all, mends: [] as const }
  if (production && raster && (raster.width !== production.width || raster.height !== production.height)) {
    const [own, wanted] = [`${raster.width} × ${raster.height}`, `${production.width} × ${production.height}`]
    findings.push({
      ...found,
      key: `cut raster:${own}:${wanted}`,
      kind: 'raster mismatch',
      severity: 'needs a look',
      message: `The cut was made at ${own}, and the production is ${wanted}. A cut in the raster of its proxies shows everything at the wrong size when it is finished.`,
      evidence: [fact('raster', wanted, own, 'the rasters differ')],
    })
  }
  if (production && !sameRate(rate, production.rate)) {
    const [own, wanted] = [formatRate(rate), formatRate(production.rate)]
    findings.push({
      ...found,
      key: `cut rate:${own}:${wanted}`,
      kind: 'cut rate mismatch',
      severity: 'needs a look',
      message: `The cut counts at ${own}, and the production at ${wanted}: every timecode of its record is another than that of the finished programme.`,
      evidence: [fact('rate', wanted, own, 'the rates differ')],
    })
  }
  return findings
}
