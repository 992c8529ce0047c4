/**
 * Text from outside as it may be kept: half character pairs become "�", the zero character and other control characters
 * that no text holds are left out, and what is longer than anybody reads is cut. Tabs and line breaks stay.
 * @param most characters that are kept
 */
export function cleanText(text: string, most = 8000): string {
  const whole = isWellFormed(text) ? text : replaceHalves(text)
  // biome-ignore lint/suspicious/noControlCharactersInRegex: it is these that are left out
  const clean = whole.replace(/[\u0000-\u0008\u000B\u000C\u000E-\u001F\u007F]/g, '')
  return clean.length > most ? `${clean.slice(0, most - 1).replace(/[\uD800-\uDBFF]$/, '')}…` : clean
}

/** Whether every half of a character pair has its other half: without it a text does not come back as it was kept. */
export const isWellFormed = (text: string): boolean =>
  !/[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/.test(text)

const replaceHalves = (text: string): string =>
  text.replace(/[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g, '\uFFFD')

/** The same for every text in a value of plain data, keys included. */
export function cleanTexts<T>(value: T, most?: number): T {
  if (typeof value === 'string') return cleanText(value, most) as T
  if (Array.isArray(value)) return value.map((item) => cleanTexts(item, most)) as T
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(
    Object.entries(value).map(([key, item]) => [cleanText(key, most), cleanTexts(item, most)]),
  ) as T
}
