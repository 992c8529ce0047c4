import { readConfig } from './config.ts'
import { serve } from './serve.ts'

const server = await serve(readConfig())
for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.on(signal, () => {
    void server.close().then(() => process.exit(0))
  })
}
