import { sql } from 'drizzle-orm'
import type { Database } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import type { JobInput } from '../store/job-types.ts'
import { clipFiles, files, volumes } from '../store/schema.ts'

/**
 * Running jobs of a worker that read from, or write to, a volume whose share or disk says nothing any more.
 * @param still those of which nothing was heard for a while: they are taken to wait for such a volume of their own
 */
export async function findHanging(
  database: Database,
  workerId: string,
  still: readonly string[],
): Promise<{ jobId: string; volumeId: string; label: string }[]> {
  const { rows } = await database.execute<{ jobId: string; volumeId: string; label: string }>(sql`
    select distinct on (job.id) job.id as "jobId", volume.id as "volumeId", volume.label
    from ${jobs} job join ${volumes} volume on not volume.is_answering and (
      (job.id = any(${sql.param(still)}::uuid[]) and volume.production_id = job.production_id) or
      volume.id::text in (job.input->>'volumeId', job.input->>'destinationId') or exists (
        select from ${clipFiles} link join ${files} file on file.id = link.file_id
        where link.clip_id::text = job.input->>'clipId' and file.volume_id = volume.id))
    where job.state = 'running' and job.worker_id = ${workerId}`)
  return rows
}

/** What is asked for with a folder that is no volume: somewhere to copy to, or where something lies. */
const ofFolders: readonly JobInput['kind'][] = ['pull', 'restore', 'finished', 'collect']

/** Of running jobs those that were given a folder of which nothing is known but its path, and it. */
export async function readFolders(
  database: Database,
  jobIds: readonly string[],
): Promise<{ jobId: string; folder: string }[]> {
  if (jobIds.length === 0) return []
  const { rows } = await database.execute<{ jobId: string; folder: string }>(sql`
    select job.id as "jobId", job.input->>'folder' as folder from ${jobs} job
    where job.id = any(${sql.param(jobIds)}::uuid[]) and job.input->>'kind' = any(${sql.param(ofFolders)}::text[])`)
  return rows
}
