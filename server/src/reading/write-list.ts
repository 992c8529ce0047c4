import type { Cut, CutFormatId, WriteOptions, WrittenList } from '@ennick/core'
import { PlainError } from '../errors.ts'
import { readApart } from './read-apart.ts'

/**
 * A cut in one format, proven by reading it again, in a thread of its own.
 * @param what is written, as an error calls it: "The trimmed cut"
 * @throws PlainError when the format cannot say it
 */
export async function writeList(
  cut: Cut,
  format: CutFormatId,
  options: WriteOptions,
  what: string,
): Promise<WrittenList & { readonly text: string }> {
  const [written] = await readApart('lists', { cut, options, format }, { seconds: 300 })
  if (written?.text == null)
    throw new PlainError('cannot-be-written', `${what} cannot be written: ${written?.reason ?? 'no format.'}`)
  return { ...written, text: written.text }
}
