import { realpath, rm } from 'node:fs/promises'
import { resolve } from 'node:path'
import { readLock } from './lock.ts'
import { clusterElsewhere } from './postgres.ts'

const wanted = resolve(process.env.ENNICK_DATA || '.ennick')
const dataFolder = await realpath(wanted).catch(() => wanted)
const lock = await readLock(dataFolder)
if (lock) {
  process.kill(lock.pid, 'SIGTERM')
  while (await readLock(dataFolder)) await new Promise((done) => setTimeout(done, 100))
  console.log('Ennick has stopped.')
} else console.log('Ennick is not running.')

if (process.argv.includes('--reset')) {
  // Only what Ennick itself keeps in its data folder; volumes that lie elsewhere are never touched.
  for (const name of [
    'database',
    'database-secret',
    'database-url',
    'demo',
    'made',
    'handoffs',
    'luts',
    'pictures',
    'frames',
    'scratch',
    'running.json',
  ]) {
    await rm(`${dataFolder}/${name}`, { recursive: true, force: true })
  }
  await rm(clusterElsewhere(dataFolder), { recursive: true, force: true })
  console.log(`Emptied ${dataFolder}. The next start begins anew.`)
}
