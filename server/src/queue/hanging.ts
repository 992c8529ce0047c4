import { sql } from 'drizzle-orm'
import type { Database } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import { clipFiles, files, volumes } from '../store/schema.ts'

/** Running jobs of a worker that read from, or write to, a volume whose share or disk says nothing any more. */
export async function findHanging(
  database: Database,
  workerId: string,
): Promise<{ jobId: string; volumeId: string; label: string }[]> {
  const { rows } = await database.execute<{ jobId: string; volumeId: string; label: string }>(sql`
    select job.id as "jobId", volume.id as "volumeId", volume.label
    from ${jobs} job join ${volumes} volume on not volume.is_answering and (
      volume.id::text in (job.input->>'volumeId', job.input->>'destinationId') or exists (
        select from ${clipFiles} link join ${files} file on file.id = link.file_id
        where link.clip_id::text = job.input->>'clipId' and file.volume_id = volume.id))
    where job.state = 'running' and job.worker_id = ${workerId}`)
  return rows
}
