import { readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'

interface LockContent {
  readonly pid: number
  readonly url: string
}

const lockPath = (dataFolder: string): string => join(dataFolder, 'running.json')

/** The launcher that holds a data folder now, if it is alive. A lock whose process is gone or is another program is stale. */
export async function readLock(dataFolder: string): Promise<LockContent | null> {
  const text = await readFile(lockPath(dataFolder), 'utf8').catch(() => null)
  if (text === null) return null
  try {
    const lock = JSON.parse(text) as LockContent
    const command = await readFile(`/proc/${lock.pid}/cmdline`, 'utf8').catch(() => null)
    if (command === null ? isAlive(lock.pid) : command.includes('launch/start')) return lock
  } catch {
    // A half-written lock is a stale one.
  }
  return null
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0)
    return true
  } catch {
    return false
  }
}

export const writeLock = (dataFolder: string, url: string): Promise<void> =>
  writeFile(lockPath(dataFolder), JSON.stringify({ pid: process.pid, url } satisfies LockContent))

export const removeLock = (dataFolder: string): Promise<void> => rm(lockPath(dataFolder), { force: true })
