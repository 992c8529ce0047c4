import type { Job } from '@ennick/contract'

const latest = 20

/** How many of what was asked for together with the oldest job that is not over, or after it, are done. */
export function doneMeanwhile(jobs: readonly Job[]): number {
  const open = jobs.filter((job) => job.state === 'waiting' || job.state === 'running')
  const since = open.reduce((earliest, job) => Math.min(earliest, Date.parse(job.createdAt)), Number.POSITIVE_INFINITY)
  return jobs.filter((job) => job.state === 'done' && Date.parse(job.createdAt) >= since).length
}

/**
 * Seconds until all that runs and waits is made, by how long the last ones took. What is held or paused does not count.
 * @param atOnce how many the workers make at once
 * @returns null when nothing was made yet to go by, or when nothing goes on
 */
export function queueSeconds(jobs: readonly Job[], atOnce: number): number | null {
  const makes = jobs.filter((job) => job.kind === 'make')
  const ended = makes.filter((job) => job.state === 'done' && job.startedAt && job.endedAt).slice(0, latest)
  const going = makes.filter((job) => !job.isHeld && (job.state === 'waiting' || job.state === 'running'))
  if (ended.length === 0 || going.length === 0 || atOnce === 0) return null
  const seconds = ended.reduce(
    (sum, job) => sum + (Date.parse(job.endedAt as string) - Date.parse(job.startedAt as string)) / 1000,
    0,
  )
  const each = seconds / ended.length
  const running = going.filter((job) => job.state === 'running')
  const left = running.reduce((sum, job) => sum + (job.progress?.secondsLeft ?? each / 2), 0)
  return (left + each * (going.length - running.length)) / Math.min(atOnce, going.length)
}
