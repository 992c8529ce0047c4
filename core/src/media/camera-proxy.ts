import { compareNames, normalName, possibleStems, stem } from '../naming/index.ts'
import { groupBy } from '../text/index.ts'
import { sameRate } from '../time/index.ts'
import type { MediaFacts, PictureFacts } from './facts.ts'

export interface ProxyCandidate {
  readonly id: string
  readonly path: string
  readonly facts: MediaFacts
}

/**
 * A small recording that a camera made beside a large one: both begin and end together, and one is named after the
 * other.
 */
export interface CameraProxyOffer {
  readonly originalId: string
  readonly proxyId: string
}

/**
 * Finds, among the files of a volume, the cameras' own proxies. One must be named after the other; rate, start and
 * frame count must be equal and the raster smaller on both sides. What is a proxy itself is nobody's original: of three
 * sizes two are proxies of the largest. Where two large files fit one small one all the same, none is offered.
 */
export function findCameraProxies(files: readonly ProxyCandidate[], suffixes: readonly string[]): CameraProxyOffer[] {
  const moving = files.filter((file) => file.facts.kind === 'picture' && file.facts.picture)
  const twins = new TwinIndex(moving, suffixes)
  const originals = new Map<string, string>()
  // The largest first: what a smaller one could be made of is decided before it.
  for (const proxy of [...moving].sort((a, b) => pixelsOf(b) - pixelsOf(a))) {
    const [original, ...others] = twins.originalsOf(proxy).filter(({ id }) => !originals.has(id))
    if (original && others.length === 0) originals.set(proxy.id, original.id)
  }
  return moving.flatMap(({ id }) => {
    const originalId = originals.get(id)
    return originalId === undefined ? [] : [{ originalId, proxyId: id }]
  })
}

const pixelsOf = ({ facts: { picture } }: ProxyCandidate): number => (picture ? picture.width * picture.height : 0)

/** Finds the files of which another is the small twin, without comparing each with each. */
export class TwinIndex<File extends ProxyCandidate> {
  readonly #bySpan: ReadonlyMap<string, readonly File[]>
  readonly #byName = new Map<string, ReadonlyMap<string, readonly File[]>>()
  readonly #suffixes: readonly string[]

  constructor(originals: readonly File[], suffixes: readonly string[]) {
    this.#bySpan = groupBy(originals, spanOf)
    this.#suffixes = suffixes
  }

  originalsOf(small: ProxyCandidate): File[] {
    const span = spanOf(small)
    const together = this.#bySpan.get(span) ?? []
    // Most files begin and end like no other: nothing has to be known of their names.
    if (together.every(({ id }) => id === small.id)) return []
    const byName = this.#byName.get(span) ?? groupBy(together, ({ path }) => normalName(stem(path)))
    this.#byName.set(span, byName)
    const own = normalName(stem(small.path))
    const shorter = Array.from({ length: longestOwnSuffix }, (_, cut) => own.slice(0, -1 - cut)).filter(Boolean)
    const stems = new Set([...possibleStems(small.path, this.#suffixes), ...shorter])
    return [...stems]
      .flatMap((name) => byName.get(name) ?? [])
      .filter((original) => original.id !== small.id && isSmallTwin(original, small, this.#suffixes))
  }
}

/** A file and its small twin share start and length, and the name of one begins with the other's. */
export const spanOf = ({ facts }: { readonly facts: MediaFacts | null }): string =>
  `${facts?.startFrame} ${facts?.picture?.frames}`

/** A separator, a letter, and five more. */
const longestOwnSuffix = 7

/** Whether one file is another's small twin: by name, rate, start, length, and a smaller raster. */
export function isSmallTwin(
  original: { readonly path: string; readonly facts: MediaFacts },
  small: { readonly path: string; readonly facts: MediaFacts },
  suffixes: readonly string[],
): boolean {
  const large = original.facts.picture as PictureFacts
  const little = small.facts.picture as PictureFacts
  return (
    little.width < large.width &&
    little.height < large.height &&
    sameRate(large.rate, little.rate) &&
    large.frames === little.frames &&
    original.facts.startFrame === small.facts.startFrame &&
    (compareNames(original.path, small.path, suffixes).kind !== 'different' ||
      (original.facts.startFrame !== null &&
        original.facts.startFrame > 0 &&
        carriesOwnSuffix(original.path, small.path)))
  )
}

/**
 * A camera's own suffix: a separator or not, a letter, and a few letters or digits more ("A001C001S03", "A001C001_low").
 * A counter that goes on ("C1" and "C10") is none.
 */
function carriesOwnSuffix(original: string, small: string): boolean {
  const [name, longer] = [normalName(stem(original)), normalName(stem(small))]
  return longer.startsWith(name) && /^[-_. ]?[a-z][a-z0-9]{0,5}$/.test(longer.slice(name.length))
}
