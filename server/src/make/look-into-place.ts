import type { Dirent } from 'node:fs'
import { lstat, readdir } from 'node:fs/promises'
import { join } from 'node:path'
import type { MadeListing } from '@ennick/contract'
import { compareText } from '@ennick/core'
import { and, eq, isNull } from 'drizzle-orm'
import { type FileStamp, stampOfStats } from '../disk/fingerprint.ts'
import { markerName } from '../disk/marker.ts'
import { explainFileError, isFileError, PlainError } from '../errors.ts'
import { sameStamp } from '../intake/describe-file.ts'
import { isPart } from '../placements/unfinished-files.ts'
import type { Database } from '../store/database.ts'
import { joinedFiles } from '../store/job-schema.ts'
import { readRecipes } from '../store/recipes.ts'
import { clipFiles, clips, files, pairFiles, pairs } from '../store/schema.ts'
import { isTakenOut } from '../store/taken-out.ts'
import { readMadePlace } from './made-places.ts'

const shownAtMost = 2000
const newForMilliseconds = 24 * 3600 * 1000

type Line = MadeListing['files'][number]
const states: readonly Line['state'][] = ['in use', 'set aside', 'changed', 'gone', 'unfinished', 'not in the ledger']

/**
 * What lies in a place of made files, each with what the ledger knows of it, and what the ledger knows and is not
 * there. It is looked at and nothing else.
 */
export async function lookIntoPlace(database: Database, placeId: string): Promise<MadeListing> {
  const made = await readMadePlace(database, placeId)
  const recipes = await readRecipes(database)
  const rows = await database
    .select({ file: files, pair: pairs, clipName: clips.name, isTakenOut })
    .from(files)
    .leftJoin(pairFiles, eq(pairFiles.fileId, files.id))
    .leftJoin(pairs, eq(pairs.id, pairFiles.pairId))
    .leftJoin(clips, eq(clips.id, pairs.clipId))
    .where(eq(files.volumeId, made.id))
  const known = new Map(rows.map((row) => [row.file.path, row]))
  // What a mend has pointed a clip at: a recording with silence behind it.
  const pointedAt = await database
    .select({ fileId: clipFiles.fileId, clip: clips.name })
    .from(clipFiles)
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .innerJoin(clips, eq(clips.id, clipFiles.clipId))
    .where(eq(files.volumeId, made.id))
  const joinedHere = and(eq(joinedFiles.volumeId, made.id), isNull(joinedFiles.removedAt))
  const joined = new Map((await database.select().from(joinedFiles).where(joinedHere)).map((row) => [row.path, row]))
  const clipOf = new Map(pointedAt.map(({ fileId, clip }) => [fileId, clip]))
  const recipeOf = (pair: typeof pairs.$inferSelect): string | null =>
    pair.recipeId && (recipes.get(pair.recipeId)?.name ?? pair.recipeId)
  const lines: Line[] = []
  const found = await listPlace(made.rootPath)
  const now = Date.now()
  for (const { path, modifiedAt, ...stamp } of found) {
    const row = known.get(path)
    known.delete(path)
    const base = { path, sizeBytes: stamp.sizeBytes, modifiedAt: modifiedAt.toISOString() }
    const pointed = row && clipOf.get(row.file.id)
    const ofMany = joined.get(path)
    joined.delete(path)
    if (ofMany) {
      const state = stamp.sizeBytes === ofMany.sizeBytes ? 'in use' : 'changed'
      const isNew = now - ofMany.createdAt.getTime() < newForMilliseconds
      lines.push({ ...base, state, clip: wordsOf(ofMany), recipe: ofMany.recipe, isNew })
    } else if (row && pointed !== undefined) {
      const state = sameStamp(row.file, stamp) ? 'in use' : 'changed'
      lines.push({ ...base, state, clip: pointed, recipe: null, isNew: false })
    } else if (!row?.pair) lines.push({ ...base, ...unknown(path), clip: null, recipe: null, isNew: false })
    else {
      const kept = row.pair.isActive && !row.isTakenOut ? 'in use' : 'set aside'
      lines.push({
        ...base,
        state: sameStamp(row.file, stamp) ? kept : 'changed',
        clip: row.clipName,
        recipe: recipeOf(row.pair),
        isNew: now - row.pair.createdAt.getTime() < newForMilliseconds,
      })
    }
  }
  for (const [path, { file, pair, clipName: tied }] of known) {
    const clipName = clipOf.get(file.id) ?? tied
    if (pair || clipOf.has(file.id))
      lines.push({
        ...{ path, sizeBytes: file.sizeBytes, modifiedAt: null, state: 'gone' as const, clip: clipName },
        ...{ recipe: pair && recipeOf(pair), isNew: false },
      })
  }
  for (const [path, row] of joined)
    lines.push({
      ...{ path, sizeBytes: row.sizeBytes, modifiedAt: null, state: 'gone', clip: wordsOf(row) },
      ...{ recipe: row.recipe, isNew: false },
    })
  lines.sort((a, b) => compareText(a.path, b.path))
  return {
    path: made.rootPath,
    counts: states.map((state) => {
      const own = lines.filter((line) => line.state === state)
      return { state, files: own.length, bytes: own.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0) }
    }),
    // What somebody has to look at comes first where there is no room for all.
    files: [...lines.filter(isOdd), ...lines.filter((line) => !isOdd(line))].slice(0, shownAtMost),
    total: lines.length,
  }
}

const wordsOf = ({ entries }: typeof joinedFiles.$inferSelect): string => `${entries.length} items joined`

const odd: readonly Line['state'][] = ['changed', 'gone', 'not in the ledger']
const isOdd = ({ state }: Line): boolean => odd.includes(state)

const unknown = (path: string): Pick<Line, 'state'> => ({
  state: isPart(path.slice(path.lastIndexOf('/') + 1)) ? 'unfinished' : 'not in the ledger',
})

/** Every file of the place, without following links; a link is a file of somebody's. */
async function listPlace(root: string): Promise<(FileStamp & { path: string; modifiedAt: Date })[]> {
  let entries: Dirent[]
  try {
    entries = await readdir(root, { recursive: true, withFileTypes: true })
  } catch (error) {
    if (!isFileError(error)) throw error
    throw new PlainError('place-away', explainFileError(error, root), { status: 409 })
  }
  const found = []
  for (const entry of entries) {
    const full = join(entry.parentPath, entry.name)
    const path = full.slice(root.length + 1)
    if (entry.isDirectory() || path === markerName) continue
    const stats = await lstat(full, { bigint: true }).catch(() => null)
    if (stats) found.push({ path, ...stampOfStats(stats), modifiedAt: stats.mtime })
  }
  return found
}
