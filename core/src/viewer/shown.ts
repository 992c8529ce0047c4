import type { Presence } from '../pairing/verdict.ts'
import type { PairKind } from '../recipe/index.ts'

/** Which file of a clip is looked at. A choice for all of a production, from which a clip can be set apart. */
export const shownChoices = ['proxies first', 'proxies alone', 'originals'] as const
export type ShownChoice = (typeof shownChoices)[number]

/** One file of a clip that can be looked at: the original, or something that was made of it. */
export interface ShownCandidate {
  readonly kind: 'original' | PairKind
  readonly presence: Presence
}

/** The candidate that is looked at, or why none is. */
export type Shown<T> =
  | { readonly shown: T; readonly reason: string }
  | { readonly shown: null; readonly reason: string }

/**
 * Which file of a clip a choice shows. What the choice leaves out is never put in its place without a word: with
 * proxies alone, and with originals, an absent one is shown as absent.
 * @param candidates in the order of preference
 */
export function chooseShown<T extends ShownCandidate>(choice: ShownChoice, candidates: readonly T[]): Shown<T> {
  const isHere = ({ presence }: T): boolean => presence === 'here'
  const originals = candidates.filter(({ kind }) => kind === 'original')
  const proxies = candidates.filter(({ kind }) => kind === 'proxy')
  const [original, proxy] = [originals.find(isHere), proxies.find(isHere)]
  if (choice === 'originals')
    return original
      ? { shown: original, reason: 'originals are shown' }
      : { shown: null, reason: absence('original', originals) }
  if (proxy) return { shown: proxy, reason: choice === 'proxies alone' ? 'proxies alone are shown' : 'it has a proxy' }
  const without = proxies.length ? 'its proxy is not here' : 'it has no proxy'
  if (choice === 'proxies alone') return { shown: null, reason: absence('proxy', proxies) }
  return original
    ? { shown: original, reason: `${without}, so its original is shown` }
    : { shown: null, reason: `${without}, and its original is ${originals[0]?.presence ?? 'gone'}` }
}

function absence(what: 'original' | 'proxy', candidates: readonly ShownCandidate[]): string {
  const [first] = candidates
  if (!first) return `it has no ${what}`
  return first.presence === 'away' ? `its ${what} is on a volume that is away` : `the file of its ${what} is gone`
}
