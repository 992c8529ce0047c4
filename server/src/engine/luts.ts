import { fileURLToPath } from 'node:url'

/** The viewing LUT that every library starts with. */
export const builtInLut = {
  id: 'estuary-log-to-display',
  name: 'Estuary log to display',
  group: 'Built in',
  kind: '3D',
  size: 33,
} as const
export const builtInLutPath = fileURLToPath(new URL('../../luts/estuary-log-to-display.cube', import.meta.url))

/** The typeface that is burnt in; the launcher installs it. */
export const fontPath = '/usr/share/fonts/truetype/dejavu/DejaVuSansMono.ttf'
