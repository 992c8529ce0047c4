import { lstat, mkdir, readdir, rename, rm } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { copyLedger } from '../ledger/bring-back.ts'
import { ledgerCopyFolder } from '../ledger/keep-copies.ts'
import { clusterOf, startPrivateDatabase } from './postgres.ts'

/** What may hold files that somebody wants: cards that were copied here, what was made and handed off, LUTs. */
const mayBeWanted = ['demo', 'made', 'handoffs', 'luts', 'pictures']
/** What Ennick makes again by itself. */
const madeAgain = ['frames', 'scratch', 'database-secret', 'database-url']

/** What a reset has kept, and where. */
export interface KeptAtReset {
  /** The copy of the ledger; null when nothing was in it, or it lies in a database of somebody else's. */
  readonly ledgerCopy: string | null
  /** The ledger's own files, put aside because no copy could be made, and why. */
  readonly ledgerAside: { readonly path: string; readonly why: string } | null
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
  const ledger = await putLedgerAway(folder, stamp)
  for (const name of madeAgain) await rm(join(folder, name), { recursive: true, force: true })
  return { ...ledger, filesAside: await putFilesAside(folder, stamp) }
}

async function putLedgerAway(folder: string, stamp: string): Promise<Omit<KeptAtReset, 'filesAside'>> {
  const cluster = await clusterOf(folder)
  if (!cluster) return { ledgerCopy: null, ledgerAside: null }
  try {
    const keepIn = ledgerCopyFolder(folder)
    await mkdir(keepIn, { recursive: true })
    const database = await startPrivateDatabase(folder)
    const name = await copyLedger(database.url, keepIn).finally(() => database.stop())
    await rm(cluster, { recursive: true, force: true })
    return { ledgerCopy: name && join(keepIn, name), ledgerAside: null }
  } catch (error) {
    const path = join(dirname(cluster), `${basename(cluster)}.before-reset-${stamp}`)
    await rename(cluster, path)
    return { ledgerCopy: null, ledgerAside: { path, why: (error as Error).message } }
  }
}

async function putFilesAside(folder: string, stamp: string): Promise<KeptAtReset['filesAside']> {
  const there = new Set(await readdir(folder))
  const wanted = mayBeWanted.filter((name) => there.has(name))
  if (wanted.length === 0) return null
  const path = join(folder, 'before-reset', stamp)
  await mkdir(dirname(path), { recursive: true })
  await mkdir(path)
  for (const name of wanted) await rename(join(folder, name), join(path, name))
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
