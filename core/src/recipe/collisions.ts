import { normalName } from '../naming/index.ts'

/** What a clip would be made into, as paths below the production's place. */
export interface PlannedItem {
  readonly clipId: string
  readonly name: string
  readonly outputs: readonly string[]
}

/**
 * Finds items whose files would have one name, also where a system tells neither case nor Unicode forms apart. The
 * first keeps its name.
 * @param taken names that are there already, with words for whose they are; those of the clip itself do not count
 * @returns why a clip cannot be made as named, by clip
 */
export function findCollisions(
  items: readonly PlannedItem[],
  taken: ReadonlyMap<string, { readonly clipId: string; readonly name: string }>,
): ReadonlyMap<string, string> {
  const owners = new Map<string, { readonly clipId: string; readonly name: string; readonly path: string }>()
  for (const [path, owner] of taken) owners.set(normalName(path), { ...owner, path })
  const found = new Map<string, string>()
  for (const item of items) {
    const rival = item.outputs
      .map((path) => ({ path, owner: owners.get(normalName(path)) }))
      .find(({ owner }) => owner && owner.clipId !== item.clipId)
    if (rival?.owner) {
      const how = rival.owner.path === rival.path ? '' : ', where case and accents are not told apart'
      found.set(
        item.clipId,
        `it would be called ${fileName(rival.path)} like ${rival.owner.name}${how}: change the name pattern or the folders`,
      )
      continue
    }
    for (const path of item.outputs) owners.set(normalName(path), { clipId: item.clipId, name: item.name, path })
  }
  return found
}

const fileName = (path: string): string => path.slice(path.lastIndexOf('/') + 1)
