import { type Column, type SQL, sql } from 'drizzle-orm'

/**
 * A column's value is one of a list, however long it is: the list is one parameter, where a parameter for each value
 * ends at 65,535 of them.
 */
export const anyOf = (column: Column | SQL, values: readonly (string | number)[]): SQL =>
  sql`${column} = any(${sql.param(values)})`
