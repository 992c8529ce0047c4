import { eq, inArray, sql } from 'drizzle-orm'
import type { WorkContext } from '../queue/context.ts'
import { jobs } from '../store/job-schema.ts'

/** For so long one file waits at most, so that a night of proxies does not keep all pictures from being looked at. */
const mostMilliseconds = 20_000
const restMilliseconds = 500

/** Waits a little while anything is made or copied: that is what people wait for. */
export async function giveWay({ database, signal }: WorkContext): Promise<void> {
  const until = Date.now() + mostMilliseconds
  while (Date.now() < until) {
    signal.throwIfAborted()
    const [busy] = await database
      .select({ id: jobs.id })
      .from(jobs)
      .where(
        sql`${eq(jobs.state, 'running')} and ${inArray(sql`${jobs.input}->>'kind'`, ['make', 'offload', 'pull', 'search'])}`,
      )
      .limit(1)
    if (!busy) return
    await new Promise((resolve) => setTimeout(resolve, restMilliseconds))
  }
}
