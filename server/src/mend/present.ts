import type { CandidatePicture, RepointPlanRow, SearchResult } from '@ennick/contract'
import type { CutState } from '../cuts/cut-state.ts'
import { knownAs } from '../cuts/present.ts'
import type { FoundFile } from '../store/job-types.ts'
import type { KnownClip } from '../store/known-material.ts'
import { candidatePictures } from './candidate-pictures.ts'
import type { FinishedSearch } from './repoint.ts'

const picturesOf = (file: FoundFile | undefined, clip: KnownClip | undefined): CandidatePicture[] =>
  file ? candidatePictures(clip?.main.facts ?? null, file) : []

export function presentSearch(jobId: string, state: CutState, result: FinishedSearch): SearchResult {
  const files = new Map(result.candidates.map((file, index) => [file.id, { file, index }]))
  const things = new Map(result.things.map((thing) => [thing.id, thing]))
  const rows = result.rows.map((row): RepointPlanRow => {
    const thing = things.get(row.wantedId)
    const clip = thing?.clipId ? state.material.clips.get(thing.clipId) : undefined
    const file = clip?.files[thing?.ordinal ?? 0]
    const event = state.cut.events[thing?.positions[0] ?? -1]
    return {
      wantedId: row.wantedId,
      label: thing?.label ?? row.wantedId,
      clipId: clip?.id ?? null,
      eventNumbers: [...new Set((thing?.positions ?? []).map((position) => state.cut.events[position]?.number ?? ''))],
      outcome: row.outcome,
      candidateId: row.candidateId,
      rule: row.rule,
      reason: row.reason,
      before: file?.fullPath ?? event?.path ?? null,
      known: file?.fullPath ?? knownAs(event),
      rated: row.rated.map(({ candidateId, rating }) => ({
        candidateId,
        path: files.get(candidateId)?.file.path ?? candidateId,
        index: files.get(candidateId)?.index ?? -1,
        pictures: picturesOf(files.get(candidateId)?.file, clip),
        refusal: rating.gates.length ? rating.gates.map(({ sentence }) => sentence).join('; ') : null,
        mayBeOpened: rating.gates.length > 0 && rating.gates.every(({ mayBeOpened }) => mayBeOpened),
        evidence: [...rating.evidence],
      })),
    }
  })
  const outcome = (wanted: RepointPlanRow['outcome']): number => rows.filter((row) => row.outcome === wanted).length
  return {
    jobId,
    looked: result.looked,
    scopes: [...(result.scopes ?? [])],
    unreadable: (result.unreadable ?? []).map(({ path }) => path),
    counts: {
      asked: rows.length,
      fits: outcome('fits'),
      likely: outcome('likely'),
      ambiguous: outcome('ambiguous'),
      refused: outcome('refused'),
      notFound: outcome('not found'),
    },
    rows,
  }
}
