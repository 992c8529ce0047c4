import { compareNames, normalName, possibleStems, stem } from '../naming/index.ts'
import { sameRate } from '../time/index.ts'
import type { MediaFacts, PictureFacts } from './facts.ts'

export interface ProxyCandidate {
  readonly id: string
  readonly path: string
  readonly facts: MediaFacts
}

/** A small recording that a camera made beside a large one: both begin and end together, and one is named after the other. */
export interface CameraProxyOffer {
  readonly originalId: string
  readonly proxyId: string
}

/**
 * Finds, among the files of a volume, the cameras' own proxies. Names must agree by the naming rule; rate, start and
 * frame count must be equal and the raster smaller on both sides. Where two large files fit one small one, none is offered.
 */
export function findCameraProxies(files: readonly ProxyCandidate[], suffixes: readonly string[]): CameraProxyOffer[] {
  const moving = files.filter((file) => file.facts.kind === 'picture' && file.facts.picture)
  const byStem = new Map<string, ProxyCandidate[]>()
  for (const file of moving) {
    const key = normalName(stem(file.path))
    byStem.set(key, [...(byStem.get(key) ?? []), file])
  }
  const offers: CameraProxyOffer[] = []
  for (const proxy of moving) {
    const originals = new Set(possibleStems(proxy.path, suffixes).flatMap((key) => byStem.get(key) ?? []))
    const fitting = [...originals].filter((original) => original.id !== proxy.id && isSmallTwin(original, proxy, suffixes))
    if (fitting.length === 1) offers.push({ originalId: (fitting[0] as ProxyCandidate).id, proxyId: proxy.id })
  }
  // The middle of three sizes would be proxy and original at once: what is offered as a proxy is nobody's original.
  const proxies = new Set(offers.map((offer) => offer.proxyId))
  return offers.filter((offer) => !proxies.has(offer.originalId))
}

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
    compareNames(original.path, small.path, suffixes).kind !== 'different'
  )
}
