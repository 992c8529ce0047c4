import { cp, mkdir, readdir, realpath, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { defaultProxySuffixes } from '@ennick/core'
import {
  CardBay,
  demoFolders,
  demoVolumes,
  exportCuts,
  finishingFolder,
  makeDemoMedia,
  plantFaults,
  production,
  readReadyCut,
  setProxies,
  target,
} from '@ennick/standins'
import { eq } from 'drizzle-orm'
import { type Config, demoFolder, pictureFolder } from '../config.ts'
import { addCut } from '../cuts/add-cut.ts'
import { builtInLutPath } from '../engine/luts.ts'
import { Pause } from '../engine/pause.ts'
import { pictureOf } from '../engine/pictures.ts'
import { forEachAtOnce } from '../intake/describe-file.ts'
import { watchOnce } from '../intake/presence.ts'
import { placeOfKind } from '../make/made-item.ts'
import { addMadePlace } from '../make/made-places.ts'
import { adoptPair } from '../pairs/adopt.ts'
import { performJob } from '../queue/perform.ts'
import { ProgressMeter } from '../queue/progress.ts'
import { work } from '../stops.ts'
import type { Database } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import type { JobInput } from '../store/job-types.ts'
import type { Material } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { addProduction } from '../store/productions.ts'
import { productions, volumes } from '../store/schema.ts'

/** Whether nothing is in the database yet, so that the demo may be loaded. */
export const isEmpty = async (database: Database): Promise<boolean> => (await database.$count(productions)) === 0

/**
 * Makes the demo production and lets it live through its story: scanned while all was well, given proxies on set, then
 * a file renamed, one moved to a shelf and a card left in a bag.
 */
export async function loadDemo(
  database: Database,
  config: Config,
  cacheFolder: string,
  onMade: (done: number, total: number) => void,
): Promise<void> {
  const demo = demoFolder(config.dataFolder)
  await makeDemoMedia(demo, cacheFolder, onMade)
  await exportCuts(demo)
  const row = await addProduction(database, config.dataFolder, {
    ...production,
    isDemo: true,
    proxySuffixes: [...defaultProxySuffixes],
    target,
  })
  const run = (title: string, input: JobInput): Promise<void> => runNow(database, config, row.id, title, input)
  const finishing = join(demo, finishingFolder)
  await mkdir(finishing, { recursive: true })
  await addMadePlace(database, row.id, {
    ...{ folder: await realpath(finishing), label: 'Finishing storage', takes: ['optimized', 'deliverable'] },
  })
  const ids = new Map<string, string>()
  for (const volume of demoVolumes) {
    const [added] = await database
      .insert(volumes)
      .values({
        productionId: row.id,
        label: volume.label,
        kind: volume.kind,
        rootPath: join(demo, 'bay', volume.slot),
        lastSeenAt: new Date(),
      })
      .returning({ id: volumes.id })
    ids.set(volume.slot, (added as { id: string }).id)
    await run(`Scan ${volume.label}`, { kind: 'scan', volumeId: (added as { id: string }).id })
  }
  for (const { folder, label, kind } of demoFolders) {
    const [added] = await database
      .insert(volumes)
      .values({
        productionId: row.id,
        label,
        kind,
        rootPath: join(demo, folder),
        lastSeenAt: new Date(),
        isWatched: kind === 'upload',
      })
      .returning({ id: volumes.id })
    await run(`Scan ${label}`, { kind: 'scan', volumeId: (added as { id: string }).id })
  }
  const made = placeOfKind(await readMaterial(database, row.id), 'proxy')
  const besideOthers = { recursive: true, preserveTimestamps: true, force: false, errorOnExist: true }
  // One after another: later versions of Node.js take the folder itself, which is there, for one that is in the way.
  for (const name of await readdir(join(demo, 'made')))
    await cp(join(demo, 'made', name), join(made.rootPath, name), besideOthers)
  await rm(join(demo, 'made'), { recursive: true })
  const material = await readMaterial(database, row.id)
  await lookAtClips(material, config)
  for (const proxy of setProxies) {
    const clip = [...material.clips.values()].find(
      (candidate) => candidate.main.fullPath === join(demo, proxy.original),
    )
    if (clip) await adoptPair(database, material, clip, [{ path: join(made.rootPath, proxy.path), part: 'whole' }])
  }
  await plantFaults(demo)
  await run('Scan TIDE-1', { kind: 'scan', volumeId: ids.get('TIDE-1') as string })
  await run('Check every file again', { kind: 'check', volumeId: null })
  await new CardBay(demo).move('A002', false)
  await watchOnce(database)
  const first = 'Low Water mill scene v2.otio'
  const kept = { read: (id: string) => readMaterial(database, id) }
  await addCut(database, kept, row.id, { fileName: first, content: await readReadyCut(demo, first) })
}

/** Somebody looked at the clips while everything was in: their thumbnails are kept, and shown while a card is away. */
async function lookAtClips(material: Material, config: Config): Promise<void> {
  await forEachAtOnce([...material.clips.values()], 2, async ({ main }) => {
    if (main.facts?.picture)
      await pictureOf(
        'thumbnail',
        { ...main, facts: main.facts },
        { folder: pictureFolder(config.dataFolder), lut: builtInLutPath },
      )
  })
}

/** Does a job here and now, for a start that has no worker yet. */
async function runNow(
  database: Database,
  config: Config,
  productionId: string,
  title: string,
  input: JobInput,
): Promise<void> {
  const [job] = await database
    .insert(jobs)
    .values({ productionId, title, input, state: 'running', startedAt: new Date(), attempts: 1 })
    .returning()
  if (!job) throw new Error('The job could not be written.')
  const pause = new Pause()
  const { signal } = new AbortController()
  const context = { database, config: { ...config, restSeconds: 0 }, job, signal, pause }
  await performJob(work.performers, context, new ProgressMeter(database, job, pause))
  await database.update(jobs).set({ endedAt: new Date() }).where(eq(jobs.id, job.id))
}
