import { readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { z } from 'zod'
import { processStart } from '../engine/process-identity.ts'

const lockContent = z.object({
  pid: z.int().positive(),
  /** When the process began: its number alone may be another program's by now. */
  start: z.string(),
  dataFolder: z.string(),
  url: z.string(),
})
type LockContent = z.infer<typeof lockContent>

const lockPath = (dataFolder: string): string => join(dataFolder, 'running.json')

/**
 * The launcher that holds a data folder now. It is that one alone by its number, its start and the folder that it says
 * it holds: a lock of a process that ended, or that came with a copied folder, is stale.
 */
export async function readLock(dataFolder: string): Promise<LockContent | null> {
  const text = await readFile(lockPath(dataFolder), 'utf8').catch(() => null)
  if (text === null) return null
  let lock: LockContent
  try {
    lock = lockContent.parse(JSON.parse(text))
  } catch {
    // A half-written lock is a stale one.
    return null
  }
  return lock.dataFolder === dataFolder && (await processStart(lock.pid)) === lock.start ? lock : null
}

/** Takes a data folder. @returns false when another launcher has taken it at the same moment */
export async function takeLock(dataFolder: string, url: string): Promise<boolean> {
  const lock: LockContent = { pid: process.pid, start: (await processStart(process.pid)) ?? '', dataFolder, url }
  for (let tries = 0; tries < 2; tries++) {
    try {
      await writeFile(lockPath(dataFolder), JSON.stringify(lock), { flag: 'wx' })
      return true
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error
      if (await readLock(dataFolder)) return false
      await rm(lockPath(dataFolder), { force: true })
    }
  }
  return false
}

/** Asks the launcher that holds a data folder to end, and waits until it has. @returns false when there is none */
export async function stopRunning(dataFolder: string): Promise<boolean> {
  const lock = await readLock(dataFolder)
  if (!lock) return false
  process.kill(lock.pid, 'SIGTERM')
  while (await readLock(dataFolder)) await new Promise((done) => setTimeout(done, 100))
  return true
}

export const removeLock = (dataFolder: string): Promise<void> => rm(lockPath(dataFolder), { force: true })
