import type { EditAction, EditPreview } from '@ennick/contract'
import {
  checkValue,
  type Field,
  findReelOverlaps,
  formatNumber,
  isDropLabel,
  PatternError,
  parseTimecode,
  patternFiller,
  type Rate,
  type ReeledClip,
  stem,
  TimecodeError,
  ValueError,
} from '@ennick/core'
import { and, eq, sql } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { NotRead, readApart } from '../reading/read-apart.ts'
import { anyOf } from '../store/any-of.ts'
import { clipIndex, type ValueSource } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import { productionRate, readProduction } from '../store/production-row.ts'
import { clipFiles } from '../store/schema.ts'
import { fieldText, readFields } from './fields.ts'
import type { IndexRow } from './index-row.ts'
import { rowsOf } from './search.ts'
import { type CellChange, readCells, writeEdit } from './write-values.ts'

const shownAtMost = 500

/** What an edit makes of a cell: a new text, or null where it has nothing to say. */
type CellMaker = (row: IndexRow, index: number) => string | null

interface PreparedEdit {
  readonly title: string
  readonly from: ValueSource
  readonly columns: readonly { readonly field: Field; readonly make: CellMaker }[]
  /** Why a clip stays as it is when no `make` has anything to say; without it, or with null, that needs no word. */
  readonly silence?: (row: IndexRow, index: number) => string | null
}

/**
 * Shows what an edit would change, or makes it as one step that can be taken back. Cells that do not take the value are
 * refused one by one with the reason; the others change.
 */
export async function editClips(
  database: Database,
  productionId: string,
  action: EditAction,
  apply: boolean,
): Promise<EditPreview> {
  const production = await readProduction(database, productionId)
  const fields = await readFields(database, productionId)
  const rows = await rowsOf(database, productionId, action.clipIds)
  if (rows.length < new Set(action.clipIds).size) throw notFound('One of the clips')
  const edit = await prepare(database, action, fields, rows)
  const cells: ChangedCell[] = []
  const refused: EditPreview['refused'] = []
  const refuse = (row: IndexRow, reason: string): void => {
    refused.push({ clipId: row.clipId, name: row.fileName, reason })
  }
  rows.forEach((row, index) => {
    const made = edit.columns.map(({ field, make }) => ({ field, text: make(row, index) }))
    const silence = made.every(({ text }) => text === null) ? edit.silence?.(row, index) : null
    if (silence) refuse(row, silence)
    for (const { field, text } of made) {
      if (text === null) continue
      try {
        const after = checkValue(field, text, rateOf(row, productionRate(production)))
        const before = fieldText(row, field)
        if (after !== before) cells.push({ row, field, before, after })
      } catch (error) {
        if (!(error instanceof ValueError)) throw error
        refuse(row, error.message)
      }
    }
  })
  if (apply && cells.length) {
    await database.transaction(async (transaction) => {
      const now = await readCells(
        transaction,
        cells.map(({ row, field }) => ({ clipId: row.clipId, field: field.id })),
      )
      const changes = cells.map(({ row, field, after }): CellChange => {
        const cell = { clipId: row.clipId, field: field.id }
        return { ...cell, before: now(cell), after: after === '' ? null : { value: after, from: edit.from } }
      })
      await writeEdit(transaction, productionId, titleFor(edit, cells), changes)
    })
  }
  return {
    applied: apply,
    title: titleFor(edit, cells),
    total: cells.length,
    changes: cells.slice(0, shownAtMost).map(({ row, field, before, after }) => {
      return { clipId: row.clipId, name: row.fileName, field: field.title, before, after }
    }),
    refused: refused.slice(0, shownAtMost),
    refusedTotal: refused.length,
    warnings: await reelWarnings(
      database,
      productionId,
      new Map(cells.filter(({ field }) => field.id === 'reel').map(({ row, after }) => [row.clipId, after])),
    ),
  }
}

