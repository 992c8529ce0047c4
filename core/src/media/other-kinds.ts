/** Files of one ending that are not read as media. */
export interface OtherKind {
  /** In lower case with its dot; empty for names without one. */
  readonly ending: string
  readonly files: number
  readonly bytes: number
}

/** Of notes, still lists and the like few are so large; picture and sound nearly all. */
const largeBytes = 5_000_000
/** Picture or sound by their ending, however small. */
const unreadMedia = new Set([
  ...['.wmv', '.asf', '.flv', '.f4v', '.gxf', '.ogv', '.ogg', '.oga', '.opus', '.wma', '.amr', '.eac3', '.mka'],
  ...['.gif', '.heic', '.heif', '.avif', '.tga', '.psb', '.svg', '.cr2', '.cr3', '.nef', '.arw'],
])
/** Large, and surely neither picture nor sound. */
const neverMedia = new Set(['.zip', '.tar', '.gz', '.tgz', '.7z', '.iso', '.dmg', '.pdf', '.exe', '.msi', '.pkg'])

/** Counts files that are not read as media by their endings. */
export class OtherKinds {
  private readonly kinds = new Map<string, { files: number; bytes: number }>()

  add(name: string, bytes: number): void {
    const dot = name.lastIndexOf('.')
    const ending = dot > 0 ? name.slice(dot).toLowerCase() : ''
    const kind = this.kinds.get(ending) ?? { files: 0, bytes: 0 }
    this.kinds.set(ending, { files: kind.files + 1, bytes: kind.bytes + bytes })
  }

  /** Those that by their ending or size may be picture or sound of a kind that is not read here, the largest first. */
  mayBeMedia(): OtherKind[] {
    return [...this.kinds]
      .map(([ending, kind]) => ({ ending, ...kind }))
      .filter(
        ({ ending, files, bytes }) =>
          unreadMedia.has(ending) || (bytes / files >= largeBytes && !neverMedia.has(ending)),
      )
      .sort((a, b) => b.bytes - a.bytes)
  }
}
