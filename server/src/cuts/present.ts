import type { Cut, CutDetail, CutEventRow, FindingRow, LandedCut, PreflightInfo } from '@ennick/contract'
import {
  type CutEvent,
  type DecisionOnUses,
  describeShortfall,
  type Finding,
  formatTimecode,
  levelWords,
  listedRaster,
  mapPath,
  partsOfScale,
  preflight,
  type Resolution,
  samplesToPad,
  sourceLabels,
  speedInPercent,
  suggestMappings,
  transitionWords,
  trimUse,
} from '@ennick/core'
import { stripOf } from '../clips/strip.ts'
import { productionRate } from '../store/production-row.ts'
import { type CutRow, type CutState, originalPaths } from './cut-state.ts'
import { isNew } from './first-seen.ts'
import { shortfallNote, usesIn } from './uses.ts'

/** @param newest the newest version of each line; without it, each cut is its line's newest */
/** A cut as it was read. @param newest the newest version of its line */
export const presentCut = (row: CutRow, events: number, newest: number | undefined): Cut => ({
  ...{ id: row.id, name: row.name, format: row.format, fileName: row.fileName },
  rate: { numerator: row.rateNumerator, denominator: row.rateDenominator },
  ...{ dropFrame: row.dropFrame, tracks: row.tracks, events },
  ...{ lineId: row.lineId, version: row.version, isNewest: (newest ?? row.version) === row.version },
  raster: row.besides.raster ? { width: row.besides.raster.width, height: row.besides.raster.height } : null,
  leftOut: row.leftOut.length,
  createdAt: row.createdAt.toISOString(),
})

/** A cut with where its events land now. */
export function presentLandedCut(state: CutState, newest?: number): LandedCut {
  const count = (wanted: string): number => state.resolutions.filter((resolution) => resolution.state === wanted).length
  return {
    ...presentCut(state.row, state.cut.events.length, newest),
    states: {
      onOriginal: count('on original'),
      onProxy: count('on proxy'),
      originalMissing: count('original away') + count('original gone') + count('original damaged'),
      short: count('short'),
      unresolved: count('unresolved'),
    },
    findings: state.findings.length,
    blocking: preflight(state.findings, state.decisions).open.length,
  }
}

export function presentCutDetail(state: CutState, newest?: number): CutDetail {
  const used = new Set(state.resolutions.map((resolution) => resolution.clipId))
  const uses = usesIn([state])
  const mappings = state.material.production.pathMappings
  const unmapped = state.cut.events.flatMap((event, position) =>
    event.path !== null && !isPlaced(state.resolutions[position]) && mapPath(event.path, mappings) === undefined
      ? [event.path]
      : [],
  )
  return {
    cut: presentLandedCut(state, newest),
    events: state.cut.events.map((event, position) => presentEvent(state, event, position)),
    strips: [...used].flatMap((clipId) => {
      const clip = clipId === null ? undefined : state.material.clips.get(clipId)
      const strip = clip ? stripOf(clip, productionRate(state.material.production), uses) : null
      return clip && strip ? [{ clipId: clip.id, name: clip.name, strip }] : []
    }),
    leftOut: [...state.row.leftOut],
    markers: (state.cut.markers ?? []).map(({ recordFrame, name, note }) => ({
      record: formatTimecode(recordFrame, state.cut.rate, state.cut.dropFrame),
      name,
      note,
    })),
    suggestedMappings: unmapped.length ? suggestMappings(unmapped, originalPaths(state.material)).slice(0, 8) : [],
  }
}

const isPlaced = (resolution: Resolution | undefined): boolean =>
  resolution?.by === 'path' || resolution?.by === 'path of its proxy'

function presentEvent(state: CutState, event: CutEvent, position: number): CutEventRow {
  const resolution = state.resolutions[position] as Resolution
  const clip = resolution.clipId === null ? undefined : state.clips.get(resolution.clipId)
  const source = sourceLabels(event, state.cut, clip)
  const record = (frame: number): string => formatTimecode(frame, state.cut.rate, state.cut.dropFrame)
  return {
    position,
    number: event.number,
    track: event.track,
    kind: event.kind,
    clipName: event.clipName,
    reel: event.reel,
    path: event.path,
    sourceIn: source(event.source.startFrame),
    sourceOut: source(event.source.endFrame),
    recordIn: record(event.record.startFrame),
    recordOut: record(event.record.endFrame),
    recordStartFrame: event.record.startFrame,
    recordEndFrame: event.record.endFrame,
    state: resolution.state,
    by: resolution.by,
    clipId: resolution.clipId,
    originalName: clip?.name ?? null,
    originalPath: clip?.originalPaths[0] ?? null,
    volumeLabel: clip?.volumeLabel ?? null,
    note: noteOn(event, resolution),
    transitionFrames: event.transition?.durationFrames ?? 0,
    fadeFrames: event.fadeOut?.durationFrames ?? 0,
    isOff: event.isDisabled === true,
    scale: scaleOf(event, state),
    mappedPath: event.path === null ? null : (mapPath(event.path, state.material.production.pathMappings) ?? null),
    evidence: [...resolution.evidence],
  }
}

