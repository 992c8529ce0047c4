/** The part of a path of any system, as lists write them, after the last separator of either kind. */
export function baseName(path: string): string {
  return path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1)
}

/** The name of a file of this system, where "\\" is a letter like any other. */
export const fileName = (path: string): string => path.slice(path.lastIndexOf('/') + 1)

/**
 * A file's name without its extension; a leading dot is part of the name. What is a path of another system is cut by
 * `baseName` first. An extension is one short word with a letter in it: "12.3 WIDE" and "take 1.2" have none.
 */
export function stem(name: string): string {
  const base = fileName(name)
  const dot = base.lastIndexOf('.')
  return dot > 0 && extension.test(base.slice(dot + 1)) ? base.slice(0, dot) : base
}

const extension = /^(?=.*[A-Za-z])[A-Za-z0-9]{1,8}$/

/** The form in which names are compared: Unicode NFC and case-folded, so that systems that differ in both agree. */
export const normalName = (name: string): string => name.normalize('NFC').toLowerCase()

/** Suffixes that a proxy's stem may carry beside its original's, unless the production says otherwise. */
export const defaultProxySuffixes: readonly string[] = ['_proxy', '-proxy', ' proxy', '_prx', '_small']

export type NameAgreement =
  | { readonly kind: 'same' }
  | { readonly kind: 'same-after-suffix'; readonly suffix: string }
  | { readonly kind: 'different' }

/**
 * Compares two file names by the naming rule: equal stems, or stems equal once a declared suffix is taken off.
 * A stem that merely begins with another (…1 and …10) is different.
 */
export function compareNames(
  original: string,
  other: string,
  suffixes: readonly string[] = defaultProxySuffixes,
): NameAgreement {
  const a = normalName(stem(original))
  const b = normalName(stem(other))
  if (a === b) return { kind: 'same' }
  for (const suffix of suffixes) {
    const end = normalName(suffix)
    if (end && (b === a + end || a === b + end)) return { kind: 'same-after-suffix', suffix }
  }
  return { kind: 'different' }
}

/** Every normal stem that a name may stand for: its own, and its own with a declared suffix taken off. */
export function possibleStems(name: string, suffixes: readonly string[] = defaultProxySuffixes): string[] {
  const own = normalName(stem(name))
  const stems = [own]
  for (const suffix of suffixes) {
    const end = normalName(suffix)
    if (end && own.endsWith(end) && own.length > end.length) stems.push(own.slice(0, -end.length))
  }
  return stems
}
