import { basename, dirname, join, relative } from 'node:path'
import { compareCollection, sequenceFramePaths } from '@ennick/core'
import { readCutState } from '../cuts/cut-state.ts'
import { fingerprint } from '../disk/fingerprint.ts'
import { explainFileError } from '../errors.ts'
import { forEachAtOnce, sameStamp, stampOf } from '../intake/describe-file.ts'
import type { Unreadable } from '../intake/walk.ts'
import type { WorkContext } from '../queue/context.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { hasChanged, heldContent } from '../store/backups.ts'
import type { CollectedOriginal, JobResult } from '../store/job-types.ts'
import type { KnownClip, KnownFile } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { mediaPlaces } from './media-places.ts'

/** Extra files that are named one by one. */
const mostNamed = 500

/** Compares a folder with what a cut, or all of a production, needs of it. Nothing is changed. */
export async function checkCollection(
  { database, signal, job }: WorkContext,
  meter: ProgressMeter,
  { folder, cutId }: { folder: string; cutId: string | null },
): Promise<JobResult> {
  const material = await readMaterial(database, job.productionId)
  const state = cutId === null ? null : await readCutState(database, cutId)
  const used = state && new Set(state.resolutions.flatMap((resolution) => resolution.clipId ?? []))
  const clips = [...material.clips.values()].filter(({ id, role }) => (used ? used.has(id) : role === 'original'))
  const isStills = (clip: KnownClip): boolean => clip.main.sequence !== null
  const wanted = clips
    .filter((clip) => !isStills(clip))
    .flatMap((clip) => clip.files.map((file) => ({ clip, file, id: file.id, name: basename(file.path) })))

  const unreadable: Unreadable[] = []
  const places = await mediaPlaces(folder, { isShallow: false, unreadable, signal })
  const paths = places.flatMap(({ path, sequence }) => {
    const below = relative(folder, path)
    return sequence ? [...new Set(sequenceFramePaths({ ...sequence, folder: dirname(below) }))] : [below]
  })
  const known = new Map([...material.files.values()].map((file) => [file.fullPath, file]))
  const found: { path: string; fingerprint: string; sizeBytes: number }[] = []
  let done = 0
  await forEachAtOnce(paths, 2, async (path) => {
    signal.throwIfAborted()
    const full = join(folder, path)
    try {
      const stamp = await stampOf(full)
      const before = known.get(full)
      const mark = before && sameStamp(before, stamp) ? before.fingerprint : await fingerprint(full, stamp.sizeBytes)
      found.push({ path, fingerprint: mark, sizeBytes: stamp.sizeBytes })
    } catch (error) {
      unreadable.push({ path, reason: explainFileError(error, full) })
    }
    meter.report(++done, paths.length, 'files')
  })
  const { needed, extra } = compareCollection(
    wanted.map(({ id, name, file }) => ({ id, name, ...firstContent(file) })),
    found.sort((a, b) => (a.path < b.path ? -1 : 1)),
  )
  return {
    kind: 'collect',
    looked: paths.length,
    needed: needed.map(({ outcome, path }, index): CollectedOriginal => {
      const { clip, name, file } = wanted[index] as (typeof wanted)[number]
      return { clipId: clip.id, name, outcome, path, sizeBytes: file.sizeBytes }
    }),
    extra: [...extra]
      .sort((a, b) => b.sizeBytes - a.sizeBytes)
      .slice(0, mostNamed)
      .map(({ path, sizeBytes }) => ({ path, sizeBytes })),
    extraCount: extra.length,
    extraBytes: extra.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0),
    unknown: state?.resolutions.filter(({ clipId }) => clipId === null).length ?? 0,
    stills: clips.filter(isStills).length,
    unreadable,
  }
}

/** What an original was when it was first seen; how large that was is known only while it is the same. */
const firstContent = (file: KnownFile) => ({
  fingerprint: heldContent(file),
  sizeBytes: hasChanged(file) ? null : file.sizeBytes,
})
