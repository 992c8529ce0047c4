import { lstat, mkdir, readdir, rename, symlink, writeFile } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { pause } from '../bench/measure.ts'
import type { Ennick } from '../ennick.ts'
import type { Chance } from './chance.ts'
import { insist, jobsOf, recipeId } from './stage.ts'

/** What a trouble is made in. */
export interface Scene {
  readonly ennick: Ennick
  readonly chance: Chance
  readonly productionId: string
  readonly clipIds: readonly string[]
  /** The production's place for what is made, the folder that takes offloads, and the one that takes a pull. */
  readonly made: string
  readonly card: string
  readonly storage: string
  readonly travel: string
  readonly cutId: string
  /** What is copied for elsewhere, a cut's or all: where it is ordered, and where it is told what came of it. */
  readonly pull: { readonly path: string; readonly told: string; readonly body: object }
  readonly isWhole: boolean
  readonly offload: { readonly volumeId: string; readonly body: object }
  /** Where outputs, and what is pulled, are to appear. */
  readonly outputs: readonly string[]
  /** What was put in the way and must stay as it is. */
  readonly foreign: string[]
}

interface Trouble {
  readonly name: string
  readonly make: (scene: Scene) => Promise<void>
}

const isAlive = (pid: number): boolean => {
  try {
    process.kill(pid, 0)
    return true
  } catch {
    return false
  }
}

async function signal(
  { ennick }: Scene,
  isWanted: (command: string) => boolean,
  name: NodeJS.Signals,
): Promise<number[]> {
  const pids = await ennick.processes(isWanted)
  for (const pid of pids) if (isAlive(pid)) process.kill(pid, name)
  return pids
}

/** A place that is away for a moment: its folder goes, an empty one of its name stands there, and it comes back. */
async function vanish(folder: string): Promise<void> {
  await rename(folder, `${folder} out`)
  await mkdir(folder)
  await pause(400)
  const written = await readdir(folder)
  if (written.length > 0) throw new Error(`${written.join(', ')} was written under the empty folder ${folder}.`)
  await rename(folder, `${folder} bare`)
  await rename(`${folder} out`, folder)
}

/** Puts something of somebody else's where an output is to appear, unless it is there already. */
async function putInTheWay({ chance, outputs, foreign }: Scene): Promise<void> {
  const path = chance.pick(outputs)
  await mkdir(dirname(path), { recursive: true })
  const put = chance.next() < 0.5 ? writeFile(path, 'somebody else’s', { flag: 'wx' }) : symlink('/nowhere/else', path)
  await put.then(
    () => foreign.push(path),
    async (error: NodeJS.ErrnoException) => {
      if (error.code !== 'EEXIST') throw error
      await lstat(path)
    },
  )
}

/** Pairs of the production, all that are in use. */
async function pairIdsOf({ ennick, productionId }: Scene): Promise<string[]> {
  const ledger: { pairs: { id: string }[] }[] = await insist(ennick, 'GET', `/productions/${productionId}/pairs`)
  return ledger.flatMap((row) => row.pairs.map(({ id }) => id))
}

/** A refusal is an answer: what was asked of is being moved, or away. */
function unlessRefused(error: Error): void {
  if (error instanceof TypeError || /made a mistake/.test(error.message)) throw error
}

export const theTravelDiskLeaves: Trouble = {
  name: 'the place of a pull is away for a moment',
  make: ({ travel }) => vanish(travel),
}

export const theDestinationLeaves: Trouble = {
  name: 'the destination of an offload is away for a moment',
  make: ({ storage }) => vanish(storage),
}

export const thePlaceOfMadeLeaves: Trouble = {
  name: 'the place of made files is away for a moment',
  make: ({ made }) => vanish(made),
}

