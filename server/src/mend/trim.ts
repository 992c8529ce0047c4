import { parse } from 'node:path'
import { type CutFormat, cutFormats, describeShortfall, invert, type LinkChange, trimUse } from '@ennick/core'
import { and, eq, sql } from 'drizzle-orm'
import { keepList, readList } from '../cuts/add-cut.ts'
import { type CutState, readCutState } from '../cuts/cut-state.ts'
import { placeInLine } from '../cuts/next-version.ts'
import { PlainError } from '../errors.ts'
import { readApart } from '../reading/read-apart.ts'
import { announce } from '../store/announce.ts'
import type { Database, Transaction } from '../store/database.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import { cuts, decisions, mends } from '../store/schema.ts'
import { assertNothingRestsOn, type MendRow, recordChanges } from './links.ts'

/**
 * Lets the uses of some findings give up the frames that their originals do not have. What comes of it is the next
 * version of the cut, as a list in its own format that was read again and proven; the version before stays as it is.
 * @throws PlainError when one of them cannot be trimmed: then none is
 */
export async function trimUses(
  database: Database,
  material: KeptMaterial,
  cutId: string,
  findingKeys: readonly string[],
): Promise<{ mend: MendRow; cutId: string }> {
  const state = await readCutState(database, cutId, material)
  const { events, told } = trimEvents(state, findingKeys)
  const { row } = state
  const format = cutFormats.find(({ name }) => name === row.format) as CutFormat
  const lists = await readApart(
    'lists',
    { cut: { ...state.cut, events }, options: { edlReels: 'whole', xmemlVersion: 5 } },
    { seconds: 300 },
  )
  const written = lists.find((list) => list.format === format.id)
  if (written?.text == null)
    throw new PlainError('cannot-be-written', `The trimmed cut cannot be written: ${written?.reason ?? 'no format.'}`)
  const { name: base, ext } = parse(row.fileName)
  const fileName = `${base.replace(/ trimmed$/, '')} trimmed${ext}`
  const read = await readList({ fileName, text: written.text, rate: state.cut.rate, takeGood: false })
  // What of the list was not taken at first is not in this one either, and goes on being told.
  const list = { ...read, cut: { ...read.cut, leftOut: row.leftOut } }
  return database.transaction(async (transaction) => {
    const line = await placeInLine(transaction, row.productionId, cutId)
    if (line.before.id !== cutId || line.before.revision !== row.revision)
      throw new PlainError(
        'mend-conflict',
        `“${row.name}” was changed, or read in a newer version, by somebody else meanwhile. Look at it again first.`,
        { status: 409 },
      )
    const kept = await keepList(transaction, row.productionId, list, { ...line, material: state.material })
    const changes: LinkChange[] = told.map((label) => ({
      link: { kind: 'newest version', lineId: line.lineId },
      ...{ before: cutId, after: kept.id, label },
    }))
    const uses = told.length === 1 ? '1 use' : `${told.length} uses`
    const title = `Trim ${uses} of “${row.name}”, as version ${kept.version}`
    const [mend] = await transaction
      .insert(mends)
      .values({ productionId: row.productionId, cutId, kind: 'trim', title, changes, state: 'done' })
      .returning()
    await recordChanges(transaction, row.productionId, changes)
    await announce(transaction, row.productionId, 'mends', 'cuts')
    return { mend: mend as MendRow, cutId: kept.id }
  })
}

/** All events, with those of the findings trimmed, and what was done to each in words. */
function trimEvents(state: CutState, findingKeys: readonly string[]) {
  const events = [...state.cut.events]
  const told: string[] = []
  const findings = new Map(state.findings.map((finding) => [finding.key, finding]))
  for (const key of new Set(findingKeys)) {
    const [position = -1] = findings.get(key)?.events ?? []
    const event = state.cut.events[position]
    const lack = state.resolutions[position]?.shortfall
    if (!event || !lack)
      throw new PlainError('no-finding', 'One of these findings is there no more: look at the list again.', {
        status: 409,
      })
    const trimmed = trimUse(state.cut, position, lack)
    if ('refusal' in trimmed)
      throw new PlainError(
        'cannot-trim',
        `Event ${event.number} on ${event.track} cannot be trimmed: ${trimmed.refusal}.`,
      )
    events[position] = trimmed.event
    told.push(`event ${event.number} on ${event.track} gives up ${describeShortfall(trimmed.gives)}`)
  }
  return { events, told }
}

/** Takes the trimmed version out again, when nothing rests on it. */
export async function undoTrim(transaction: Transaction, mend: MendRow): Promise<void> {
  await assertNothingRestsOn(transaction, mend)
  const [change] = mend.changes
  const refuse = (why: string): never => {
    throw new PlainError('mend-conflict', why, { status: 409 })
  }
  const [version] = await transaction
    .select()
    .from(cuts)
    .where(eq(cuts.id, change?.after ?? ''))
    .for('update')
  if (!version) return
  const [later] = await transaction
    .select({ version: cuts.version })
    .from(cuts)
    .where(and(eq(cuts.lineId, version.lineId), sql`${cuts.version} > ${version.version}`))
  if (later) refuse(`Version ${later.version} of “${version.name}” was read since: take that out first.`)
  const [mended] = await transaction
    .select({ title: mends.title })
    .from(mends)
    .where(and(eq(mends.cutId, version.id), eq(mends.state, 'done')))
  if (mended) refuse(`A later mend rests on this one: “${mended.title}”. Take that back first.`)
  const [decided] = await transaction
    .select({ reason: decisions.reason })
    .from(decisions)
    .where(and(eq(decisions.cutId, version.id), sql`${decisions.decidedAt} > ${version.createdAt}`))
  if (decided)
    refuse(`Something was decided about the trimmed version since: “${decided.reason}”. Withdraw that first.`)
  await transaction.delete(cuts).where(eq(cuts.id, version.id))
  await recordChanges(transaction, mend.productionId, invert(mend.changes))
}
