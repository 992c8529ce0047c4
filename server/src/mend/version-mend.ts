import { parse } from 'node:path'
import { type CutEvent, cutFormats, formatNumber, invert, type LinkChange, otio } from '@ennick/core'
import { and, eq, sql } from 'drizzle-orm'
import { keepList } from '../cuts/add-cut.ts'
import type { CutState } from '../cuts/cut-state.ts'
import { placeInLine } from '../cuts/next-version.ts'
import { PlainError } from '../errors.ts'
import { readList } from '../reading/read-list.ts'
import { writeList } from '../reading/write-list.ts'
import { announce } from '../store/announce.ts'
import type { Database, Transaction } from '../store/database.ts'
import { cuts, decisions, events as eventTable, mends } from '../store/schema.ts'
import { assertNothingRestsOn, type MendRow, recordChanges, removeCreated } from './links.ts'

/** The events of a cut as a mend has them, and what it did to each in words. */
export interface EditedEvents {
  readonly events: readonly CutEvent[]
  readonly told: readonly string[]
  /** Which clip a person chose for an event, by where that stands on its track. */
  readonly chosen: ReadonlyMap<string, string>
}

const versionMends: ReadonlySet<MendRow['kind']> = new Set(['trim', 'take apart', 'replace from the start'])

/** Whether what comes of a mend is a version of its cut. */
export const isVersionMend = ({ kind }: MendRow): boolean => versionMends.has(kind)

/** Where an event stands: that stays as it is while lists are written and read. */
export const standingOf = ({ track, record }: CutEvent): string => `${track} ${record.startFrame}`

/**
 * Keeps what a mend made of the events of a cut as its next version, as a list in its own format, or in OTIO where that
 * is only read; it was read again and proven. The version before stays as it is.
 * @param mend.word stands in the name of the list's file
 * @throws PlainError when it cannot be written, or somebody else changed the cut meanwhile
 */
export async function keepAsVersion(
  database: Database,
  state: CutState,
  { events, told, chosen }: EditedEvents,
  mend: {
    readonly kind: MendRow['kind']
    readonly word: string
    readonly titleOf: (uses: string, version: number) => string
  },
): Promise<{ mend: MendRow; cutId: string }> {
  const { row } = state
  const own = cutFormats.find(({ name }) => name === row.format)
  const format = own ?? otio
  const options = { edlReels: 'whole', xmemlVersion: 5 } as const
  const written = await writeList({ ...state.cut, events }, format.id, options, `The ${mend.word} cut`)
  const { name: base, ext } = parse(row.fileName)
  const fileName = `${base.endsWith(` ${mend.word}`) ? base : `${base} ${mend.word}`}${own ? ext : format.extension}`
  const read = await readList({ fileName, content: written.text, rate: state.cut.rate, takeGood: false })
  // What of the list was not taken at first is not in this one either, and goes on being told.
  const list = { ...read, cut: { ...read.cut, leftOut: row.leftOut } }
  return database.transaction(async (transaction) => {
    const line = await placeInLine(transaction, row.productionId, row.id)
    if (line.before.id !== row.id || line.before.revision !== row.revision)
      throw new PlainError(
        'mend-conflict',
        `“${row.name}” was changed, or read in a newer version, by somebody else meanwhile. ` +
          'Look at it again first.',
        { status: 409 },
      )
    const kept = await keepList(transaction, row.productionId, list, { ...line, material: state.material })
    for (const [position, event] of list.cut.events.entries()) {
      const chosenClipId = chosen.get(standingOf(event))
      if (chosenClipId !== undefined)
        await transaction
          .update(eventTable)
          .set({ chosenClipId })
          .where(and(eq(eventTable.cutId, kept.id), eq(eventTable.position, position)))
    }
    const changes: LinkChange[] = told.map((label) => ({
      link: { kind: 'newest version', lineId: line.lineId },
      ...{ before: row.id, after: kept.id, label },
    }))
    const title = mend.titleOf(told.length === 1 ? '1 use' : `${formatNumber(told.length)} uses`, kept.version)
    const values = { productionId: row.productionId, cutId: row.id, kind: mend.kind, title, changes }
    const [saved] = await transaction
      .insert(mends)
      .values({ ...values, state: 'done' })
      .returning()
    await recordChanges(transaction, row.productionId, changes)
    await announce(transaction, row.productionId, 'mends', 'cuts')
    return { mend: saved as MendRow, cutId: kept.id }
  })
}

/** Takes the version that a mend made out again, when nothing rests on it. */
export async function undoVersion(transaction: Transaction, mend: MendRow): Promise<void> {
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
  if (!version) return removeCreated(transaction, mend)
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
  if (decided) refuse(`Something was decided about that version since: “${decided.reason}”. Withdraw that first.`)
  await transaction.delete(cuts).where(eq(cuts.id, version.id))
  await removeCreated(transaction, mend)
  await recordChanges(transaction, mend.productionId, invert(mend.changes))
}
