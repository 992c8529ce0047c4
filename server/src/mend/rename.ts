import { basename, posix } from 'node:path'
import { count, invert, type LinkChange } from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import { readAllCutStates } from '../cuts/cut-state.ts'
import { notFound, PlainError } from '../errors.ts'
import { withMadeMoves } from '../make/made-moves.ts'
import { nameTodayOf } from '../pairs/name-today.ts'
import type { Moves } from '../placements/placements.ts'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import type { Database, Transaction } from '../store/database.ts'
import type { KnownPair } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { files, mends, pairs } from '../store/schema.ts'
import { assertNothingRestsOn, changeLinks, type MendRow, recordChanges } from './links.ts'
import { keepOthers } from './repoint.ts'

/** What came of renaming some items. */
export interface Renamed {
  /** One, where nothing was in the way of any. */
  readonly mends: readonly MendRow[]
  readonly left: readonly { readonly name: string; readonly reason: string }[]
}

/** Items that are renamed in one act: others wait while it goes on. */
const atOnce = 500
const asItIs = 'It is called as its recipe calls it now, or it was replaced meanwhile.'

/**
 * Calls made items what their recipes would call them now, as one mend. What is in the way of one keeps no other: then
 * they are renamed in smaller parts. Events that know an item by its path stay where they are.
 */
export async function renameMade(
  database: Database,
  productionId: string,
  pairIds: readonly string[],
): Promise<Renamed> {
  const done: MendRow[] = []
  const left: { name: string; reason: string }[] = []
  const material = await readMaterial(database, productionId)
  const wanted: KnownPair[] = []
  for (const pairId of new Set(pairIds)) {
    const pair = material.pairs.get(pairId)
    const clip = pair && material.clips.get(pair.clipId)
    if (!pair || !clip) throw notFound('This pair')
    if (nameTodayOf(material.production, clip, pair) === null) left.push({ name: pair.name, reason: asItIs })
    else wanted.push(pair)
  }
  const rename = async (some: readonly KnownPair[]): Promise<void> => {
    const [first] = some
    if (!first) return
    try {
      await withMadeMoves(database, productionId, `rename of pair ${first.id}`, async (transaction, moves) => {
        done.push(await renameSome(transaction, moves, productionId, some))
      })
    } catch (error) {
      if (!(error instanceof PlainError)) throw error
      if (some.length === 1) left.push({ name: first.name, reason: error.message })
      else for (const half of [some.slice(0, some.length >> 1), some.slice(some.length >> 1)]) await rename(half)
    }
  }
  for (let index = 0; index < wanted.length; index += atOnce) await rename(wanted.slice(index, index + atOnce))
  return { mends: done, left }
}

async function renameSome(
  transaction: Transaction,
  moves: Moves,
  productionId: string,
  some: readonly KnownPair[],
): Promise<MendRow> {
  const ids = some.map(({ id }) => id)
  await transaction.select({ id: pairs.id }).from(pairs).where(anyOf(pairs.id, ids)).orderBy(pairs.id).for('update')
  const material = await readMaterial(transaction, productionId)
  const before = await readAllCutStates(transaction, material)
  const changes: LinkChange[] = []
  const titles: string[] = []
  for (const id of ids) {
    const pair = material.pairs.get(id)
    const clip = pair && material.clips.get(pair.clipId)
    const name = pair && clip && nameTodayOf(material.production, clip, pair)
    const file = pair?.files[0]?.file
    if (!clip || !file || !name) throw refused(asItIs)
    const change: LinkChange = {
      link: { kind: 'made file', clipId: clip.id, pairId: id, fileId: file.id },
      ...{ before: file.path, after: posix.join(posix.dirname(file.path), name) },
      label: `${clip.name}: ${basename(file.path)} is called ${name}`,
    }
    await callFile(transaction, moves, change)
    changes.push(change)
    titles.push(`Rename ${pair.name} to ${name}`)
  }
  const settling = await keepOthers(transaction, productionId, before)
  await changeLinks(transaction, settling)
  const [only, ...others] = titles
  const title = only !== undefined && others.length === 0 ? only : `Rename ${count(titles.length, 'file')}`
  const [mend] = await transaction
    .insert(mends)
    .values({ productionId, kind: 'rename', title, changes: [...changes, ...settling], state: 'done' })
    .returning()
  await recordChanges(transaction, productionId, [...changes, ...settling])
  await announce(transaction, productionId, 'mends', 'pairs', 'clips', 'cuts', 'volumes')
  return mend as MendRow
}

/** Gives renamed items their names of before, and events what they had been told. */
export async function undoRename(transaction: Transaction, moves: Moves, mend: MendRow): Promise<void> {
  await assertNothingRestsOn(transaction, mend)
  const changes = invert(mend.changes)
  await changeLinks(
    transaction,
    changes.filter(({ link }) => link.kind === 'event'),
  )
  for (const change of changes) if (change.link.kind === 'made file') await callFile(transaction, moves, change)
  await recordChanges(transaction, mend.productionId, changes)
}

/** Moves a made file to its other name, and says so in the ledger. @throws PlainError when something is in the way */
async function callFile(transaction: Transaction, moves: Moves, { link, before, after }: LinkChange): Promise<void> {
  if (link.kind !== 'made file' || before === null || after === null) throw new Error('This is no name of a made file.')
  const [file] = await transaction.select().from(files).where(eq(files.id, link.fileId)).for('update')
  // What was released, or is gone with the mend that had made it, has no name that could be given back.
  if (!file) return
  if (file.path !== before) throw refused(`${basename(before)} was made again or untied since: take that back first.`)
  const [taken] = await transaction
    .select({ id: files.id })
    .from(files)
    .where(and(eq(files.volumeId, file.volumeId), eq(files.path, after)))
  if (taken) throw refused(`${after} is the name of another item of the ledger.`)
  if (!(await moves.moveOwn(file, after)))
    throw refused(`${basename(before)} is not there any more: check again, and make it again.`)
  await transaction.update(files).set({ path: after }).where(eq(files.id, file.id))
  await transaction
    .update(pairs)
    .set({ name: basename(after) })
    .where(eq(pairs.id, link.pairId))
}

const refused = (sentence: string): PlainError => new PlainError('cannot-rename', sentence, { status: 409 })
