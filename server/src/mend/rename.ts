import { basename, posix } from 'node:path'
import { invert, type LinkChange } from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import { readAllCutStates } from '../cuts/cut-state.ts'
import { notFound, PlainError } from '../errors.ts'
import { madeVolume } from '../make/made-item.ts'
import { withMadeMoves } from '../pairs/made-moves.ts'
import { nameTodayOf } from '../pairs/name-today.ts'
import type { Moves } from '../placements/placements.ts'
import { announce } from '../store/announce.ts'
import type { Database, Transaction } from '../store/database.ts'
import { readMaterial } from '../store/material.ts'
import { files, mends, pairs } from '../store/schema.ts'
import { assertNothingRestsOn, changeLinks, type MendRow, recordChanges } from './links.ts'
import { keepOthers } from './repoint.ts'

/** What came of renaming some items: each that was renamed is a mend of its own. */
export interface Renamed {
  readonly mends: readonly MendRow[]
  readonly left: readonly { readonly name: string; readonly reason: string }[]
}

/**
 * Calls made items what their recipes would call them now, each in an act of its own: what stands in the way of one
 * keeps no other. Events that know an item by its path stay where they are.
 */
export async function renameMade(
  database: Database,
  productionId: string,
  pairIds: readonly string[],
): Promise<Renamed> {
  const done: MendRow[] = []
  const left: { name: string; reason: string }[] = []
  const known = await readMaterial(database, productionId)
  for (const pairId of new Set(pairIds)) {
    const pair = known.pairs.get(pairId)
    if (!pair) throw notFound('This pair')
    try {
      await withMadeMoves(database, productionId, `rename of pair ${pairId}`, async (transaction, moves) => {
        done.push(await renameOne(transaction, moves, productionId, pairId))
      })
    } catch (error) {
      if (!(error instanceof PlainError)) throw error
      left.push({ name: pair.name, reason: error.message })
    }
  }
  return { mends: done, left }
}

async function renameOne(
  transaction: Transaction,
  moves: Moves,
  productionId: string,
  pairId: string,
): Promise<MendRow> {
  await transaction.select().from(pairs).where(eq(pairs.id, pairId)).for('update')
  const material = await readMaterial(transaction, productionId)
  const pair = material.pairs.get(pairId)
  const clip = pair && material.clips.get(pair.clipId)
  const name = pair && clip && nameTodayOf(material, clip, pair)
  const [made] = pair?.files ?? []
  if (!clip || !made || !name) throw refused('It is called as its recipe calls it now, or it was replaced meanwhile.')
  const before = await readAllCutStates(transaction, material)
  const { file } = made
  const change: LinkChange = {
    link: { kind: 'made file', clipId: clip.id, pairId, fileId: file.id },
    ...{ before: file.path, after: posix.join(posix.dirname(file.path), name) },
    label: `${clip.name}: ${basename(file.path)} is called ${name}`,
  }
  await callFile(transaction, moves, madeVolume(material).id, change)
  const settling = await keepOthers(transaction, productionId, before)
  await changeLinks(transaction, settling)
  const changes = [change, ...settling]
  const title = `Rename ${pair.name} to ${name}`
  const [mend] = await transaction
    .insert(mends)
    .values({ productionId, kind: 'rename', title, changes, state: 'done' })
    .returning()
  await recordChanges(transaction, productionId, changes)
  await announce(transaction, productionId, 'mends', 'pairs', 'clips', 'cuts', 'volumes')
  return mend as MendRow
}

/** Gives renamed items their names of before, and events what they had been told. */
export async function undoRename(transaction: Transaction, moves: Moves, mend: MendRow): Promise<void> {
  await assertNothingRestsOn(transaction, mend)
  const changes = invert(mend.changes)
  const material = await readMaterial(transaction, mend.productionId)
  await changeLinks(
    transaction,
    changes.filter(({ link }) => link.kind === 'event'),
  )
  for (const change of changes)
    if (change.link.kind === 'made file') await callFile(transaction, moves, madeVolume(material).id, change)
  await recordChanges(transaction, mend.productionId, changes)
}

/** Moves a made file to its other name, and says so in the ledger. @throws PlainError when something is in the way */
async function callFile(
  transaction: Transaction,
  moves: Moves,
  volumeId: string,
  { link, before, after }: LinkChange,
): Promise<void> {
  if (link.kind !== 'made file' || before === null || after === null) throw new Error('This is no name of a made file.')
  const [file] = await transaction.select().from(files).where(eq(files.id, link.fileId)).for('update')
  // What was released, or is gone with the mend that had made it, has no name that could be given back.
  if (!file) return
  if (file.path !== before) throw refused(`${basename(before)} was made again or untied since: take that back first.`)
  const [taken] = await transaction
    .select({ id: files.id })
    .from(files)
    .where(and(eq(files.volumeId, volumeId), eq(files.path, after)))
  if (taken) throw refused(`${after} is the name of another item of the ledger.`)
  if (!(await moves.moveOwn(before, after, file.fingerprint)))
    throw refused(`${basename(before)} is not there any more: check again, and make it again.`)
  await transaction.update(files).set({ path: after }).where(eq(files.id, file.id))
  await transaction
    .update(pairs)
    .set({ name: basename(after) })
    .where(eq(pairs.id, link.pairId))
}

const refused = (sentence: string): PlainError => new PlainError('cannot-rename', sentence, { status: 409 })
