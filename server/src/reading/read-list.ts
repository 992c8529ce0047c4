import type { Cut, ListContent, Rate } from '@ennick/core'
import { PlainError } from '../errors.ts'
import { NotRead, readApart } from './read-apart.ts'

/** A list as it was read. */
export interface ReadList {
  readonly fileName: string
  readonly content: ListContent
  readonly cut: Cut
  /** The name of its format. */
  readonly format: string
}

/** Reads a cut list in a thread of its own. @throws PlainError with all that is wrong with the list */
export async function readList(asked: {
  fileName: string
  content: ListContent
  rate: Rate
  takeGood: boolean
}): Promise<ReadList> {
  const { fileName, content } = asked
  if (typeof content === 'string' && content.includes('\0'))
    throw new PlainError('bad-list', `${fileName} is no text: a list of events is needed.`)
  try {
    return { fileName, content, ...(await readApart('cut', asked)) }
  } catch (error) {
    if (error instanceof NotRead)
      throw new PlainError('bad-list', `${fileName} was not read. ${error.message}`, {
        details: { location: error.location, faults: error.faults },
      })
    throw error
  }
}
