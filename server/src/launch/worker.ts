import { resolve } from 'node:path'
import { readDatabaseUrl } from './postgres.ts'

const dataFolder = resolve(process.env.ENNICK_DATA || '.ennick')
process.env.DATABASE_URL ??= await readDatabaseUrl(dataFolder).catch(() => {
  console.error(
    `No database is running for ${dataFolder}. Start Ennick first, or set DATABASE_URL to the database of the machine that serves it.`,
  )
  process.exit(1)
})
await import('../main-worker.ts')
console.log('This worker takes jobs until it is stopped with Ctrl+C.')
