import { type Change, change } from '@ennick/contract'
import type { Response } from 'express'
import pg from 'pg'
import { changeChannel } from '../store/announce.ts'

/** Hears every change from the database and tells it to every browser that listens. */
export class ChangeStream {
  readonly #url: string
  readonly #onChange: (change: Change) => void
  readonly #listeners = new Set<Response>()
  readonly #heartbeat: NodeJS.Timeout
  #client: pg.Client | null = null
  #closed = false

  /** @param onChange is told of every change too */
  constructor(url: string, onChange: (change: Change) => void = () => undefined) {
    this.#url = url
    this.#onChange = onChange
    this.#heartbeat = setInterval(() => this.#write('event: here\ndata: {}\n\n'), 15_000)
  }

  /** Listens, and listens again after the database was away. */
  async start(): Promise<void> {
    const client = new pg.Client({ connectionString: this.#url, keepAlive: true })
    this.#client = client
    let lost = false
    const onLost = (): void => {
      if (lost || this.#closed) return
      lost = true
      client.removeAllListeners('notification')
      setTimeout(() => void this.start(), 500)
    }
    client.on('error', onLost)
    client.on('end', onLost)
    client.on('notification', (message) => {
      const parsed = change.safeParse(JSON.parse(message.payload ?? 'null'))
      if (!parsed.success) return
      this.#write(`data: ${JSON.stringify(parsed.data)}\n\n`)
      this.#onChange(parsed.data)
    })
    try {
      await client.connect()
      await client.query(`listen ${changeChannel}`)
      // Whatever changed while nobody listened is read again.
      this.#write('event: reconnected\ndata: {}\n\n')
    } catch {
      onLost()
    }
  }

  attach(response: Response): void {
    response.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    })
    response.write('retry: 1000\n\n')
    this.#listeners.add(response)
    response.on('close', () => this.#listeners.delete(response))
  }

  #write(text: string): void {
    for (const response of this.#listeners) response.write(text)
  }

  async close(): Promise<void> {
    this.#closed = true
    clearInterval(this.#heartbeat)
    for (const response of this.#listeners) response.end()
    await this.#client?.end().catch(() => undefined)
  }
}
