import { sql } from 'drizzle-orm'
import type { Queryable } from '../store/database.ts'

/**
 * Numbers for names that count: a clip keeps the one that it was made with, and new ones go on where the last ended.
 */
export class NameCounter {
  readonly #given: Map<string, number>
  #next: number

  private constructor(given: Map<string, number>) {
    this.#given = given
    this.#next = Math.max(-1, ...given.values()) + 1
  }

  /** Counts from what was planned with a recipe in a production so far. */
  static async read(database: Queryable, productionId: string, recipeId: string): Promise<NameCounter> {
    const { rows } = await database.execute<{ clip_id: string; index: number }>(
      sql`select distinct on (input->>'clipId') input->>'clipId' as clip_id, (choice->>'index')::int as index
          from jobs, jsonb_array_elements(jsonb_build_array(input) || coalesce(input->'also', '[]')) as choice
          where production_id = ${productionId} and choice->>'recipeId' = ${recipeId} and choice->>'index' is not null
          order by input->>'clipId', created_at desc, id`,
    )
    return new NameCounter(new Map(rows.map((row) => [row.clip_id, row.index])))
  }

  /** @returns a number from 0 */
  of(clipId: string): number {
    const given = this.#given.get(clipId) ?? this.#next++
    this.#given.set(clipId, given)
    return given
  }
}
