import { createHash } from 'node:crypto'
import { mkdir, readdir, readFile, writeFile } from 'node:fs/promises'
import { hostname } from 'node:os'
import { join } from 'node:path'
import {
  escapeXml,
  type HashKind,
  type HashList,
  HashListError,
  hashListName,
  hashToCheck,
  parseHashList,
  verifyAgainst,
  writeHashList,
} from '@ennick/core'
import { eq } from 'drizzle-orm'
import { hashFile } from '../engine/copy.ts'
import { explainFileError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import { manifests } from '../store/catalogue-schema.ts'
import { record } from '../store/history.ts'
import type { JobResult } from '../store/job-schema.ts'
import { volumes } from '../store/schema.ts'
import type { VolumeRow } from '../store/world.ts'
import type { WorkContext } from './context.ts'
import type { VerifiedCopy } from './copier.ts'
import { stampOf } from './describe-file.ts'
import { JobFailure } from './failure.ts'
import { exists } from './place.ts'
import type { ProgressMeter } from './progress.ts'
import { pathIn, walk } from './walk.ts'

/** The folder in which the standard keeps a history of manifests, and the file that lists its generations. */
export const historyFolder = 'ascmhl'
const chainFile = 'ascmhl_chain.xml'

/** Writes the manifest of a copy as the next generation beside it. @returns its path below the volume's root */
export async function writeManifest(
  { database }: WorkContext,
  volume: VolumeRow,
  folder: string,
  title: string,
  kind: HashKind,
  copies: readonly VerifiedCopy[],
): Promise<string> {
  const below = pathIn(folder, historyFolder)
  const directory = join(volume.rootPath, below)
  await mkdir(directory, { recursive: true })
  const generation = (await readdir(directory)).filter((name) => name.endsWith('.mhl')).length + 1
  const now = new Date()
  const text = writeHashList({
    createdAt: now.toISOString(),
    host: hostname(),
    tool: 'Ennick',
    files: copies.map((copy) => ({
      path: copy.path,
      sizeBytes: copy.sizeBytes,
      modifiedAt: new Date(copy.mtimeMicros / 1000).toISOString(),
      hashes: { [kind]: copy.hash },
    })),
  })
  const name = hashListName(generation, title.replace(/[^\p{L}\p{N}._-]+/gu, '_'), now)
  await writeFile(join(directory, name), text, { flag: 'wx' })
  await writeChain(directory)
  const path = pathIn(below, name)
  await database.insert(manifests).values({ volumeId: volume.id, path, folder, files: copies.length }).onConflictDoNothing()
  return path
}

/** The chain lists every generation with its own checksum, so that a manifest that was changed is seen (ASC MHL, section 6). */
async function writeChain(directory: string): Promise<void> {
  const names = (await readdir(directory)).filter((name) => name.endsWith('.mhl')).sort()
  const entries = await Promise.all(
    names.map(async (name, index) => {
      const sha1 = createHash('sha1')
        .update(await readFile(join(directory, name)))
        .digest('hex')
      return `  <hashlist sequencenr="${index + 1}">\n    <path>${escapeXml(name)}</path>\n    <sha1>${sha1}</sha1>\n  </hashlist>\n`
    }),
  )
  await writeFile(
    join(directory, chainFile),
    `<?xml version="1.0" encoding="UTF-8"?>\n<ascmhldirectory xmlns="urn:ASC:MHL:DIRECTORY:v2.0">\n${entries.join('')}</ascmhldirectory>\n`,
  )
}

/** Reads every file that a manifest lists and says which are missing, changed or extra. */
export async function verifyManifest(context: WorkContext, meter: ProgressMeter, manifestId: string): Promise<JobResult> {
  const { database, job, signal } = context
  const [row] = await database
    .select()
    .from(manifests)
    .innerJoin(volumes, eq(volumes.id, manifests.volumeId))
    .where(eq(manifests.id, manifestId))
  if (!row) throw new JobFailure('The manifest was removed.')
  const { manifests: manifest, volumes: volume } = row
  if (!(await exists(volume.rootPath)))
    throw new JobFailure(`Volume “${volume.label}” is away. It is verified when it is back.`, { waitsForVolume: volume.id })
  const list = await readList(join(volume.rootPath, manifest.path))
  const root = join(volume.rootPath, manifest.folder)
  const found = new Map<string, { sizeBytes: number; hash: string | null }>()
  for await (const { path } of walk(root)) {
    if (path.startsWith(`${historyFolder}/`)) continue
    const stamp = await stampOf(join(root, path)).catch(() => null)
    if (stamp) found.set(path, { sizeBytes: stamp.sizeBytes, hash: null })
  }
  const total = list.files.reduce((sum, file) => sum + (found.get(file.path)?.sizeBytes === file.sizeBytes ? file.sizeBytes : 0), 0)
  let bytes = 0
  meter.restart()
  for (const file of list.files) {
    signal.throwIfAborted()
    const there = found.get(file.path)
    const kind = hashToCheck(file.hashes)
    if (!there || kind === null || there.sizeBytes !== file.sizeBytes) continue
    const onBytes = (read: number): void => {
      bytes += read
      meter.report(bytes, total, 'bytes')
    }
    try {
      found.set(file.path, { ...there, hash: await hashFile(join(root, file.path), { kind, signal, onBytes }) })
    } catch (error) {
      signal.throwIfAborted()
      if (!(await exists(volume.rootPath)))
        throw new JobFailure(`Volume “${volume.label}” left while it was verified. It is verified when it is back.`, {
          waitsForVolume: volume.id,
        })
      console.error(`${file.path} could not be read: ${(error as Error).message}`)
    }
  }
  const lines = verifyAgainst(list, found)
  const wrong = lines.filter((line) => line.state !== 'matches')
  const matching = lines.length - wrong.length
  await record(
    database,
    job.productionId,
    'volume',
    volume.id,
    wrong.length
      ? `“${volume.label}” verified against ${manifest.path}: ${matching} files match, ${wrong.length} do not.`
      : `“${volume.label}” verified against ${manifest.path}: all ${matching} files match.`,
  )
  await announce(database, job.productionId, 'volumes')
  return { kind: 'verify', matching, bytes, lines: wrong }
}

async function readList(path: string): Promise<HashList> {
  try {
    return parseHashList(await readFile(path, 'utf8'))
  } catch (error) {
    throw new JobFailure(error instanceof HashListError ? `${path}: ${error.message}` : explainFileError(error, path))
  }
}

/** Looks on a volume for manifests that came with it, and remembers them. */
export async function findManifests({ database }: Pick<WorkContext, 'database'>, volume: VolumeRow): Promise<number> {
  let found = 0
  for await (const { path } of walk(volume.rootPath)) {
    const match = /^(?:(.*)\/)?ascmhl\/[^/]+\.mhl$/.exec(path)
    if (!match) continue
    const list = await readList(join(volume.rootPath, path)).catch(() => null)
    if (!list) continue
    found++
    await database
      .insert(manifests)
      .values({ volumeId: volume.id, path, folder: match[1] ?? '', files: list.files.length })
      .onConflictDoNothing()
  }
  return found
}
