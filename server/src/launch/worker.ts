import { namedDataFolder } from '../config.ts'
import { readDatabaseUrl } from './postgres.ts'
import { readWords } from './words.ts'

const options = readWords(
  { 'at-once': { type: 'string' }, codecs: { type: 'string' }, path: { type: 'string', multiple: true } },
  './ennick worker [--at-once N] [--codecs NAME,NAME] [--path /in/Ennick=/here]…',
)
if (options['at-once'] !== undefined) process.env.ENNICK_AT_ONCE = options['at-once']
if (options.codecs !== undefined) process.env.ENNICK_CODECS = options.codecs
if (options.path) process.env.ENNICK_PATH_MAP = options.path.join('\n')
const dataFolder = namedDataFolder()
process.env.DATABASE_URL ??= await readDatabaseUrl(dataFolder).catch(() => {
  console.error(
    `No database is running for ${dataFolder}. Start Ennick first, or set DATABASE_URL to the database of the machine that serves it.`,
  )
  process.exit(1)
})
await import('../main-worker.ts').catch((error: Error) => {
  console.error(error.message)
  process.exit(2)
})
console.log('This worker takes jobs until it is stopped with Ctrl+C.')
