import { type SQL, sql } from 'drizzle-orm'

/**
 * The classes of advisory locks, each for one purpose: a lock of another class with the same number is another lock.
 * The lock on migrations has one key alone and is told apart from these by that.
 */
export const lockClasses = {
  /** Held by a worker's session for as long as it lives. */
  lease: 46_002,
  /** Held while files are moved in a production's place for what is made. */
  placement: 46_003,
  /** Held while a production's index of clips is brought up to date. */
  index: 46_004,
  /** Held while jobs of making are added to a production's queue. */
  making: 46_005,
  /** Held while a job looks for a numbered folder with seats for its files. */
  folders: 46_006,
  /** Held while a history of manifests beside copies is read or gets its next generation. */
  manifests: 46_007,
  /** Held while what came on a production's volumes is given its place: two would make two clips of one file. */
  arrivals: 46_008,
  /** Held while a volume is added to a production: two would be added at one place. */
  volumes: 46_009,
  /** Held, beside a ledger that others reach too, by the one Ennick that serves it. */
  serving: 46_010,
} as const

/** Of the database's `pg_locks` the one of a name that somebody holds. @param name an expression of the query */
export const heldLock = (lockClass: number, name: SQL): SQL => sql`
  locktype = 'advisory' and classid = ${lockClass} and objsubid = 2 and granted
  and objid = (hashtext(${name})::bigint & 4294967295)::oid
  and database = (select oid from pg_database where datname = current_database())`
