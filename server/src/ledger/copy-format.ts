import { z } from 'zod'

/**
 * What stands in a copy of the ledger: a ZIP file (PKWARE APPNOTE 6.3) with a table in each CSV (RFC 4180, as
 * PostgreSQL's COPY writes it), and `ledger.json`, which says what they are. It holds rows and nothing that is run.
 */
export const ledgerDescription = z.object({
  format: z.literal('ennick ledger 1'),
  madeAt: z.iso.datetime(),
  host: z.string(),
  /** When each change of the tables that this ledger has seen was written, in their order. */
  migrations: z.array(z.number()),
  productions: z.array(z.string()),
  tables: z.array(
    z.object({
      name: z.string(),
      columns: z.array(z.string()),
      rows: z.int(),
      sha256: z.string().regex(/^[0-9a-f]{64}$/),
    }),
  ),
})
export type LedgerDescription = z.infer<typeof ledgerDescription>

export const descriptionName = 'ledger.json'
export const tableEntry = (table: string): string => `tables/${table}.csv`

/** "ennick-ledger-20261128-231500.zip", by the clock of the world. */
export function copyName(madeAt: Date): string {
  const digits = madeAt.toISOString().replace(/\D/g, '')
  return `ennick-ledger-${digits.slice(0, 8)}-${digits.slice(8, 14)}.zip`
}

const namePattern = /^ennick-ledger-(\d{4})(\d\d)(\d\d)-(\d\d)(\d\d)(\d\d)\.zip$/

/** When a copy of this name was made; null when it is no name of one. */
export function copyTime(name: string): Date | null {
  const parts = namePattern.exec(name)
  if (!parts) return null
  const [, year, month, day, hour, minute, second] = parts
  const time = new Date(`${year}-${month}-${day}T${hour}:${minute}:${second}Z`)
  return Number.isNaN(time.getTime()) ? null : time
}

/** What a copy is called while it is written. */
export const partOfCopy = (name: string): string => `.${name}.part`

export function isPartOfCopy(name: string): boolean {
  const whole = name.slice(1, -'.part'.length)
  return copyTime(whole) !== null && name === partOfCopy(whole)
}

const keptNewest = 14

/**
 * Which of some copies may go: all but the newest fourteen and the newest of each month.
 * @param names of copies, in any order
 */
export function spareCopies(names: readonly string[]): string[] {
  const sorted = names.filter((name) => copyTime(name) !== null).sort((a, b) => (a < b ? 1 : -1))
  const months = new Set<string>()
  return sorted.filter((name, index) => {
    const month = name.slice(0, 'ennick-ledger-yyyymm'.length)
    const isFirstOfMonth = !months.has(month)
    months.add(month)
    return index >= keptNewest && !isFirstOfMonth
  })
}

/** The tables of a ledger with the columns that hold what was written, in the order of their names. */
export const tablesQuery = `
  select c.relname as name, array_agg(a.attname::text order by a.attnum) as columns
  from pg_class c join pg_attribute a on a.attrelid = c.oid
  where c.relnamespace = 'public'::regnamespace and c.relkind = 'r'
    and a.attnum > 0 and not a.attisdropped and a.attgenerated = ''
  group by c.relname order by c.relname`
