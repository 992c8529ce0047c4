/**
 * The stated rule for files and folders that a scan passes over without a word: names that start with a dot,
 * the folders that operating systems keep for themselves, and Ennick's own unfinished and set-aside files.
 */
export function isPassedOver(name: string): boolean {
  return name.startsWith('.') || systemNames.has(name.toLowerCase()) || name.endsWith('.ennick-part')
}

const systemNames = new Set(['$recycle.bin', 'system volume information', 'lost+found', 'thumbs.db', 'desktop.ini'])

const mediaExtensions = new Set(
  'mov mp4 m4v mxf mkv webm avi mts m2ts mpg wav bwf rf64 aif aiff flac mp3 m4a aac png jpg jpeg tif tiff dpx exr dng'.split(
    ' ',
  ),
)

/** Whether a name claims to be media; everything else is counted and listed as other. */
export function claimsToBeMedia(name: string): boolean {
  const dot = name.lastIndexOf('.')
  return dot > 0 && mediaExtensions.has(name.slice(dot + 1).toLowerCase())
}
