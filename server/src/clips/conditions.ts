import {
  type Condition,
  checkCondition,
  type Field,
  filterWords,
  isNumeric,
  numberOf,
  SearchError,
  type Term,
} from '@ennick/core'
import { getTableColumns, type SQL, sql } from 'drizzle-orm'
import { PlainError } from '../errors.ts'
import { clipIndex } from '../store/catalogue-schema.ts'
import { isLoose } from './fields.ts'

/** What is to be found: the clips of a production that have all the words and hold to the condition. */
export interface ClipFilter {
  readonly words: string
  readonly condition: Condition | null
}

/**
 * The filter as a clause over the index.
 * @throws PlainError for a condition that cannot be asked
 */
export function filterClause(productionId: string, filter: ClipFilter, fields: ReadonlyMap<string, Field>): SQL {
  const clauses: SQL[] = [sql`${clipIndex.productionId} = ${productionId}`]
  for (const word of filterWords(filter.words)) clauses.push(sql`position(${word} in ${clipIndex.words}) > 0`)
  if (filter.condition) {
    try {
      checkCondition(filter.condition, fields)
    } catch (error) {
      if (error instanceof SearchError) throw new PlainError('bad-search', error.message)
      throw error
    }
    clauses.push(conditionClause(filter.condition, fields))
  }
  return sql.join(clauses, sql` and `)
}

function conditionClause(condition: Condition, fields: ReadonlyMap<string, Field>): SQL {
  if ('all' in condition) return group(condition.all, sql` and `, sql`true`, fields)
  if ('any' in condition) return group(condition.any, sql` or `, sql`false`, fields)
  return termClause(condition, fields.get(condition.field) as Field)
}

function group(conditions: readonly Condition[], joint: SQL, none: SQL, fields: ReadonlyMap<string, Field>): SQL {
  if (conditions.length === 0) return none
  return sql`(${sql.join(
    conditions.map((condition) => conditionClause(condition, fields)),
    joint,
  )})`
}

const columns = getTableColumns(clipIndex)

/** A field as an expression over the index: text is never null, a missing number is. */
export function expressionOf(field: Field): SQL {
  if (!isLoose(field)) return sql`${columns[field.id as keyof typeof columns]}`
  const text = sql`coalesce(${clipIndex.described}->>${field.id}, '')`
  return isNumeric(field.kind)
    ? sql`case when ${text} ~ '^-?[0-9]+([.][0-9]+)?$' then ${text}::double precision end`
    : text
}

function termClause(term: Term, field: Field): SQL {
  const value = expressionOf(field)
  return isNumeric(field.kind) ? numberClause(term, field, value) : textClause(term, field, value)
}

/** Decimals of a rate stand for the exact rate near them: 23.976 for 24000/1001. */
const rateTolerance = 0.002

function numberClause(term: Term, field: Field, value: SQL): SQL {
  // Whatever is typed is a number of its own kind: no column has to hold it.
  const number = sql`${numberOf(field.kind, term.value ?? '') ?? 0}::double precision`
  const near = field.kind === 'rate' ? rateTolerance : 0
  switch (term.operator) {
    case 'is':
      return sql`abs(${value} - ${number}) <= ${near}`
    case 'is not':
      return sql`(${value} is null or abs(${value} - ${number}) > ${near})`
    case 'less':
      return sql`${value} < ${number}`
    case 'more':
      return sql`${value} > ${number}`
    case 'between':
      return sql`${value} between ${number} and ${numberOf(field.kind, term.upTo ?? '') ?? 0}::double precision`
    case 'filled':
      return sql`${value} is not null`
    default:
      return sql`${value} is null`
  }
}

/**
 * Text as it is compared with what is asked: case does not count, nor the Unicode form. The words of a built-in choice
 * are lower case as they are; and what is asked in plain letters needs no folding of others, which costs more.
 */
function foldedText(field: Field, value: SQL, asked: string): SQL {
  if (field.kind === 'choice' && !isLoose(field)) return value
  // biome-ignore lint/suspicious/noControlCharactersInRegex: all of ASCII is meant
  return /^[\x00-\x7f]*$/.test(asked) ? sql`lower(${value})` : sql`ennick_fold(${value})`
}

function textClause(term: Term, field: Field, value: SQL): SQL {
  const asked = (term.value ?? '').normalize('NFC').toLowerCase()
  const text = foldedText(field, value, asked)
  // Labels are compared whatever their separators.
  const place = field.kind === 'timecode' ? sql`translate(${value}, ';.,', ':::')` : value
  const label = (given: string | undefined): string =>
    field.kind === 'timecode' ? (given ?? '').replace(/[;.,]/g, ':') : (given ?? '')
  switch (term.operator) {
    case 'is':
      return field.kind === 'timecode' ? sql`${place} = ${label(term.value)}` : sql`${text} = ${asked}`
    case 'is not':
      return field.kind === 'timecode' ? sql`${place} <> ${label(term.value)}` : sql`${text} <> ${asked}`
    case 'contains':
      return sql`position(${asked} in ${text}) > 0`
    case 'lacks':
      return sql`position(${asked} in ${text}) = 0`
    case 'begins':
      // Written so that the planner can tell how many rows it leaves.
      return sql`${text} like ${`${asked.replace(/[\\%_]/g, '\\$&')}%`}`
    case 'matches':
      return sql`${value} ~* ${term.value ?? ''}`
    case 'less':
      return sql`(${value} <> '' and ${place} < ${label(term.value)})`
    case 'more':
      return sql`${place} > ${label(term.value)}`
    case 'between':
      return sql`${place} between ${label(term.value)} and ${label(term.upTo)}`
    case 'empty':
      return sql`${value} = ''`
    default:
      return sql`${value} <> ''`
  }
}
