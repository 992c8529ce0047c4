import { readConfig } from './config.ts'
import { serve } from './serve.ts'

const server = await serve(readConfig())
let isEnding = false
// A terminal tells all processes to end, and the launcher tells this one once more.
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    if (isEnding) return
    isEnding = true
    void server.close().finally(() => process.exit(0))
  })
