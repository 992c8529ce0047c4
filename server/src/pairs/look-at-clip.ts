import type { Stretch } from '@ennick/core'
import { lookAt } from '../engine/look.ts'
import type { KnownFile } from '../store/known-material.ts'

/** Stretches of a clip, by its own frames, in whichever of its files they lie; what lies outside is left out. */
export async function lookAtClip(
  clipFiles: readonly KnownFile[],
  starts: readonly number[],
  frames: number,
  signal: AbortSignal,
): Promise<Stretch[]> {
  const stretches: Stretch[] = []
  let before = 0
  for (const file of clipFiles) {
    const { facts } = file
    const length = facts?.picture?.frames ?? 0
    const inside = [
      ...new Set(
        starts
          .filter((start) => start + frames > before && start < before + length)
          .map((start) => Math.max(0, start - before)),
      ),
    ]
    if (facts && inside.length) {
      const look = await lookAt({ ...file, facts }, inside, frames, signal)
      for (const stretch of look.stretches) stretches.push({ ...stretch, from: stretch.from + before })
    }
    before += length
  }
  return stretches
}
