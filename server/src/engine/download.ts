import type { FileHandle } from 'node:fs/promises'
import { setTimeout as wait } from 'node:timers/promises'
import type { HashKind } from '@ennick/core'
import type { Pause } from './pause.ts'
import { startHash } from './running-hash.ts'

/** What a store answered, or did not, so that a file of it is not had; the message says what, in a sentence. */
export class StoreTrouble extends Error {
  override readonly name = 'StoreTrouble'
}

/** A connection that broke, or a store that is busy: asked again, it may go on. */
class Broken extends Error {}

export interface DownloadOptions {
  readonly signal: AbortSignal
  readonly pause: Pause
  readonly kind: HashKind
  /** Of the whole file, where that is known. */
  readonly sizeBytes: number | null
  /** Hears of bytes as they come, and of fewer when all has to come again. */
  readonly onBytes: (bytes: number) => void
  /** Hears of how large it is, as the store says. */
  readonly onSize: (bytes: number) => void
}

export interface Downloaded {
  readonly hash: string
  readonly sizeBytes: number
  /** When it was last changed, as the store says. */
  readonly modifiedAt: Date | null
}

/** What a store sends in a minute is nothing: it is asked again. */
const idleMilliseconds = 60_000
/** So often in a row may a store break off before a single byte has come. */
const mostBreaks = 5

/**
 * Brings a file from a store into an open, empty one. Where the connection breaks it goes on from the byte where it
 * was, as long as the store still has the same file (RFC 9110, sections 14 and 13.1.5), and from the beginning
 * otherwise.
 * @throws StoreTrouble with a sentence; the signal's reason when that ends it; what the disk says when that is full
 */
export async function download(address: URL, file: FileHandle, options: DownloadOptions): Promise<Downloaded> {
  const { signal, pause, kind, sizeBytes, onBytes, onSize } = options
  let done = 0
  let hash = startHash(kind)
  /** By what the store knows the file that is being read. */
  let mark: string | null = null
  let breaks = 0
  const startOver = async (): Promise<void> => {
    onBytes(-done)
    done = 0
    hash = startHash(kind)
    await file.truncate(0)
  }
  for (;;) {
    const before = done
    try {
      await pause.ended(signal)
      const rest = done > 0 && mark !== null ? { from: done, mark } : {}
      return await withAnswer(address, { signal, ...rest }, async ({ response, idle }) => {
        const begins = beginOf(response)
        if (begins !== done) {
          if (begins !== 0) throw new StoreTrouble('The store sends another part of it than was asked for.')
          await startOver()
        }
        mark = markOf(response)
        const whole = wholeBytes(response)
        if (sizeBytes !== null && whole !== null && whole !== sizeBytes)
          throw new StoreTrouble(`The list says ${sizeBytes} bytes, and the store has ${whole}.`)
        if (whole !== null) onSize(whole)
        for await (const piece of response.body ?? []) {
          idle.rest()
          if (sizeBytes !== null && done + piece.length > sizeBytes)
            throw new StoreTrouble(`The list says ${sizeBytes} bytes, and the store sends more.`)
          await writeAll(file, piece, done)
          hash.update(piece)
          done += piece.length
          onBytes(piece.length)
          await pause.ended(signal)
          idle.wake()
        }
        const wanted = whole ?? sizeBytes
        if (wanted !== null && done < wanted) throw new Broken(`it ended after ${done} of ${wanted} bytes`)
        return { hash: hash.digest(), sizeBytes: done, modifiedAt: changedAt(response) }
      })
    } catch (error) {
      signal.throwIfAborted()
      if (!isOfConnection(error)) throw error
      breaks = done > before ? 1 : breaks + 1
      if (breaks > mostBreaks) throw new StoreTrouble(`The store cannot be read: ${whyBroken(error as Error)}.`)
      // Without a mark nobody can tell whether the store has the same file still.
      if (done > 0 && mark === null) await startOver()
      await wait(500 * 2 ** (breaks - 1), undefined, { signal })
    }
  }
}

/**
 * Reads a text from a store.
 * @param mostBytes it is given up when it is longer
 * @throws StoreTrouble with a sentence
 */
export async function readText(address: URL, mostBytes: number, signal: AbortSignal): Promise<string> {
  try {
    return await withAnswer(address, { signal }, async ({ response, idle }) => {
      const pieces: Uint8Array[] = []
      let bytes = 0
      for await (const piece of response.body ?? []) {
        idle.wake()
        bytes += piece.length
        if (bytes > mostBytes) throw new StoreTrouble(`It is longer than ${mostBytes / 1e6} MB, which no such list is.`)
        pieces.push(piece)
      }
      return new TextDecoder().decode(Buffer.concat(pieces))
    })
  } catch (error) {
    signal.throwIfAborted()
    if (!isOfConnection(error)) throw error
    throw new StoreTrouble(`The store cannot be read: ${whyBroken(error as Error)}.`)
  }
}

