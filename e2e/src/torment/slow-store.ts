import { createHash } from 'node:crypto'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { setTimeout as pause } from 'node:timers/promises'

const pieceBytes = 16_384
const betweenPiecesMilliseconds = 8

/** A store that gives out files slowly, with a list of their checksums, and goes on in the middle of one when asked. */
export async function openSlowStore(
  files: ReadonlyMap<string, Buffer>,
): Promise<{ list: string; close(): Promise<void> }> {
  const lines = [...files].map(([path, content]) => `${createHash('sha1').update(content).digest('hex')}  ${path}\n`)
  const all = new Map([...files, ['list.sha1', Buffer.from(lines.join(''))]])
  const server = createServer(async ({ url = '', headers }, response) => {
    const content = all.get(decodeURIComponent(url.slice(1)))
    if (!content) return void response.writeHead(404).end()
    const tag = `"${createHash('sha1').update(content).digest('hex')}"`
    const from = headers['if-range'] === tag ? Number(/\d+/.exec(headers.range ?? '')?.[0] ?? 0) : 0
    response.writeHead(from ? 206 : 200, {
      ...{ etag: tag, 'content-length': content.length - from, 'accept-ranges': 'bytes' },
      ...(from && { 'content-range': `bytes ${from}-${content.length - 1}/${content.length}` }),
    })
    for (let at = from; at < content.length && !response.destroyed; at += pieceBytes) {
      response.write(content.subarray(at, at + pieceBytes))
      await pause(betweenPiecesMilliseconds)
    }
    response.end()
  })
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done))
  return {
    list: `http://127.0.0.1:${(server.address() as AddressInfo).port}/list.sha1`,
    close: () =>
      new Promise((done) => {
        server.close(() => done())
        server.closeAllConnections()
      }),
  }
}