interface ChangedCell {
  readonly row: IndexRow
  readonly field: Field
  readonly before: string
  readonly after: string
}

function titleFor(edit: PreparedEdit, cells: readonly ChangedCell[]): string {
  const rows = new Set(cells.map(({ row }) => row))
  const [first] = rows
  return first && rows.size === 1
    ? `${edit.title} of ${first.name}`
    : `${edit.title} of ${formatNumber(rows.size)} clips`
}

/** A clip without a rate of its own is labelled at its production's. */
const rateOf = (row: IndexRow, fallback: Rate): Rate =>
  row.rateNumerator !== null && row.rateDenominator !== null
    ? { numerator: row.rateNumerator, denominator: row.rateDenominator }
    : fallback

async function prepare(
  database: Database,
  action: EditAction,
  fields: ReadonlyMap<string, Field>,
  rows: readonly IndexRow[],
): Promise<PreparedEdit> {
  try {
    if (action.kind === 'take apart') return await takeApart(action, fields, rows)
    const field = describedField(fields, action.kind === 'reel' ? 'reel' : action.field)
    switch (action.kind) {
      case 'set':
        return { title: `${field.title} set`, from: 'person', columns: [{ field, make: () => action.value }] }
      case 'copy': {
        const source = fields.get(action.from)
        if (!source) throw notFound(`A field “${action.from}”`)
        const make: CellMaker = (row) => {
          const text = fieldText(row, source)
          const isKept = (action.onlyEmpty && fieldText(row, field) !== '') || (text === '' && !action.blanksToo)
          return isKept ? null : text
        }
        return { title: `${source.title} copied into ${field.title}`, from: 'person', columns: [{ field, make }] }
      }
      case 'replace': {
        // A pattern of a person's is not run where people are answered.
        const texts = await readApart('replacement', {
          replacement: action,
          texts: rows.map((row) => fieldText(row, field)),
        })
        return {
          title: `“${action.find}” replaced in ${field.title}`,
          from: 'person',
          columns: [{ field, make: (_, index) => texts[index] ?? null }],
        }
      }
      case 'fill': {
        const fill = patternFiller(action.pattern, new Set(fields.keys()))
        const make: CellMaker = (row, index) =>
          action.onlyEmpty && fieldText(row, field) !== ''
            ? null
            : fill((id) => fieldText(row, fields.get(id) as Field), index)
        return { title: `${field.title} filled from ${action.pattern}`, from: 'rule', columns: [{ field, make }] }
      }
      case 'reel': {
        const paths = rows.map((row) => (row.folder ? `${row.folder}/${row.fileName}` : row.fileName))
        const reels = await readApart('reels', { rule: action.source, paths })
        const where = action.source.kind === 'folder' ? 'a folder' : 'the file name'
        const stills = await readStills(database, action.clipIds)
        /** What a clip is where that has no reel of a camera; null for moving pictures. */
        const otherKind = (row: IndexRow): string | null =>
          row.kind === 'sound' ? 'sound' : row.kind === 'still' || stills.has(row.clipId) ? 'a still, or stills' : null
        return {
          title: `Reel taken from ${where}`,
          silence: (row) => {
            const kind = action.ofAllKinds ? null : otherKind(row)
            if (kind) return `It is ${kind}: those are left as they are.`
            return action.onlyEmpty && row.reel !== ''
              ? `It has the reel ${row.reel} already.`
              : `The rule does not fit ${action.source.kind === 'folder' ? 'its folders' : 'its name'}.`
          },
          from: 'rule',
          columns: [
            {
              field,
              make: (row, index) =>
                (!action.ofAllKinds && otherKind(row)) || (action.onlyEmpty && row.reel !== '')
                  ? null
                  : (reels[index] ?? null),
            },
          ],
        }
      }
    }
  } catch (error) {
    if (error instanceof NotRead || error instanceof PatternError) throw new PlainError('bad-edit', error.message)
    throw error
  }
}

