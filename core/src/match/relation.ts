import { normalName, normalPath, restBelow, stem } from '../naming/index.ts'

/**
 * How a file relates to what it is taken for: the same rule may lead from others to theirs. It holds for another when
 * all of its parts do.
 */
export interface Relation {
  /** One folder stands in place of another. */
  readonly moved: { readonly was: string; readonly is: string } | null
  /** It lies in this folder or below it, wherever it was. */
  readonly place: { readonly folder: string; readonly isBelow: boolean } | null
  /** Its name is made from the one that it had; null when it has that name, or none is known. */
  readonly renamed: NameRule | null
}

/** What stands in a name, without its extension, in place of something else: nothing where either is empty. */
export interface NameRule {
  readonly where: 'in front' | 'at the end' | 'within'
  readonly was: string
  readonly is: string
  /** With its dot; null when it stays. */
  readonly extension: { readonly was: string; readonly is: string } | null
}

/**
 * The relations by which a file may have been taken for something, the tightest first; none when nothing regular leads
 * from one to the other.
 * @param known the path that it had, or no more than its name; null when neither is known
 * @param rivals the paths of the other files that might have been taken
 */
export function relationsOf(known: string | null, path: string, rivals: readonly string[] = []): Relation[] {
  const is = split(path)
  const was = known === null ? null : split(known)
  const renamed = was && !sameName(was.name, is.name) ? nameRule(was.name, is.name) : null
  if (renamed === undefined) return []
  const relations: Relation[] = []
  if (was?.folder) relations.push({ moved: movedFolder(was.folder, is.folder), place: null, renamed })
  const place = branchOf(is, rivals.map(split))
  if (place || renamed) relations.push({ moved: null, place, renamed })
  return relations
}

/** Whether a relation leads from what was known of one thing to a file. */
export function relationHolds({ moved, place, renamed }: Relation, known: string | null, path: string): boolean {
  const is = split(path)
  const was = known === null ? null : split(known)
  if (place && (place.isBelow ? restBelow(is.folder, place.folder) === undefined : !sameText(is.folder, place.folder)))
    return false
  if (moved) {
    const rest = was?.folder ? restBelow(was.folder, moved.was) : undefined
    if (rest === undefined || !sameText(`${moved.is}${rest}`, is.folder)) return false
  }
  if (!renamed) return was === null || sameName(was.name, is.name)
  const name = was && applyRule(renamed, was.name)
  return name !== null && sameName(name, is.name)
}

/** A relation as people read it. */
export function describeRelation({ moved, place, renamed }: Relation): string {
  const isAtHome = moved !== null && sameText(moved.was, moved.is)
  const parts = [
    isAtHome && !renamed ? 'where it was' : '',
    moved && !isAtHome ? `${moved.was || '/'} → ${moved.is || '/'}` : '',
    place ? `${place.isBelow ? 'below' : 'in'} ${place.folder || '/'}` : '',
    ...(renamed ? describeRule(renamed) : []),
  ]
  return parts.filter(Boolean).join(', ')
}

function describeRule({ where, was, is, extension }: NameRule): string[] {
  const place = where === 'within' ? '' : ` ${where}`
  const name =
    was === ''
      ? `names with “${is}”${place}`
      : is === ''
        ? `names without “${was}”${place}`
        : `names with “${is}” for “${was}”${place}`
  return [was || is ? name : '', extension ? `${extension.is} for ${extension.was}` : ''].filter(Boolean)
}

interface SplitPath {
  readonly folder: string
  readonly name: string
}

function split(path: string): SplitPath {
  const normal = normalPath(path)
  const slash = normal.lastIndexOf('/')
  return { folder: normal.slice(0, Math.max(0, slash)), name: normal.slice(slash + 1) }
}

const sameText = (a: string, b: string): boolean => normalName(a) === normalName(b)

