import { lookBytes, readableFormats } from '@ennick/core'
import { execa } from 'execa'
import { smallGrey } from './look.ts'
import { leash, politely } from './process.ts'

/** Decodes a file from its first picture to its last, each small and grey, behind all other work. */
export async function* greyFrames(path: string, signal: AbortSignal): AsyncGenerator<Uint8Array> {
  const words = [
    ...['-hide_banner', '-nostdin', '-v', 'error', '-protocol_whitelist', 'file,pipe'],
    ...['-format_whitelist', readableFormats, '-i', `file:${path}`, '-map', '0:V:0', '-fps_mode', 'passthrough'],
    ...['-vf', smallGrey, '-c:v', 'rawvideo', '-f', 'rawvideo', 'pipe:1'],
  ]
  const [program, ...rest] = [...politely, ...leash, 'ffmpeg', ...words] as [string, ...string[]]
  const child = execa(program, rest, {
    ...{ stdin: 'ignore', stderr: 'ignore', buffer: false, encoding: 'buffer', reject: false },
    ...{ cancelSignal: signal, forceKillAfterDelay: 3000, env: { LC_ALL: 'C.UTF-8' } },
  })
  try {
    let rest: Uint8Array = new Uint8Array()
    for await (const chunk of child.stdout as AsyncIterable<Buffer>) {
      rest = rest.length ? Buffer.concat([rest, chunk]) : chunk
      while (rest.length >= lookBytes) {
        yield rest.subarray(0, lookBytes)
        rest = rest.subarray(lookBytes)
      }
    }
  } finally {
    child.kill('SIGKILL')
    await child
  }
  signal.throwIfAborted()
}
