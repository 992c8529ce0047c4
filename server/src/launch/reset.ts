import { count } from '@ennick/core'
import { namedDataFolder } from '../config.ts'
import { isDataFolder } from './data-folder.ts'
import { removeLock, stopRunning, takeLock } from './lock.ts'
import { resetDataFolder } from './reset-data-folder.ts'
import { readWords } from './words.ts'

readWords({}, './ennick reset')
const dataFolder = namedDataFolder()
if (!isDataFolder(dataFolder)) {
  console.error(`${dataFolder} is no data folder of Ennick: nothing was touched.`)
  process.exit(1)
}
if (process.env.DATABASE_URL) {
  console.error(
    'The ledger lies in the database that DATABASE_URL names, which a reset does not empty, ' +
      `and which knows the files in ${dataFolder}: nothing was touched.`,
  )
  process.exit(1)
}
if (await stopRunning(dataFolder)) console.log('Ennick has stopped.')
if (!(await takeLock(dataFolder, 'no address yet, as it is being reset'))) {
  console.error(`Ennick is being started for ${dataFolder}: nothing was touched.`)
  process.exit(1)
}
try {
  const { ledgerCopy, ledgersAside, filesAside } = await resetDataFolder(dataFolder)
  console.log('The next start begins anew.')
  if (ledgerCopy)
    console.log(`The ledger as it was is kept in ${ledgerCopy}: ./ennick start --ledger FILE begins with it.`)
  for (const { path, secret, why } of ledgersAside)
    console.log(
      `No copy of the ledger could be made (${why}), so that it was put aside whole: ${path}, ` +
        `with its secret in ${secret}`,
    )
  if (filesAside) {
    const what = `${count(filesAside.files, 'file')} (${(filesAside.bytes / 1e6).toFixed(1)} MB) that may be wanted`
    console.log(
      `${what} were moved to ${filesAside.path}: delete that folder when they are not, or move back what is in it.`,
    )
  }
} catch (error) {
  console.error(`It was not all reset: ${(error as Error).message}`)
  process.exitCode = 1
} finally {
  await removeLock(dataFolder)
}