/** Whether two names are one; lists leave extensions out. */
function sameName(a: string, b: string): boolean {
  const [left, right] = [splitName(a), splitName(b)]
  return (
    sameText(left.base, right.base) &&
    (left.extension === '' || right.extension === '' || sameText(left.extension, right.extension))
  )
}

/** Two folders without the tail that they share. */
function movedFolder(from: string, to: string): { was: string; is: string } {
  const was = from.split('/')
  const is = to.split('/')
  while (was.at(-1) && is.at(-1) && sameText(was.at(-1) as string, is.at(-1) as string)) {
    was.pop()
    is.pop()
  }
  // What lies where it lay has not moved: all of its folder is kept, so that a neighbour must lie there too.
  if (was.length <= 1 && is.length <= 1) return { was: from, is: to }
  return { was: was.join('/'), is: is.join('/') }
}

/** The folder that holds a file and no rival of it, as far up as that goes; null when they lie in one. */
function branchOf(file: SplitPath, rivals: readonly SplitPath[]): Relation['place'] {
  const parts = file.folder.split('/')
  let shared = 0
  for (const rival of rivals) {
    const others = rival.folder.split('/')
    let same = 0
    while (same < parts.length && same < others.length && sameText(parts[same] as string, others[same] as string))
      same++
    shared = Math.max(shared, same)
  }
  if (rivals.length === 0) return { folder: file.folder, isBelow: true }
  if (shared < parts.length) return { folder: parts.slice(0, shared + 1).join('/'), isBelow: true }
  return rivals.some(({ folder }) => sameText(folder, file.folder)) ? null : { folder: file.folder, isBelow: false }
}

/** The rule that makes one name of another; undefined when there is none that could hold for others. */
function nameRule(from: string, to: string): NameRule | undefined {
  const was = splitName(from)
  const is = splitName(to)
  const isOther = was.extension && is.extension && !sameText(was.extension, is.extension)
  const extension = isOther ? { was: was.extension, is: is.extension } : null
  const [left, right] = [[...was.base], [...is.base]]
  const most = Math.min(left.length, right.length)
  const same = (a: string | undefined, b: string | undefined): boolean =>
    a !== undefined && b !== undefined && sameText(a, b)
  let front = 0
  while (front < most && same(left[front], right[front])) front++
  let back = 0
  while (back < most - front && same(left.at(-1 - back), right.at(-1 - back))) back++
  const removed = left.slice(front, left.length - back).join('')
  const put = right.slice(front, right.length - back).join('')
  const isSame = removed === '' && put === ''
  // What has little in common was named anew: that both end in a “2” is chance.
  if ((front + back) * 2 < most && !isSame) return undefined
  const where = back === 0 ? 'at the end' : front === 0 ? 'in front' : 'within'
  // A number in the middle that became another counts clips; it is no rule.
  if (where === 'within' && !isSame && (removed === '' || /\d/.test(removed + put))) return undefined
  const rule: NameRule = { where, was: removed, is: put, extension }
  const made = applyRule(rule, from)
  return made !== null && sameName(made, to) ? rule : undefined
}

/** The name that a rule makes of another; null when it has no say there. */
function applyRule({ where, was, is, extension }: NameRule, name: string): string | null {
  const { base, extension: had } = splitName(name)
  if (extension && !sameText(had, extension.was)) return null
  const end = extension ? extension.is : had
  if (where === 'at the end')
    return sameText(base.slice(base.length - was.length), was)
      ? `${base.slice(0, base.length - was.length)}${is}${end}`
      : null
  if (where === 'in front')
    return sameText(base.slice(0, was.length), was) ? `${is}${base.slice(was.length)}${end}` : null
  const parts = base.split(was)
  return parts.length === 2 ? `${parts.join(is)}${end}` : null
}

function splitName(name: string): { base: string; extension: string } {
  const composed = name.normalize('NFC')
  const base = stem(composed)
  return { base, extension: composed.slice(base.length) }
}
