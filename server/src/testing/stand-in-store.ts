import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { gzipSync } from 'node:zlib'

/** A file of a store: what it holds, and how the store behaves about it. */
export interface StoredFile {
  content: Buffer | string
  /** The mark by which the store knows its content; null where it knows none. */
  tag?: string | null
  /** So many times it breaks off in the middle. */
  breaks?: number
  /** It is packed for the way, whatever was asked for. */
  isPacked?: boolean
  /** It stands still in the middle until this is called. */
  stall?: Promise<void>
}

/** A store on this machine that gives out files by their paths, with parts of them where that is asked for. */
export interface StandInStore {
  readonly address: string
  readonly files: Map<string, StoredFile>
  /** What was asked for: path, and the part. */
  readonly asked: { readonly path: string; readonly range: string | null }[]
  close(): Promise<void>
}

export async function openStore(): Promise<StandInStore> {
  const files = new Map<string, StoredFile>()
  const asked: StandInStore['asked'] = []
  const server = createServer((request, response) => {
    answer(files, asked, request, response).catch(() => response.destroy())
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  return {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    ...{ files, asked },
    close: () =>
      new Promise((resolve) => {
        server.close(() => resolve())
        server.closeAllConnections()
      }),
  }
}

async function answer(
  files: StandInStore['files'],
  asked: StandInStore['asked'],
  { url = '', headers }: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  const path = decodeURIComponent(new URL(url, 'http://store').pathname)
  const range = headers.range ?? null
  asked.push({ path, range })
  const file = files.get(path)
  if (!file) return void response.writeHead(404).end('no such file')
  const content = file.isPacked ? gzipSync(file.content) : Buffer.from(file.content)
  const { tag = '"first"' } = file
  const from = range !== null && tag !== null && headers['if-range'] === tag ? Number(/\d+/.exec(range)?.[0]) : 0
  response.writeHead(from ? 206 : 200, {
    'content-length': content.length - from,
    'last-modified': 'Wed, 04 Nov 2026 09:14:00 GMT',
    ...(tag === null ? {} : { etag: tag }),
    ...(file.isPacked ? { 'content-encoding': 'gzip' } : {}),
    ...(from ? { 'content-range': `bytes ${from}-${content.length - 1}/${content.length}` } : {}),
  })
  const middle = from + Math.floor((content.length - from) / 2)
  response.write(content.subarray(from, middle))
  await file.stall
  if (file.breaks) {
    file.breaks--
    // What was written reaches the other side before the line is cut.
    await new Promise((resolve) => setTimeout(resolve, 50))
    response.destroy()
    return
  }
  response.end(content.subarray(middle))
}
