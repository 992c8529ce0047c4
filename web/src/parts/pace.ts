import type { Job } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { bytes, timeLeft } from './words.ts'

type Progress = NonNullable<Job['progress']>

/** How far a running job is, how fast it goes and how long it still takes. */
export function pace({ progress, isHeld }: Pick<Job, 'progress' | 'isHeld'>): string {
  if (!progress) return isHeld ? 'stands still' : 'starting'
  const far =
    progress.unit === 'bytes'
      ? `${bytes(progress.done)} of ${bytes(progress.total)}`
      : `${formatNumber(progress.done)} of ${formatNumber(progress.total)} ${progress.unit}`
  if (isHeld) return `${far} · stands still`
  if (progress.step === 'checking') return `${far} · is being checked`
  return [far, ...speed(progress), timeLeft(progress.secondsLeft)].join(' · ')
}

function speed({ unitsPerSecond, unit, realTime }: Progress): string[] {
  if (unitsPerSecond === null) return []
  if (unit === 'bytes') return [`${bytes(unitsPerSecond)}/s`]
  return [
    `${short(unitsPerSecond)} ${unit === 'frames' ? 'fps' : 'files/s'}`,
    ...(realTime === null ? [] : [`${short(realTime)} × real time`]),
  ]
}

const short = (value: number): string => (value < 10 ? value.toFixed(1) : String(Math.round(value)))

/** How fast an ended job went; null for one that says nothing of it. */
export const endedPace = ({ progress }: Pick<Job, 'progress'>): string | null =>
  progress ? speed(progress).join(' · ') || null : null