/** What of its scale is owed to the size of its medium, and what the editor did. */
function scaleOf(event: CutEvent, { cut }: CutState): string | null {
  if (!event.fit) return null
  const { scalePercent, offset } = event.fit
  const moved = offset ? `, moved by ${percent(offset.horizontal)} across and ${percent(offset.vertical)} down` : ''
  const medium = listedRaster(event)
  if (!medium || !cut.raster) return `${scalePercent} %${moved}`
  const { fillPercent, ownPercent } = partsOfScale(scalePercent, medium, cut.raster)
  const fill = `${fillPercent} % for a medium of ${medium.width} × ${medium.height}`
  return `${scalePercent} %: ${fill}, ${ownPercent} % of the editor’s own${moved}`
}

const percent = (share: number): string => `${Number((share * 100).toFixed(2))} %`

function noteOn(event: CutEvent, resolution: Resolution): string | null {
  const notes = [
    resolution.shortfall ? shortfallNote(resolution.shortfall) : '',
    transitionWords(event.transition),
    event.fadeOut ? `to black: ${transitionWords(event.fadeOut)}` : '',
    event.speed.numerator === 0
      ? 'held frame'
      : event.speed.numerator === event.speed.denominator
        ? ''
        : `at ${speedInPercent(event)} speed`,
    event.key ? `key: ${event.key.part}` : '',
    event.level ? `level ${levelWords(event.level)}` : '',
    event.isDisabled ? 'switched off' : '',
  ].filter(Boolean)
  return notes.length ? notes.join(' · ') : null
}

/** @param since when it was first shown */
export function presentFinding(state: CutState, finding: Finding, since?: Date): FindingRow {
  const clip = finding.clipId === null ? undefined : state.clips.get(finding.clipId)
  return {
    key: finding.key,
    kind: finding.kind,
    severity: finding.severity,
    message: finding.message,
    clipId: finding.clipId,
    clipName: clip?.name ?? null,
    volumeLabel: finding.volumeLabel ?? clip?.volumeLabel ?? null,
    pairIds: [...finding.pairIds],
    events: [...finding.events],
    eventNumbers: [...new Set(finding.events.map((position) => state.cut.events[position]?.number ?? ''))],
    media: [...new Set(finding.events.flatMap((position) => state.cut.events[position]?.kind ?? []))],
    trim: trimOf(state, finding),
    padSamples: padOf(state, finding),
    evidence: [...finding.evidence],
    mends: [...finding.mends],
    rivals: (finding.choices ?? []).map(({ clipId, against }) => ({
      ...{ clipId, against },
      path: state.clips.get(clipId)?.originalPaths[0] ?? '',
    })),
    known: knownAs(state.cut.events[finding.events[0] ?? -1]),
    ...decidedOn(state, finding),
    since: since?.toISOString() ?? null,
    isNew: isNew(since),
  }
}

const wordOf = ({ reason, decidedAt }: DecisionOnUses): { reason: string; decidedAt: string } => ({ reason, decidedAt })

/** What was decided on a finding, as far as it holds, and else what was said of it when it was another matter. */
function decidedOn(state: CutState, { key }: Finding): Pick<FindingRow, 'decision' | 'lapsed'> {
  const isOfIt = ({ findingKey }: DecisionOnUses): boolean => findingKey === key
  const [decision, lapsed, earlier] = [state.decisions.find(isOfIt), state.lapsed.find(isOfIt), state.earlier.get(key)]
  if (decision) return { decision: wordOf(decision), lapsed: null }
  if (lapsed) return { decision: null, lapsed: { ...wordOf(lapsed), because: 'more is used' } }
  return { decision: null, lapsed: earlier ? { ...wordOf(earlier), because: 'it stands otherwise' } : null }
}

/** How much silence behind its recording would be enough for a use, where that is a cure. */
function padOf({ cut, resolutions, clips }: CutState, { mends, events, clipId }: Finding): number | null {
  const [position = -1] = events
  const [event, lack] = [cut.events[position], resolutions[position]?.shortfall]
  const facts = clips.get(clipId ?? '')?.facts
  return mends.includes('pad') && event && lack && facts ? samplesToPad(facts, lack, event.sourceRate) : null
}

/** What a use would give up, in words, where it can. */
function trimOf({ cut, resolutions }: CutState, { mends, events }: Finding): string | null {
  const [position = -1] = events
  const lack = resolutions[position]?.shortfall
  const trimmed = mends.includes('trim') && lack ? trimUse(cut, position, lack) : null
  return trimmed && 'event' in trimmed ? describeShortfall(trimmed.gives) : null
}

/** How a list knows what an event uses: by its path, or no more than a name. */
export const knownAs = (event: CutEvent | undefined): string | null => event?.path ?? event?.clipName ?? null

/** @param tried what of the cut's originals was decoded at head, quarters and tail */
export function presentPreflight(state: CutState, tried: PreflightInfo['tried']): PreflightInfo {
  const result = preflight(state.findings, state.decisions)
  const decided = new Set(state.decisions.map((decision) => decision.findingKey))
  return {
    ready: result.ready,
    tried,
    checks: result.checks.map((check) => ({ ...check, kinds: [...check.kinds] })),
    open: result.open.map((finding) => presentFinding(state, finding)),
    decided: state.findings
      .filter((finding) => decided.has(finding.key))
      .map((finding) => presentFinding(state, finding)),
  }
}
