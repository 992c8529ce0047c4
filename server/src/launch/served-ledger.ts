import { hostname } from 'node:os'
import { sql } from 'drizzle-orm'
import { drizzle } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import { inDatabase } from '../store/database.ts'
import { heldLock, lockClasses } from '../store/lock-classes.ts'

/**
 * A database that others reach too is served by one Ennick at a time: two would each say of the other's volumes that
 * they are away, put in order what the other is in the middle of, and take its jobs to where its files are not.
 */
export interface ServedLedger {
  /** Lets others serve it. */
  release(): Promise<void>
}

const betweenTriesMilliseconds = 1000

/** A machine that lost its power says nothing any more: the database gives it up after about half a minute. */
const deadIn = '-c tcp_keepalives_idle=10 -c tcp_keepalives_interval=5 -c tcp_keepalives_count=3'

/** What the sessions that hold a ledger are called, with the machine by which people know them. */
const sessionName = (): string => `ennick serves, on ${hostname()}`.slice(0, 63)

/**
 * Holds a ledger for as long as this process lives. One that is held by another is waited for a little: that may be
 * about to end.
 * @param onTaken called when the session was lost, as with a restart of the database, and another has it by now
 * @throws Error when another Ennick serves it
 */
export async function holdLedger(url: string, onTaken: (reason: Error) => void, seconds = 45): Promise<ServedLedger> {
  let isReleased = false
  let client: pg.Client

  const takeAgain = async (): Promise<void> => {
    while (!isReleased)
      try {
        client = await take(url, seconds, onLost)
        if (isReleased) await client.end()
        return
      } catch (error) {
        if (error instanceof HeldByAnother) return onTaken(error)
        await pause()
      }
  }
  const onLost = (): void => {
    if (!isReleased) void takeAgain()
  }
  client = await take(url, seconds, onLost)
  return {
    async release() {
      isReleased = true
      await client.end().catch(() => undefined)
    },
  }
}

class HeldByAnother extends Error {
  constructor(holder: string) {
    super(
      `Another Ennick serves this ledger (${holder}). Stop that first; to let this machine work for it too, run ` +
        './ennick worker.',
    )
  }
}

async function take(url: string, seconds: number, onLost: () => void): Promise<pg.Client> {
  const name = decodeURIComponent(new URL(url).pathname.slice(1))
  // Beside the ledger, which may be exchanged for a copy: nobody may be connected to it then.
  const client = await connectTo(inDatabase(url, 'postgres')).catch((error: { code?: string }) => {
    // A role that may reach its own database alone reaches that for all who use it.
    if (/^(28|3D|42)/.test(error.code ?? '')) return connectTo(url)
    throw error
  })
  try {
    for (let left = seconds; ; left--) {
      const { rows } = await client.query('select pg_try_advisory_lock($1, hashtext($2)) as taken', [
        lockClasses.serving,
        name,
      ])
      if (rows[0].taken) break
      if (left === seconds && left > 0)
        console.log('Another Ennick serves this ledger. Waiting a little, in case it has just ended.')
      if (left <= 0) throw new HeldByAnother(await holderOf(client, name))
      await pause()
    }
  } catch (error) {
    await client.end().catch(() => undefined)
    throw error
  }
  // Comes whenever the session is over, behind whatever error ended it.
  client.once('end', onLost)
  return client
}

async function connectTo(url: string): Promise<pg.Client> {
  const client = new pg.Client({
    ...{ connectionString: url, keepAlive: true, application_name: sessionName(), options: deadIn },
  })
  client.on('error', () => undefined)
  await client.connect()
  return client
}

async function holderOf(client: pg.Client, name: string): Promise<string> {
  const { rows } = await drizzle(client).execute<{ name: string; began: string }>(sql`
    select application_name as name, to_char(backend_start at time zone 'utc', 'YYYY-MM-DD HH24:MI') as began
    from pg_locks join pg_stat_activity using (pid) where ${heldLock(lockClasses.serving, sql`${name}`)}`)
  const [holder] = rows
  return holder ? `“${holder.name}”, since ${holder.began} UTC` : 'by now another one'
}

const pause = (): Promise<void> => new Promise((done) => setTimeout(done, betweenTriesMilliseconds))
