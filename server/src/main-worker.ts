import { readConfig } from './config.ts'
import { Worker } from './queue/worker.ts'
import { work } from './stops.ts'

const worker = new Worker(readConfig(), work)

let ending = false
const end = (exitCode: number): void => {
  if (ending) return
  ending = true
  // A worker that cannot stop in time is stopped all the same: its jobs go back to the queue with its lease.
  setTimeout(() => process.exit(exitCode), 5000).unref()
  void worker.stop().finally(() => process.exit(exitCode))
}

process.on('SIGINT', () => end(0))
process.on('SIGTERM', () => end(0))
await worker.start((reason) => {
  console.error(`The database no longer knows this worker (${reason.message}): it stops, and is started again.`)
  end(1)
})
