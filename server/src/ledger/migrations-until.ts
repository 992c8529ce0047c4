import { copyFile, mkdir, readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { z } from 'zod'
import { PlainError } from '../errors.ts'
import { migrationsFolder } from '../store/database.ts'

const journalShape = z.looseObject({ entries: z.array(z.looseObject({ when: z.number(), tag: z.string() })) })

async function readJournal() {
  return journalShape.parse(JSON.parse(await readFile(join(migrationsFolder, 'meta/_journal.json'), 'utf8')))
}

/** How many changes of the tables there are. */
export const countMigrations = async (): Promise<number> => (await readJournal()).entries.length

/**
 * Puts those changes of the tables into a folder that a ledger has seen, so that its tables can be made as they were.
 * @param seen when each was written, in their order
 * @throws PlainError when it has seen others than this version of Ennick knows
 */
export async function migrationsUntil(seen: readonly number[], folder: string): Promise<void> {
  const journal = await readJournal()
  const entries = journal.entries.slice(0, seen.length)
  if (entries.length < seen.length || entries.some(({ when }, index) => when !== seen[index]))
    throw new PlainError(
      'newer-ledger',
      'This copy of the ledger was made by a newer version of Ennick, or another one: begin with it in that version.',
    )
  await mkdir(join(folder, 'meta'), { recursive: true })
  await writeFile(join(folder, 'meta/_journal.json'), JSON.stringify({ ...journal, entries }))
  for (const { tag } of entries) await copyFile(join(migrationsFolder, `${tag}.sql`), join(folder, `${tag}.sql`))
}
