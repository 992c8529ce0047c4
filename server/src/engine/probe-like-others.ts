import { createHash } from 'node:crypto'
import { isDeepStrictEqual } from 'node:util'
import { factsLike, type HeaderNumbers, type MediaFacts, stillFormat } from '@ennick/core'
import { firstPackets, onlyPacketsTell, probe, smallBytes } from './probe.ts'
import { readHeader } from './read-header.ts'
import { findTruncation } from './truncation.ts'

/** What is known of the files of one shape. */
interface Shape {
  readonly facts: MediaFacts
  /** The numbers of its files that the probe was asked of; it told of each what had been read here. */
  readonly asked: readonly HeaderNumbers[]
}

/** The most cameras, settings and recorders that a production comes from are some dozens. */
const mostShapes = 2000
/** Of so many files of a shape that have other numbers the probe is asked before it is known. */
const askedOfEach = 2

/**
 * The shapes of headers that have come by, by their hash, the latest last. Null for one of which the probe told
 * otherwise: it is asked of all of them.
 */
const shapes = new Map<string, Shape | null>()

/**
 * Everything that a file says of itself, as the probe tells it. Where the header is of a shape of which the probe was
 * asked often enough, and always told what was read here, it is not asked again: starting it takes a hundred times as
 * long as reading a header.
 * @throws as `probe` does
 */
export async function probeLikeOthers(
  path: string,
  sizeBytes: number,
  options: { signal?: AbortSignal },
): Promise<MediaFacts> {
  const reading = stillFormat(path) ? null : await readHeader(path, sizeBytes, firstPackets)
  if (!reading) return probe(path, sizeBytes, options)
  const shape = createHash('sha256').update(reading.shape).digest('base64')
  const known = shapes.get(shape)
  if (known === null) return probe(path, sizeBytes, options)
  const readLike = (facts: MediaFacts): MediaFacts | null => {
    const { codec, profile } = facts.picture ?? {}
    return factsLike(facts, reading.numbers, sizeBytes <= smallBytes || onlyPacketsTell(codec, profile))
  }
  const isAsked = known?.asked.some((numbers) => isDeepStrictEqual(numbers, reading.numbers)) ?? false
  if (known && (isAsked || known.asked.length >= askedOfEach)) {
    const facts = readLike(known.facts)
    if (facts && !(await findTruncation(path, sizeBytes))) {
      remember(shape, known)
      return facts
    }
  }
  const facts = await probe(path, sizeBytes, options)
  const before = shapes.get(shape)
  const asRead = before === null ? null : readLike(before?.facts ?? facts)
  remember(
    shape,
    isDeepStrictEqual(asRead, facts) ? { facts, asked: [...(before?.asked ?? []), reading.numbers] } : null,
  )
  return facts
}

function remember(shape: string, known: Shape | null): void {
  shapes.delete(shape)
  shapes.set(shape, known)
  const [oldest] = shapes.keys()
  if (shapes.size > mostShapes && oldest !== undefined) shapes.delete(oldest)
}
