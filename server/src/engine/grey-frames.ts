import { lookBytes, readableFormats } from '@ennick/core'
import { asEnded, startEncoder } from './process.ts'
import { smallGrey } from './small-grey.ts'

/**
 * Decodes a file from its first picture to its last, each small and grey, behind all other work.
 * @param onComplaint told at the end what the decoder complained of, if it did
 */
export async function* greyFrames(
  path: string,
  signal: AbortSignal,
  onComplaint: (complaint: string) => void = () => undefined,
): AsyncGenerator<Uint8Array> {
  const words = [
    ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats, '-i', `file:${path}`],
    ...['-map', '0:V:0', '-fps_mode', 'passthrough', '-vf', smallGrey, '-c:v', 'rawvideo', '-f', 'rawvideo', 'pipe:1'],
  ]
  const child = startEncoder(words, signal)
  try {
    let rest: Uint8Array = new Uint8Array()
    for await (const chunk of child.stdout as AsyncIterable<Buffer>) {
      rest = rest.length ? Buffer.concat([rest, chunk]) : chunk
      while (rest.length >= lookBytes) {
        yield rest.subarray(0, lookBytes)
        rest = rest.subarray(lookBytes)
      }
    }
    const result = await child
    signal.throwIfAborted()
    const complaint = Buffer.from(asEnded(result).stderr).toString().trim().split('\n')[0]
    if (complaint) onComplaint(complaint)
  } finally {
    child.kill('SIGKILL')
    await child
  }
  signal.throwIfAborted()
}
