import type { Field, FieldKind } from '../describe/index.ts'
import { RegularExpressionError, readRegularExpression } from '../text/index.ts'

export const operators = [
  'is',
  'is not',
  'contains',
  'lacks',
  'begins',
  'matches',
  'less',
  'more',
  'between',
  'empty',
  'filled',
] as const
export type Operator = (typeof operators)[number]

/** One question about a field. `value` is missing for "empty" and "filled"; `upTo` is there for "between". */
export interface Term {
  readonly field: string
  readonly operator: Operator
  readonly value?: string | undefined
  readonly upTo?: string | undefined
}

/** Conditions over clips: terms, and groups of which all or any must hold. An empty "all" holds for every clip. */
export type Condition = Term | { readonly all: readonly Condition[] } | { readonly any: readonly Condition[] }

/** A search that cannot be asked; the message says why. */
export class SearchError extends Error {
  override readonly name = 'SearchError'
}

const ofText: readonly Operator[] = ['is', 'is not', 'contains', 'lacks', 'begins', 'matches', 'empty', 'filled']
const ofNumber: readonly Operator[] = ['is', 'is not', 'less', 'more', 'between', 'empty', 'filled']

/** The questions that make sense for a kind of field. */
export const operatorsOf: Readonly<Record<FieldKind, readonly Operator[]>> = {
  text: ofText,
  number: ofNumber,
  bytes: ofNumber,
  rate: ofNumber,
  timecode: [...ofText.filter((operator) => operator !== 'matches'), 'less', 'more', 'between'],
  date: ['is', 'is not', 'less', 'more', 'between', 'empty', 'filled'],
  flag: ['filled', 'empty'],
  choice: ['is', 'is not', 'empty', 'filled'],
}

const deepest = 8
const mostTerms = 200

/**
 * Checks a search against the fields of a production.
 * @throws SearchError for an unknown field, a question that its field does not take, a missing or malformed value,
 * or groups nested without end
 */
export function checkCondition(condition: Condition, fields: ReadonlyMap<string, Field>): void {
  let terms = 0
  const visit = (node: Condition, depth: number): void => {
    if (depth > deepest) throw new SearchError(`Groups may be nested ${deepest} deep; these go deeper.`)
    if ('all' in node || 'any' in node) {
      for (const child of 'all' in node ? node.all : node.any) visit(child, depth + 1)
      return
    }
    if (++terms > mostTerms) throw new SearchError(`A search may have ${mostTerms} terms; this has more.`)
    checkTerm(node, fields)
  }
  visit(condition, 0)
}

/** Whether a pattern of a person's is part of it. */
export const hasPattern = (condition: Condition): boolean =>
  'all' in condition
    ? condition.all.some(hasPattern)
    : 'any' in condition
      ? condition.any.some(hasPattern)
      : condition.operator === 'matches'

function checkTerm(term: Term, fields: ReadonlyMap<string, Field>): void {
  const field = fields.get(term.field)
  if (!field)
    throw new SearchError(`There is no field “${term.field}”: it may have been removed since the search was saved.`)
  if (!operatorsOf[field.kind].includes(term.operator))
    throw new SearchError(`${field.title} cannot be asked with “${term.operator}”.`)
  if (term.operator === 'empty' || term.operator === 'filled') return
  const values = term.operator === 'between' ? [term.value, term.upTo] : [term.value]
  for (const value of values) {
    if (value === undefined || value === '')
      throw new SearchError(`${field.title} ${term.operator} … what? Write a value.`)
    if (isNumeric(field.kind) && numberOf(field.kind, value) === null)
      throw new SearchError(`${field.title} is a number; “${value}” is none.`)
  }
  if (term.operator === 'matches') {
    try {
      readRegularExpression(term.value as string)
    } catch (error) {
      if (error instanceof RegularExpressionError) throw new SearchError(error.message)
      throw error
    }
  }
}

export const isNumeric = (kind: FieldKind): boolean => kind === 'number' || kind === 'bytes' || kind === 'rate'

const units: Readonly<Record<string, number>> = { '': 1, b: 1, kb: 1e3, mb: 1e6, gb: 1e9, tb: 1e12 }

/**
 * A number as people type it: "25", "23.976", "1.5 GB" for bytes (decimal units), "30000/1001" for rates.
 * @returns null when it is none
 */
export function numberOf(kind: FieldKind, text: string): number | null {
  const value = text.trim().replace(',', '.')
  if (kind === 'rate') {
    const quotient = /^(\d+)\/(\d+)$/.exec(value)
    if (quotient) return Number(quotient[2]) === 0 ? null : Number(quotient[1]) / Number(quotient[2])
  }
  const match = /^(-?\d+(?:\.\d+)?)\s*([a-z]*)$/i.exec(value)
  const unit = units[match?.[2]?.toLowerCase() ?? '']
  if (!match || unit === undefined || (kind !== 'bytes' && match[2] !== '')) return null
  return Number(match[1]) * unit
}

/** The words of a filter, each of which must be somewhere in a clip's names. */
export const filterWords = (text: string): string[] =>
  text
    .normalize('NFC')
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word !== '')
    .slice(0, 12)
