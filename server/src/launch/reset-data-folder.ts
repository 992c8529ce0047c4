import { existsSync } from 'node:fs'
import { lstat, mkdir, readdir, rename, rm } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { demoFolder, frameFolder, handoffFolder, lutFolder, madeFolder, pictureFolder } from '../config.ts'
import { scratchFolder } from '../engine/scratch.ts'
import { copyLedger } from '../ledger/bring-back.ts'
import { ledgerCopyFolder } from '../ledger/keep-copies.ts'
import { clustersOf, startPrivateDatabase } from './postgres.ts'

/** What may hold files that somebody wants: cards that were copied here, what was made and handed off, LUTs. */
const mayBeWanted = [demoFolder, madeFolder, handoffFolder, lutFolder, pictureFolder]
/** What Ennick makes again by itself. */
const madeAgain = [frameFolder, scratchFolder]
const secretName = 'database-secret'
/** Lies in the data folder while the demo is made: as long as it does, nobody was ever served what its ledger holds. */
export const unfinishedDemo = 'demo-unfinished'

/** What a reset has kept, and where. */
export interface KeptAtReset {
  /** The copy of the ledger; null when nothing was in it, or it lies in a database of somebody else's. */
  readonly ledgerCopy: string | null
  /** Where the files of a ledger were put of which no copy could be made, with what opens them, and why. */
  readonly ledgersAside: readonly { readonly path: string; readonly secret: string; readonly why: string }[]
  /** The folder into which files were put; null when there were none. */
  readonly filesAside: { readonly path: string; readonly files: number; readonly bytes: number } | null
}

/**
 * Lets the next start begin anew. Nothing goes that cannot be had again: of the ledger a copy is made first, and what
 * was made, handed off or brought into the data folder is moved into a folder of its own.
 * @param folder a data folder that no Ennick holds
 */
export async function resetDataFolder(folder: string): Promise<KeptAtReset> {
  const stamp = new Date().toISOString().slice(0, 19).replaceAll(':', '.')
  const secret = join(folder, `${secretName}.before-reset-${stamp}`)
  const ledgersAside: KeptAtReset['ledgersAside'][number][] = []
  let ledgerCopy: string | null = null
  for (const { path, isStarted } of await clustersOf(folder))
    try {
      if (!isStarted) throw new Error('it was made for another user of this machine')
      ledgerCopy = await copyOf(folder)
      await rm(path, { recursive: true, force: true })
    } catch (error) {
      const aside = join(dirname(path), `${basename(path)}.before-reset-${stamp}`)
      await rename(path, aside)
      ledgersAside.push({ path: aside, secret, why: (error as Error).message })
    }
  if (ledgersAside.length) await rename(join(folder, secretName), secret).catch(() => undefined)
  for (const of of madeAgain) await rm(of(folder), { recursive: true, force: true })
  for (const name of ['database-url', secretName, unfinishedDemo]) await rm(join(folder, name), { force: true })
  return { ledgerCopy, ledgersAside, filesAside: await putFilesAside(folder, stamp) }
}

/** @returns the path of the copy; null when nothing is in the ledger */
async function copyOf(folder: string): Promise<string | null> {
  const keepIn = ledgerCopyFolder(folder)
  await mkdir(keepIn, { recursive: true })
  const database = await startPrivateDatabase(folder)
  const name = await copyLedger(database.url, keepIn).finally(() => database.stop())
  return name && join(keepIn, name)
}

async function putFilesAside(folder: string, stamp: string): Promise<KeptAtReset['filesAside']> {
  const wanted = mayBeWanted.map((of) => of(folder)).filter((path) => existsSync(path))
  if (wanted.length === 0) return null
  const path = join(folder, 'before-reset', stamp)
  await mkdir(dirname(path), { recursive: true })
  await mkdir(path)
  for (const each of wanted) await rename(each, join(path, basename(each)))
  return { path, ...(await measure(path)) }
}

async function measure(folder: string): Promise<{ files: number; bytes: number }> {
  let [files, bytes] = [0, 0]
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue
    files++
    bytes += (await lstat(join(entry.parentPath, entry.name))).size
  }
  return { files, bytes }
}
