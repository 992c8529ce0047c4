import { resolve } from 'node:path'
import { readDatabaseUrl } from './postgres.ts'

const [option, count] = process.argv.slice(2)
if (option === '--at-once') process.env.ENNICK_AT_ONCE = count
else if (option !== undefined) {
  console.error(`“${option}” is no option of a worker: ./ennick worker [--at-once N].`)
  process.exit(2)
}
const dataFolder = resolve(process.env.ENNICK_DATA || '.ennick')
process.env.DATABASE_URL ??= await readDatabaseUrl(dataFolder).catch(() => {
  console.error(
    `No database is running for ${dataFolder}. Start Ennick first, or set DATABASE_URL to the database of the machine that serves it.`,
  )
  process.exit(1)
})
await import('../main-worker.ts')
console.log('This worker takes jobs until it is stopped with Ctrl+C.')
