import type { Cut, CutDetail, CutEventRow, FindingRow, PreflightInfo } from '@ennick/contract'
import {
  type CutEvent,
  type Finding,
  formatTimecode,
  mapPath,
  preflight,
  type Resolution,
  sameRate,
  suggestMappings,
} from '@ennick/core'
import { stripOf } from '../clips/strip.ts'
import { productionRate } from '../store/material.ts'
import { type CutState, originalPaths } from './cut-state.ts'
import { shortfallNote, usesIn } from './uses.ts'

export function presentCut(state: CutState): Cut {
  const count = (wanted: string): number => state.resolutions.filter((resolution) => resolution.state === wanted).length
  const { row, cut } = state
  return {
    id: row.id,
    name: row.name,
    format: row.format,
    fileName: row.fileName,
    rate: cut.rate,
    dropFrame: row.dropFrame,
    tracks: row.tracks,
    events: cut.events.length,
    states: {
      onOriginal: count('on original'),
      onProxy: count('on proxy'),
      originalMissing: count('original away') + count('original gone') + count('original damaged'),
      short: count('short'),
      unresolved: count('unresolved'),
    },
    findings: state.findings.length,
    blocking: preflight(state.findings, state.decisions).open.length,
    createdAt: row.createdAt.toISOString(),
  }
}

export function presentCutDetail(state: CutState): CutDetail {
  const used = new Set(state.resolutions.map((resolution) => resolution.clipId))
  const uses = usesIn([state])
  const mappings = state.material.production.pathMappings
  const unmapped = state.cut.events.flatMap((event, position) =>
    event.path !== null && !isPlaced(state.resolutions[position]) && mapPath(event.path, mappings) === undefined
      ? [event.path]
      : [],
  )
  return {
    cut: presentCut(state),
    events: state.cut.events.map((event, position) => presentEvent(state, event, position)),
    strips: [...used].flatMap((clipId) => {
      const clip = clipId === null ? undefined : state.material.clips.get(clipId)
      const strip = clip ? stripOf(clip, productionRate(state.material.production), uses) : null
      return clip && strip ? [{ clipId: clip.id, name: clip.name, strip }] : []
    }),
    suggestedMappings: unmapped.length ? suggestMappings(unmapped, originalPaths(state.material)).slice(0, 8) : [],
  }
}

const isPlaced = (resolution: Resolution | undefined): boolean =>
  resolution?.by === 'path' || resolution?.by === 'path of its proxy'

function presentEvent(state: CutState, event: CutEvent, position: number): CutEventRow {
  const resolution = state.resolutions[position] as Resolution
  const clip = resolution.clipId === null ? undefined : state.clips.get(resolution.clipId)
  const drop = sourceDrop(state, event, resolution)
  const source = (frame: number): string => formatTimecode(frame, event.sourceRate, drop)
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
    note: noteOn(event, resolution),
    evidence: [...resolution.evidence],
  }
}

function sourceDrop(state: CutState, event: CutEvent, resolution: Resolution): boolean {
  const facts = resolution.clipId === null ? undefined : state.clips.get(resolution.clipId)?.facts
  if (facts?.picture && sameRate(facts.picture.rate, event.sourceRate)) return facts.dropFrame
  return event.sourceDropFrame ?? (state.cut.dropFrame && sameRate(event.sourceRate, state.cut.rate))
}

function noteOn(event: CutEvent, resolution: Resolution): string | null {
  const notes: string[] = []
  if (resolution.shortfall) notes.push(shortfallNote(resolution.shortfall))
  if (event.transition) notes.push(`${event.transition.kind}, ${event.transition.durationFrames} frames`)
  const { numerator, denominator } = event.speed
  if (numerator !== denominator)
    notes.push(numerator === 0 ? 'held frame' : `at ${((numerator / denominator) * 100).toFixed(1)} % speed`)
  return notes.length ? notes.join(' · ') : null
}

export function presentFinding(state: CutState, finding: Finding): FindingRow {
  const clip = finding.clipId === null ? undefined : state.clips.get(finding.clipId)
  const decision = state.decisions.find((candidate) => candidate.findingKey === finding.key)
  return {
    key: finding.key,
    kind: finding.kind,
    severity: finding.severity,
    message: finding.message,
    clipId: finding.clipId,
    clipName: clip?.name ?? null,
    volumeLabel: clip?.volumeLabel ?? null,
    pairId: finding.pairId,
    events: [...finding.events],
    eventNumbers: [...new Set(finding.events.map((position) => state.cut.events[position]?.number ?? ''))],
    evidence: [...finding.evidence],
    mends: [...finding.mends],
    rivals: finding.kind === 'ambiguous' || finding.kind === 'another name' ? rivalsOf(state, finding) : [],
    decision: decision ? { reason: decision.reason, decidedAt: decision.decidedAt } : null,
  }
}

/** By their paths, so that they stand in the same order each time somebody looks. */
function rivalsOf(state: CutState, finding: Finding): FindingRow['rivals'] {
  const ids = state.resolutions[finding.events[0] ?? -1]?.rivals ?? []
  return ids
    .map((clipId) => ({ clipId, path: state.clips.get(clipId)?.originalPaths[0] ?? '' }))
    .sort((a, b) => (a.path < b.path ? -1 : 1))
}

/** @param tried what of the cut's originals was decoded at head, quarters and tail */
export function presentPreflight(state: CutState, tried: PreflightInfo['tried']): PreflightInfo {
  const result = preflight(state.findings, state.decisions)
  const decided = new Set(state.decisions.map((decision) => decision.findingKey))
  return {
    ready: result.ready,
    tried,
    checks: result.checks.map(({ id, question, result: outcome, answer }) => ({
      id,
      question,
      result: outcome,
      answer,
    })),
    open: result.open.map((finding) => presentFinding(state, finding)),
    decided: state.findings
      .filter((finding) => decided.has(finding.key))
      .map((finding) => presentFinding(state, finding)),
  }
}
