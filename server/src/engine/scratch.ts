import { randomUUID } from 'node:crypto'
import { mkdir, mkdtemp, readdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { machineName, processStart } from './process-identity.ts'

/** Where this process puts what it needs for a moment; it is all gone with the process, however that ends. */
let home: Promise<string> | null = null

export const scratchFolder = (dataFolder: string): string => join(dataFolder, 'scratch')

/** The name of a process's own folder: by it the next start knows whether it still lives. */
async function nameOf(pid: number, start: string): Promise<string> {
  return `${await machineName()}.${pid}.${start.replace(/[^A-Za-z0-9]/g, '_')}`
}

/**
 * Says where this process's scratch folder lies: below the data folder, so that what is made there is moved in one
 * step.
 */
export function useScratch(dataFolder: string): void {
  home = (async () => {
    const folder = join(
      scratchFolder(dataFolder),
      await nameOf(process.pid, (await processStart(process.pid)) ?? 'now'),
    )
    await mkdir(folder, { recursive: true, mode: 0o700 })
    return folder
  })()
  home.catch(() => undefined)
}

/**
 * Removes what processes of this machine have left that are not alive any more.
 * @throws what kept it from removing one, after all others are removed
 */
export async function clearScratch(dataFolder: string): Promise<void> {
  const machine = await machineName()
  const names = await readdir(scratchFolder(dataFolder)).catch(() => [] as string[])
  const cleared = await Promise.allSettled(
    names.map(async (name) => {
      const [owner, pid] = name.split('.')
      if (owner !== machine) return
      const start = await processStart(Number(pid))
      // A program that a dead process began may be about to end, and write until it does.
      if (start === null || name !== (await nameOf(Number(pid), start)))
        await rm(join(scratchFolder(dataFolder), name), { recursive: true, force: true, maxRetries: 10 })
    }),
  )
  const failed = cleared.find((outcome) => outcome.status === 'rejected')
  if (failed) throw failed.reason
}

/** A path of its own in the scratch folder, where nothing is yet. */
export async function scratchPath(): Promise<string> {
  return join(await ownFolder(), randomUUID())
}

/** Made anew when somebody has cleared it away meanwhile. */
async function ownFolder(): Promise<string> {
  const folder = await (home ?? tmpdir())
  await mkdir(folder, { recursive: true, mode: 0o700 })
  return folder
}

/** Runs a task with a folder of its own, which is removed afterwards. */
export async function withScratch<T>(task: (folder: string) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(join(await ownFolder(), 'ennick-'))
  try {
    return await task(folder)
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}
