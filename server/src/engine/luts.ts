import { fileURLToPath } from 'node:url'

const library: Readonly<Record<string, string>> = { 'estuary-log-to-display': '../../luts/estuary-log-to-display.cube' }

/** The typeface that is burnt in; the launcher installs it. */
export const fontPath = '/usr/share/fonts/truetype/dejavu/DejaVuSansMono.ttf'

/** Where a viewing LUT of the library lies; null when there is none of that name. */
export function lutPath(name: string | null): string | null {
  const file = name === null ? undefined : library[name]
  return file === undefined ? null : fileURLToPath(new URL(file, import.meta.url))
}
