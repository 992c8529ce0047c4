/** A reel in the form in which reels are compared: trimmed, upper case, Unicode NFC. */
export const reelKey = (reel: string): string => reel.normalize('NFC').trim().toUpperCase().normalize('NFC')

/** How many characters of a reel a list may keep (CMX3600). */
export const listedReelLength = 8

/** Reels as lists write them: case does not count, and a list may keep only the first eight characters. */
export function sameReel(a: string, b: string): boolean {
  const left = reelKey(a)
  const right = reelKey(b)
  if (left === right) return true
  const [short, long] = left.length < right.length ? [left, right] : [right, left]
  return short.length === listedReelLength && long.startsWith(short)
}

/** Whether a reel stands in the field of a CMX3600 list as it is: one word of up to eight characters. */
export const isListedReel = (reel: string): boolean => /^\S{1,8}$/.test(reel) && !isNoReel(reel)

/** Words that stand in that field where there is no reel: for what comes from no tape, and for black. */
export const isNoReel = (word: string): boolean => /^(AX|BL|BLACK|NONE)$/i.test(word.trim())
