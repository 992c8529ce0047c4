/** Words by which programs keep a reel in metadata of their own, whatever their case and separators. */
const reelWords = new Set(['reel', 'reelname', 'reelnumber', 'tape', 'tapename', 'sourcetape'])

/** Whether the name of a value says that it is a reel. */
export const meansReel = (word: string): boolean => reelWords.has(word.toLowerCase().replace(/[ _-]/g, ''))
