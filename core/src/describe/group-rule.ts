/** A shoot day and a camera as a folder name tells them: "day 3", "Day03", "2026-11-04", "CAM_B". */
export interface FolderGroup {
  readonly day: string | null
  readonly camera: string | null
}

/** Reads shoot day and camera from the folders above a file, the nearest first. */
export function groupFromFolders(path: string): FolderGroup {
  let day: string | null = null
  let camera: string | null = null
  for (const folder of path.split('/').slice(0, -1).reverse()) {
    day ??= dayOf(folder)
    camera ??= cameraOf(folder)
  }
  return { day, camera }
}

function dayOf(folder: string): string | null {
  const numbered = /(?:^|[^a-z])(?:shoot[ _-]?)?day[ _-]?0*(\d{1,3})(?:$|\D)/i.exec(folder)
  if (numbered) return `day ${numbered[1]}`
  const dated = /(?:^|\D)((?:19|20)\d{2})[-_.]?(0[1-9]|1[0-2])[-_.]?(0[1-9]|[12]\d|3[01])(?:$|\D)/.exec(folder)
  return dated ? `${dated[1]}-${dated[2]}-${dated[3]}` : null
}

const cameraOf = (folder: string): string | null =>
  /^(?:cam|camera)[ _-]?([a-z])(?:$|[ _-])/i.exec(folder)?.[1]?.toUpperCase() ?? null

/** A shoot day in the one way in which it is kept, so that "Day 03" and "day3" are one group; other words stay. */
export function normalDay(text: string): string {
  const words = text.trim()
  const isWhole =
    /^(?:shoot[ _-]?)?day[ _-]?\d{1,3}$/i.test(words) || /^(?:19|20)\d{2}[-_.]?\d{2}[-_.]?\d{2}$/.test(words)
  return (isWhole ? dayOf(words) : null) ?? words
}

/**
 * The camera that a reel's name begins with: "A001" is camera A's first, "B002C001" camera B's second.
 * Null for reels that are not named so.
 */
export const cameraOfReel = (reel: string): string | null => /^([A-Z])\d{3}(?:$|[^0-9])/.exec(reel)?.[1] ?? null
