import { sql } from 'drizzle-orm'
import type { Transaction } from './database.ts'
import { lockClasses } from './lock-classes.ts'

/**
 * Waits until nobody writes to a production's index of clips, and keeps all others from it until the transaction ends.
 * Who removes clips takes it before: their rows of the index go with them, in another order than those are written.
 */
export async function holdIndex(transaction: Transaction, productionId: string): Promise<void> {
  await transaction.execute(sql`select pg_advisory_xact_lock(${lockClasses.index}, hashtext(${productionId}))`)
}
