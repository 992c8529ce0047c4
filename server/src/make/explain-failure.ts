import { join } from 'node:path'
import { formatTimecode, type MediaFacts, sequenceFramePaths } from '@ennick/core'
import { findDamagedFrames, findDamagedStill } from '../engine/damage.ts'
import type { EncodeOutcome } from '../engine/encode.ts'
import { stampOfPlaced } from '../intake/describe-file.ts'
import type { KnownClip, KnownFile } from '../store/known-material.ts'
import { placeOf } from '../store/place-words.ts'

/**
 * When the encoder fails because the volume left under it, or because frames are damaged, that is the reason to tell.
 */
export async function betterReason(clip: KnownClip, outcome: EncodeOutcome, signal: AbortSignal): Promise<string> {
  for (const file of clip.files)
    if (!(await stampOfPlaced(file).catch(() => null)))
      return `${placeOf(file)} disappeared while it was read: was the volume taken out? Put it in, and retry.`
  const damage = outcome.mayBeDamaged ? await damageOf(clip, signal) : null
  return damage === null ? String(outcome.failure) : `${damage} Nothing was made of it.`
}

/** Names the damaged frames of a clip, or null when none are found. */
export async function damageOf(clip: KnownClip, signal: AbortSignal): Promise<string | null> {
  const { facts, sequence } = clip.main
  if (!facts?.picture) return null
  const wholeClip = (frame: number): string => labelOf(facts, frame)
  if (sequence) {
    const still = await findDamagedStill({ ...clip.main, sequence }, facts.picture.rate, signal)
    if (still === null) return null
    const path = [...sequenceFramePaths(sequence)][still]
    return sentence(
      path === undefined ? clip.main.fullPath : join(clip.main.root, path),
      [wholeClip(still)],
      'The first that',
    )
  }
  let before = 0
  for (const file of clip.files) {
    const damaged = await damagedIn(file, before, signal)
    if (damaged.length) return sentence(file.fullPath, damaged.map(wholeClip))
    before += file.facts?.picture?.frames ?? 0
  }
  return null
}

/** @param before frames of the clip that lie in files before this one */
async function damagedIn(file: KnownFile, before: number, signal: AbortSignal): Promise<number[]> {
  const { facts } = file
  return facts?.picture ? (await findDamagedFrames(file.fullPath, facts, signal)).map((frame) => before + frame) : []
}

function labelOf(facts: MediaFacts, frame: number): string {
  const { startFrame, picture, dropFrame } = facts
  return startFrame === null || !picture
    ? String(frame)
    : `${frame} (${formatTimecode(startFrame + frame, picture.rate, dropFrame)})`
}

function sentence(path: string, damaged: readonly string[], first = ''): string {
  const shown = damaged.slice(0, mostDamagedShown).join(', ')
  const more = damaged.length > mostDamagedShown ? ` and ${damaged.length - mostDamagedShown} more` : ''
  const which = first
    ? `${first} cannot be decoded is frame ${shown}.`
    : `${damaged.length === 1 ? 'frame' : 'frames'} ${shown}${more} cannot be decoded.`
  return `${path} is damaged: ${which} Take the file from its card or another copy again.`
}

const mostDamagedShown = 6