/** What a pattern reads out of names, or out of another column, into the columns that it names. */
async function takeApart(
  action: Extract<EditAction, { kind: 'take apart' }>,
  fields: ReadonlyMap<string, Field>,
  rows: readonly IndexRow[],
): Promise<PreparedEdit> {
  const source = fields.get(action.from)
  if (!source) throw notFound(`A field “${action.from}”`)
  const writable = [...fields.values()].filter((field) => field.from === 'described')
  const names = rows.map((row) => (source.id === 'fileName' ? stem(row.fileName) : fieldText(row, source)))
  // A pattern of a person's is not run where people are answered.
  const found = await readApart('names apart', {
    pattern: action.pattern,
    fieldIds: new Set(writable.map(({ id }) => id)),
    names,
  })
  const isNamed = new Set(found.flatMap((values) => [...(values?.keys() ?? [])]))
  return {
    title: `${source.title} taken apart by ${action.pattern}`,
    from: 'rule',
    columns: writable
      .filter(({ id }) => isNamed.has(id))
      .map((field) => ({
        field,
        make: (row, index) =>
          action.onlyEmpty && fieldText(row, field) !== '' ? null : (found[index]?.get(field.id) ?? null),
      })),
    silence: (_, index) =>
      found[index] ? null : `The pattern does not fit ${names[index] ? `“${names[index]}”` : 'what is empty'}.`,
  }
}

/** Those of some clips that are numbered stills. */
async function readStills(database: Database, clipIds: readonly string[]): Promise<Set<string>> {
  const rows = await database
    .selectDistinct({ clipId: clipFiles.clipId })
    .from(clipFiles)
    .where(and(eq(clipFiles.part, 'frame'), anyOf(clipFiles.clipId, clipIds)))
  return new Set(rows.map(({ clipId }) => clipId))
}

/** @throws PlainError for a field that is not there or that the file alone can say. */
function describedField(fields: ReadonlyMap<string, Field>, id: string): Field {
  const field = fields.get(id)
  if (!field) throw notFound(`A field “${id}”`)
  if (field.from !== 'described')
    throw new PlainError(
      'not-editable',
      field.id === 'fileName'
        ? 'Files keep the names that the camera gave them. Give the clip a name instead: it is kept beside the file’s.'
        : `${field.title} is what the file says: it cannot be changed here.`,
    )
  return field
}

/** Overlaps that the production would have with these reels, and that touch a clip whose reel changes. */
async function reelWarnings(
  database: Database,
  productionId: string,
  reels: ReadonlyMap<string, string>,
): Promise<string[]> {
  if (reels.size === 0) return []
  const rows = await database
    .select()
    .from(clipIndex)
    .where(
      sql`${clipIndex.productionId} = ${productionId} and ${clipIndex.kind} = 'picture' and ${clipIndex.start} <> ''`,
    )
  const clips = rows.flatMap((row): ReeledClip[] => {
    if (row.rateNumerator === null || row.rateDenominator === null) return []
    const rate = { numerator: row.rateNumerator, denominator: row.rateDenominator }
    try {
      const reel = reels.get(row.clipId) ?? row.reel
      return [
        {
          id: row.clipId,
          name: row.fileName,
          reel,
          startFrame: parseTimecode(row.start, rate),
          frames: row.frames ?? 0,
          rate,
          dropFrame: isDropLabel(row.start),
          look: `${row.width}×${row.height} ${row.codec}`,
        },
      ]
    } catch (error) {
      if (error instanceof TimecodeError) return []
      throw error
    }
  })
  const overlaps = findReelOverlaps(clips).filter(({ first, second }) => reels.has(first.id) || reels.has(second.id))
  const shown = overlaps
    .slice(0, 20)
    .map(
      ({ first, second, reel, from, to }) =>
        `${first.name} and ${second.name} would both be reel ${reel} from ${from} to ${to}.`,
    )
  return overlaps.length > 20 ? [...shown, `And ${overlaps.length - 20} more overlaps.`] : shown
}