/** What may happen while a worker works, whatever it works at. */
export const killsAndFreezes: readonly Trouble[] = [
  {
    name: 'the worker is killed',
    make: async (scene) => void (await signal(scene, (command) => command.includes('main-worker.js'), 'SIGKILL')),
  },
  {
    name: 'the server is killed',
    make: async (scene) => void (await signal(scene, (command) => command.includes('main-server.js'), 'SIGKILL')),
  },
  {
    name: 'the database is killed',
    make: async (scene) => void (await signal(scene, (command) => /postgres -D/.test(command), 'SIGKILL')),
  },
  {
    name: 'the encoders are killed',
    make: async (scene) => void (await signal(scene, (command) => /(^|\/)ffmpeg /.test(command), 'SIGKILL')),
  },
  { name: 'everything is killed and started again', make: ({ ennick }) => ennick.restart() },
  {
    name: 'the worker stands still for longer than its lease',
    make: async (scene) => {
      const pids = await signal(scene, (command) => command.includes('main-worker.js'), 'SIGSTOP')
      await pause(4500)
      for (const pid of pids) if (isAlive(pid)) process.kill(pid, 'SIGCONT')
    },
  },
]

export const troubles: readonly Trouble[] = [
  ...killsAndFreezes,
  { name: 'a foreign file lies in the way', make: putInTheWay },
  {
    name: 'the same is ordered twice at once',
    make: async ({ ennick, productionId, clipIds }) => {
      const order = () => insist(ennick, 'POST', `/productions/${productionId}/make`, { clipIds, recipeId })
      await Promise.all([order(), order(), order()])
    },
  },
  {
    name: 'jobs are stopped and retried',
    make: async ({ ennick, chance, productionId }) => {
      for (const job of chance.some(await jobsOf(ennick, productionId)))
        await insist(
          ennick,
          'POST',
          `/jobs/${job.id}/${job.state === 'failed' || job.state === 'cancelled' ? 'retry' : 'cancel'}`,
          {},
        ).catch(() => undefined)
    },
  },
  {
    name: 'jobs are moved, held and let go on',
    make: async ({ ennick, chance, productionId }) => {
      const jobs = await jobsOf(ennick, productionId)
      const jobIds = chance.some(jobs).map((job) => job.id)
      await insist(ennick, 'POST', `/productions/${productionId}/jobs/move`, { jobIds, before: chance.pick(jobs).id })
      await insist(ennick, 'POST', `/productions/${productionId}/jobs/hold`, { jobIds, isHeld: true })
      await pause(200)
      await insist(ennick, 'POST', `/productions/${productionId}/jobs/hold`, { jobIds, isHeld: false })
    },
  },
  theDestinationLeaves,
  thePlaceOfMadeLeaves,
  theTravelDiskLeaves,
  {
    name: 'some that were made are released',
    make: async (scene) => {
      const pairIds = await pairIdsOf(scene)
      if (pairIds.length === 0) return
      const body = { pairIds: scene.chance.some(pairIds), apply: true }
      await insist(scene.ennick, 'POST', `/productions/${scene.productionId}/release`, body).catch(unlessRefused)
    },
  },
  {
    name: 'some that were made are untied, and some of them tied again',
    make: async (scene) => {
      const { ennick, chance, productionId } = scene
      const pairIds = await pairIdsOf(scene)
      for (const id of pairIds.length ? chance.some(pairIds) : [])
        await insist(ennick, 'POST', `/pairs/${id}/untie`, {}).catch(unlessRefused)
      const mends: { id: string; state: string }[] = await insist(ennick, 'GET', `/productions/${productionId}/mends`)
      const done = mends.filter(({ state }) => state === 'done')
      for (const { id } of done.length ? chance.some(done) : [])
        await insist(ennick, 'POST', `/mends/${id}/undo`, {}).catch(unlessRefused)
    },
  },
  {
    name: 'the same is pulled twice at once',
    make: async ({ ennick, pull }) => {
      const order = () => insist(ennick, 'POST', pull.path, pull.body)
      await Promise.all([order(), order()])
    },
  },
  {
    name: 'the same is offloaded twice at once',
    make: async ({ ennick, offload }) => {
      const order = () =>
        insist(ennick, 'POST', `/volumes/${offload.volumeId}/offload`, offload.body).catch((error: Error) => {
          // The destination may be away at this moment, by another trouble.
          if (!/away/.test(error.message)) throw error
        })
      await Promise.all([order(), order()])
    },
  },
]

/** Where the empty folder lies that stood in the place of one that was away. */
export const barePath = (folder: string): string => join(dirname(folder), `${basename(folder)} bare`)
