import type { Recipe } from '@ennick/core'
import { sql } from 'drizzle-orm'
import { listWorkers } from '../queue/workers.ts'
import type { Database } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import type { SizeSamples } from './size-samples.ts'

/** How fast recipes are made by the workers that are here. */
export class MakeSpeeds {
  /** Frames a second of one job, while as many others run as the workers make at once. */
  readonly #ofOneJob: ReadonlyMap<string, number>
  readonly #atOnce: number

  private constructor(ofOneJob: ReadonlyMap<string, number>, atOnce: number) {
    this.#ofOneJob = ofOneJob
    this.#atOnce = atOnce
  }

  /** Reads how fast jobs went lately. */
  static async read(database: Database): Promise<MakeSpeeds> {
    const speed = sql<number>`avg((${jobs.progress}->>'unitsPerSecond')::double precision)`
    const rows = await database
      .select({ recipeId: sql<string>`${jobs.input}->>'recipeId'`, speed })
      .from(jobs)
      .where(
        sql`${jobs.state} = 'done' and ${jobs.input}->>'kind' = 'make' and ${jobs.input}->'also' is null
          and ${jobs.endedAt} > now() - interval '30 days' and ${jobs.progress}->>'unitsPerSecond' is not null
          and ${jobs.progress}->>'unit' = 'frames'`,
      )
      .groupBy(sql`1`)
    const workers = (await listWorkers(database)).filter((worker) => worker.state === 'here')
    const atOnce = Math.max(
      1,
      workers.reduce((sum, worker) => sum + worker.makesAtOnce, 0),
    )
    return new MakeSpeeds(new Map(rows.map((row) => [row.recipeId, Number(row.speed)])), atOnce)
  }

  /** The same, with what was sampled in place of what was never made. A sample has the machine for itself. */
  withSamples(samples: SizeSamples, recipes: readonly Recipe[]): MakeSpeeds {
    const sampled = recipes.flatMap((recipe) => {
      const speed = samples.speed(recipe)
      return speed === null ? [] : [[recipe.id, speed / this.#atOnce] as const]
    })
    return new MakeSpeeds(new Map([...sampled, ...this.#ofOneJob]), this.#atOnce)
  }

  /** Frames a second of a recipe when there are so many clips to make it of; null when it was not made here yet. */
  together(recipeId: string, clips: number): number | null {
    const speed = this.#ofOneJob.get(recipeId)
    return speed === undefined ? null : speed * Math.max(1, Math.min(clips, this.#atOnce))
  }

  /** Minutes that a recipe takes for clips of so many frames; null when it was not made here yet. */
  minutes(recipeId: string, frames: readonly number[]): number | null {
    const speed = this.together(recipeId, frames.length)
    return speed === null ? null : frames.reduce((sum, count) => sum + count, 0) / speed / 60
  }
}
