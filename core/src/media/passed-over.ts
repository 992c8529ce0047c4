/**
 * The stated rule for files and folders that a scan passes over without a word: names that start with a dot,
 * the folders that operating systems keep for themselves, and Ennick's own unfinished and set-aside files.
 */
export function isPassedOver(name: string): boolean {
  return name.startsWith('.') || systemNames.has(name.toLowerCase()) || isOwnByName(name)
}

/** Whether a name is one that Ennick itself writes for what is unfinished, set aside, or its own note of a place. */
export const isOwnByName = (name: string): boolean => name.endsWith('.ennick-part') || name.startsWith('.ennick-')

/** The file that says of its folder that an Ennick keeps its own data there; older ones have their secret alone. */
export const dataFolderMark = '.ennick-data'
export const marksDataFolder = (name: string): boolean => name === dataFolderMark || name === 'database-secret'

const systemNames = new Set(['$recycle.bin', 'system volume information', 'lost+found', 'thumbs.db', 'desktop.ini'])

const mediaExtensions = new Set([
  ...['mov', 'mp4', 'm4v', '3gp', 'mxf', 'mkv', 'webm', 'avi', 'mts', 'm2ts', 'm2t', 'ts', 'mpg', 'mpeg', 'vob', 'dv'],
  ...['wav', 'bwf', 'rf64', 'w64', 'aif', 'aiff', 'caf', 'flac', 'mp3', 'm4a', 'aac', 'ac3'],
  ...['png', 'jpg', 'jpeg', 'tif', 'tiff', 'dpx', 'exr', 'dng', 'bmp', 'webp', 'psd', 'jp2', 'j2k'],
])

/** Whether a name claims to be media; everything else is counted and listed as other. */
export function claimsToBeMedia(name: string): boolean {
  const dot = name.lastIndexOf('.')
  return dot > 0 && mediaExtensions.has(name.slice(dot + 1).toLowerCase())
}
