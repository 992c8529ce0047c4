import { cellsInside, EveryFrame, type EvidenceRow, sameRate, windowInside } from '@ennick/core'
import { greyFrames } from '../engine/grey-frames.ts'
import { lookAt } from '../engine/look.ts'
import { isAsKnown } from '../intake/describe-file.ts'
import type { KnownClip, KnownFile, KnownPair } from '../store/known-material.ts'

/** Fine enough to tell one frame from the next, and quick to compare. */
const [width, height] = [32, 18]
const framesAtOnce = 100

/**
 * Compares every picture of an item with the one of its original at the same frame.
 * @param onFrames told of frames compared so far
 * @returns null where they cannot be: the original is not here or not as it is known, is stills, or has another rate or
 * length
 */
export async function compareEveryFrame(
  pair: KnownPair,
  clip: KnownClip,
  signal: AbortSignal,
  onFrames: (frames: number) => void,
): Promise<EvidenceRow | null> {
  const made = pair.files.find(({ part }) => part !== 'sound')?.file
  const [source, item] = [clip.main.facts?.picture, made?.facts?.picture]
  if (!made || !source || !item || clip.presence !== 'here' || clip.files.some(({ sequence }) => sequence)) return null
  if (!sameRate(source.rate, item.rate) || source.frames !== item.frames) return null
  if (!(await areAsKnown(clip.files))) return null
  const every = new EveryFrame()
  const originals = await framesOf(
    clip.files.filter(({ facts }) => facts?.picture),
    signal,
  )
  const items = await framesOf([made], signal)
  try {
    for (let frame = 0; ; frame++) {
      const [next, other] = [await items.next(), await originals.next()]
      if (!next.done) every.addMade(frame, next.value)
      if (!other.done) every.addOriginal(frame, other.value)
      // One that gives fewer pictures than it says is told by its decode.
      if (next.done || other.done) return next.done && other.done && (await areAsKnown(clip.files)) ? every.end() : null
      if (frame % framesAtOnce === 0) onFrames(frame)
    }
  } finally {
    await Promise.all([items.return(undefined), originals.return(undefined)])
  }
}

async function areAsKnown(files: readonly KnownFile[]): Promise<boolean> {
  for (const file of files) if (!(await isAsKnown(file))) return false
  return true
}

/** The pictures of files, one after another, without the bars that they have at their beginning. */
async function framesOf(files: readonly KnownFile[], signal: AbortSignal) {
  const [first] = files as [KnownFile]
  const facts = first.facts as NonNullable<KnownFile['facts']>
  const starts = [0, Math.floor((facts.picture?.frames ?? 1) / 2)]
  const window = windowInside((await lookAt({ ...first, facts }, [...new Set(starts)], 4, signal)).stretches)
  return (async function* () {
    for (const { fullPath } of files)
      for await (const picture of greyFrames(fullPath, signal)) yield cellsInside(picture, window, width, height)
  })()
}
