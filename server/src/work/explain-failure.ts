import { formatTimecode } from '@ennick/core'
import { findDamagedFrames } from '../engine/damage.ts'
import type { EncodeOutcome } from '../engine/encode.ts'
import type { WorldClip } from '../store/world.ts'
import { stampOfPlaced } from './describe-file.ts'

/** When the encoder fails because the volume left under it, or because frames are damaged, that is the reason to tell. */
export async function betterReason(clip: WorldClip, outcome: EncodeOutcome, signal: AbortSignal): Promise<string> {
  if (await stampOfPlaced(clip.main).catch(() => null))
    return (outcome.mayBeDamaged && (await damageOf(clip, signal))) || String(outcome.failure)
  return `${clip.main.fullPath} disappeared while it was read: was volume “${clip.main.volume.label}” taken out? Put it in, and retry.`
}

/** Names the damaged frames of a clip of one file, or null when none are found. */
async function damageOf(clip: WorldClip, signal: AbortSignal): Promise<string | null> {
  const { facts, sequence, fullPath } = clip.main
  if (!facts?.picture || sequence || clip.files.length > 1) return null
  const damaged = await findDamagedFrames(fullPath, facts.picture, signal)
  if (damaged.length === 0) return null
  const { rate } = facts.picture
  const label = (frame: number): string =>
    facts.startFrame === null ? String(frame) : `${frame} (${formatTimecode(facts.startFrame + frame, rate, facts.dropFrame)})`
  const shown = damaged.slice(0, mostDamagedShown).map(label).join(', ')
  const more = damaged.length > mostDamagedShown ? ` and ${damaged.length - mostDamagedShown} more` : ''
  return `${fullPath} is damaged: ${damaged.length === 1 ? 'frame' : 'frames'} ${shown}${more} cannot be decoded. Nothing was made of it. Take the file from its card or another copy again.`
}

const mostDamagedShown = 6
