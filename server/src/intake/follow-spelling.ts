import { join } from 'node:path'
import { groupBy, normalName } from '@ennick/core'
import { and, eq, sql } from 'drizzle-orm'
import type { WorkContext } from '../queue/context.ts'
import { writeHistory } from '../store/history.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { files } from '../store/schema.ts'
import { sameStamp, stampOf } from './describe-file.ts'
import type { FoundFile } from './find-files.ts'

interface Spelled {
  readonly id: string
  readonly path: string
  readonly sequence: FoundFile['sequence']
}

/**
 * Files whose names are written otherwise than they are known, in case or Unicode form, on a disk that does not tell
 * these apart: it is the same file still. It is known by the disk, which leads from the old spelling to what it lists
 * under the new one.
 * @param known the volume's files by their paths; brought up to date
 * @returns whether there were any
 */
export async function followSpelling<Known extends Spelled>(
  { database }: WorkContext,
  volume: VolumeRow,
  found: readonly FoundFile[],
  known: Map<string, Known>,
): Promise<boolean> {
  const listed = new Set(found.map(({ path }) => path))
  const lost = groupBy(
    [...known.values()].filter(({ path, sequence }) => !sequence && !listed.has(path)),
    ({ path }) => normalName(path),
  )
  if (lost.size === 0) return false
  let isAny = false
  const unknown = groupBy(
    found.filter(({ path, sequence }) => !sequence && !known.has(path)),
    ({ path }) => normalName(path),
  )
  for (const [name, [row, ...others]] of lost) {
    const [file, ...rivals] = unknown.get(name) ?? []
    if (!row || !file || others.length || rivals.length) continue
    const [before, now] = await Promise.all(
      [row, file].map(({ path }) => stampOf(join(volume.rootPath, path)).catch(() => null)),
    )
    if (!before || !now || !sameStamp(before, now)) continue
    const moved = await database
      .update(files)
      .set({ path: file.path })
      .where(
        and(
          eq(files.id, row.id),
          sql`not exists (
            select from files as other where other.volume_id = ${volume.id} and other.path = ${file.path})`,
        ),
      )
      .returning({ id: files.id })
    if (moved.length === 0) continue
    isAny = true
    known.delete(row.path)
    known.set(file.path, { ...row, path: file.path })
    const what = `${row.path} on “${volume.label}” is written ${file.path} now.`
    await writeHistory(database, volume.productionId, 'volume', volume.id, what)
  }
  return isAny
}
