import { fileName, normalPath } from '../naming/index.ts'
import type { Carried, CutEvent } from './model.ts'

/**
 * What a list keeps of its own for an event that is to show another file, without what speaks of the one that it showed.
 * @param name what the other file is called: a proxy may have its original's name, and lies elsewhere all the same
 */
export function carriedBeside({ carried, path, clipName }: CutEvent, name: string | null): { carried?: Carried } {
  if (!carried) return {}
  const names = [path === null ? null : fileName(normalPath(path)), clipName].filter((known) => known !== name)
  const places = path === null ? [] : [path, normalPath(path)]
  const others = [...names, ...places].filter((text): text is string => text !== null && text !== '')
  const isOther = (part: unknown): boolean => {
    const text = JSON.stringify(part)
    return others.some(
      (other) => text.includes(JSON.stringify(other).slice(1, -1)) || text.includes(encodeURIComponent(other)),
    )
  }
  const parts = Object.fromEntries(
    Object.entries(carried.parts).filter(([key, part]) => key !== 'ofMedia' && !isOther(part)),
  )
  return Object.keys(parts).length ? { carried: { ...carried, parts } } : {}
}
