import { existsSync } from 'node:fs'
import { readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { type Config, demoFolder } from '../config.ts'
import { useScratch } from '../engine/scratch.ts'
import { connect } from '../store/database.ts'
import { isEmpty, loadDemo } from './load-demo.ts'
import { resetDataFolder, unfinishedDemo } from './reset-data-folder.ts'

const markOf = (dataFolder: string): string => join(dataFolder, unfinishedDemo)
/** Which ledger the mark speaks of: only its own is begun anew. */
const ledgerServed = (): string => (process.env.DATABASE_URL ? 'elsewhere' : 'own')

/** Makes the demo in a ledger in which nothing is yet, where no folder of its name is either. */
export async function loadDemoOnce(config: Config): Promise<void> {
  const { dataFolder } = config
  const connection = connect(config.databaseUrl, { maximum: 4 })
  try {
    if (!(await isEmpty(connection.database))) return
    const folder = demoFolder(dataFolder)
    if (existsSync(folder)) {
      console.log(`No demo is made: ${folder} is there already. Move it away, and start again, if you want one.`)
      return
    }
    console.log('Making the demo, once: pictures, sound and a story that has gone a little wrong.')
    await writeFile(markOf(dataFolder), ledgerServed())
    // What is drawn for it is moved into the data folder in one step, wherever this machine has its temporary files.
    useScratch(dataFolder)
    let told = 0
    await loadDemo(
      connection.database,
      config,
      process.env.ENNICK_CACHE || join(dataFolder, 'cache'),
      (done, total) => {
        if (done - told < 5 && done !== total) return
        told = done
        console.log(`  ${done} of ${total} files`)
      },
    )
    await rm(markOf(dataFolder))
  } catch (error) {
    // An encoder says the command first, and what was the matter last.
    const last = (error as Error).message.trim().split('\n').at(-1)
    throw new Error(`The demo could not be made: ${last}. To begin without one: ./ennick start --no-demo`)
  } finally {
    await connection.close()
  }
}

/**
 * Begins anew after a start that ended before its demo was whole: half a demo would be told as a production in which
 * things are missing. It is nobody's work, and is put aside all the same, as a reset does it.
 */
export async function clearUnfinishedDemo(dataFolder: string): Promise<void> {
  const mark = markOf(dataFolder)
  if (!existsSync(mark)) return
  // A ledger elsewhere is not emptied, and knows files of this folder: half a demo is left in whichever it is.
  if (ledgerServed() === 'elsewhere' || (await readFile(mark, 'utf8')) !== 'own') {
    await rm(mark)
    console.log('A demo was not made to its end before: what there is of it stays as it is, in the ledger of then.')
    return
  }
  const { filesAside } = await resetDataFolder(dataFolder)
  console.log(
    'The demo was not made to its end when Ennick was started last: this start begins anew.' +
      (filesAside ? ` What there was of it lies in ${filesAside.path}, and may be deleted.` : ''),
  )
}
