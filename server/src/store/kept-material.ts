import { randomUUID } from 'node:crypto'
import pg from 'pg'
import type { Connection } from './database.ts'
import type { Material } from './known-material.ts'
import { readMaterial } from './material.ts'

/** Told by triggers of every change to a table that material is read from; and by us, to know that all was heard. */
const channel = 'ennick_material'
const changed = 'changed'

/** So many productions are kept, those that were asked for last. */
const mostKept = 2
/** What nobody has asked for in so long is let go. */
const idleMilliseconds = 300_000
/** A database that does not answer within this is asked without what is kept. */
const patienceMilliseconds = 2000

interface Kept {
  readonly productionId: string
  /** After how many changes it was read. */
  readonly generation: number
  readonly material: Promise<Material>
}

/**
 * Keeps what was read of productions' material until anything of it changes, so that a request does not read all of a
 * production again. What is kept is exact: the database tells of changes in the order of their commits, so that when
 * our own word comes back, every change that was committed before has been heard.
 */
export class KeptMaterial {
  readonly #connection: Connection
  readonly #url: string
  #client: pg.Client | null = null
  #isClosed = false
  #generation = 0
  #kept: readonly Kept[] = []
  #idle: NodeJS.Timeout | null = null
  readonly #words = new Map<string, () => void>()

  constructor(connection: Connection, url: string) {
    this.#connection = connection
    this.#url = url
  }

  /** Listens, and listens again after the database was away. */
  async start(): Promise<void> {
    const client = new pg.Client({ connectionString: this.#url, keepAlive: true })
    let isLost = false
    const onLost = (): void => {
      if (isLost) return
      isLost = true
      client.removeAllListeners('notification')
      if (this.#client === client) this.#client = null
      this.#forget()
      if (!this.#isClosed) setTimeout(() => void this.start(), 500).unref()
    }
    client.on('end', onLost)
    client.on('error', onLost)
    client.on('notification', ({ payload = '' }) => {
      if (payload === changed) this.#forget()
      else this.#words.get(payload)?.()
    })
    try {
      await client.connect()
      await client.query(`listen ${channel}`)
      this.#client = client
    } catch {
      onLost()
    }
  }

  /** What is known of a production's material now. @throws PlainError when there is no such production */
  async read(productionId: string): Promise<Material> {
    if (!(await this.#hasHeardAll())) return readMaterial(this.#connection.database, productionId)
    this.#idle?.refresh()
    this.#idle ??= setTimeout(() => this.#forget(), idleMilliseconds).unref()
    const generation = this.#generation
    const known = this.#kept.find((each) => each.productionId === productionId && each.generation === generation)
    if (known) return known.material
    const reading = { productionId, generation, material: readMaterial(this.#connection.database, productionId) }
    this.#kept = [reading, ...this.#kept.filter((each) => each.productionId !== productionId)].slice(0, mostKept)
    try {
      return await reading.material
    } catch (error) {
      this.#kept = this.#kept.filter((each) => each !== reading)
      throw error
    }
  }

  /** Whether every change that was committed before this call is known. */
  async #hasHeardAll(): Promise<boolean> {
    if (!this.#client) return false
    const word = randomUUID()
    let timer: NodeJS.Timeout | undefined
    const heard = new Promise<boolean>((resolve) => {
      this.#words.set(word, () => resolve(true))
      timer = setTimeout(() => resolve(false), patienceMilliseconds)
    })
    try {
      await this.#connection.pool.query('select pg_notify($1, $2)', [channel, word])
      return await heard
    } finally {
      clearTimeout(timer)
      this.#words.delete(word)
    }
  }

  #forget(): void {
    this.#generation++
    this.#kept = []
  }

  async close(): Promise<void> {
    this.#isClosed = true
    if (this.#idle) clearTimeout(this.#idle)
    this.#forget()
    await this.#client?.end().catch(() => undefined)
  }
}