/** Gives up where nothing comes for a while. */
interface Idle {
  /** Something came: the time begins anew. */
  wake(): void
  /** Nothing is waited for now. */
  rest(): void
}

/** What is asked for: all of a file or, where the store has the one of a mark, the rest of it. */
interface Asked {
  readonly signal: AbortSignal
  readonly from?: number
  readonly mark?: string
}

interface Answer {
  readonly response: Response
  readonly idle: Idle
}

/** Asks a store, and lets go of the connection when its answer was read, or is read no further. */
async function withAnswer<T>(address: URL, asked: Asked, read: (answer: Answer) => Promise<T>): Promise<T> {
  const answer = await ask(address, asked)
  try {
    return await read(answer)
  } finally {
    answer.idle.rest()
    await answer.response.body?.cancel().catch(() => undefined)
  }
}

async function ask(address: URL, { signal, from, mark }: Asked): Promise<Answer> {
  const controller = new AbortController()
  let timer: NodeJS.Timeout | undefined
  const idle = {
    rest: () => clearTimeout(timer),
    wake: () => {
      clearTimeout(timer)
      timer = setTimeout(
        () => controller.abort(new Broken(`nothing came for ${idleMilliseconds / 1000} seconds`)),
        idleMilliseconds,
      )
    },
  }
  idle.wake()
  try {
    const response = await fetch(address, {
      signal: AbortSignal.any([signal, controller.signal]),
      headers: {
        // As it lies there: what is packed for the way has other bytes and another length.
        'accept-encoding': 'identity',
        ...(from === undefined || mark === undefined ? {} : { range: `bytes=${from}-`, 'if-range': mark }),
      },
    })
    if (!response.ok) {
      await response.body?.cancel().catch(() => undefined)
      const isBusy = [408, 425, 429].includes(response.status) || response.status >= 500
      throw isBusy ? new Broken(`it answers ${response.status}`) : new StoreTrouble(whyRefused(response.status))
    }
    return { response, idle }
  } catch (error) {
    idle.rest()
    throw error
  }
}

/** A strong mark alone says that bytes are the same: by it a store sends the rest of a file, or all of another one. */
function markOf({ headers }: Response): string | null {
  const tag = headers.get('etag')
  return tag?.startsWith('"') ? tag : headers.get('last-modified')
}

/** The byte at which what a store sends begins. */
function beginOf({ status, headers }: Response): number {
  if (status !== 206) return 0
  return Number(/^bytes (\d+)-/.exec(headers.get('content-range') ?? '')?.[1] ?? -1)
}

/** Bytes of the whole file, as a store says; null where it does not. */
function wholeBytes({ status, headers }: Response): number | null {
  // Some stores pack what they send whatever they are asked: then they say how long that is.
  if ((headers.get('content-encoding') ?? 'identity') !== 'identity') return null
  const said = status === 206 ? /\/(\d+)$/.exec(headers.get('content-range') ?? '')?.[1] : headers.get('content-length')
  return said === undefined || said === null ? null : Number(said)
}

function changedAt({ headers }: Response): Date | null {
  const time = Date.parse(headers.get('last-modified') ?? '')
  return Number.isNaN(time) ? null : new Date(time)
}

async function writeAll(file: FileHandle, piece: Uint8Array, position: number): Promise<void> {
  for (let written = 0; written < piece.length; )
    written += (await file.write(piece, written, piece.length - written, position + written)).bytesWritten
}

/** Whether the way to the store, or the store for the moment, is to blame: the client of the language says so. */
const isOfConnection = (error: unknown): boolean =>
  error instanceof Broken || ((error as Error).name === 'TypeError' && (error as Error).cause !== undefined)

function whyBroken(error: Error): string {
  const { code, message } = (error.cause ?? error) as NodeJS.ErrnoException
  return (code && reasons[code]) ?? message
}

const reasons: Readonly<Record<string, string>> = {
  ECONNREFUSED: 'nothing answers at that address',
  ECONNRESET: 'the connection was broken off',
  UND_ERR_SOCKET: 'the connection was broken off',
  ENOTFOUND: 'nobody knows a machine of that name',
  EAI_AGAIN: 'the name of the machine cannot be looked up now',
  EHOSTUNREACH: 'there is no way to that machine',
  ENETUNREACH: 'there is no way to that network',
  ETIMEDOUT: 'it does not answer',
  UND_ERR_CONNECT_TIMEOUT: 'it does not answer',
}

const whyRefused = (status: number): string =>
  status === 404 || status === 410
    ? 'The store does not have it.'
    : status === 401 || status === 403
      ? `The store does not let it be read without leave (it answers ${status}).`
      : `The store answers ${status}.`
