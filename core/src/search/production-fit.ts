import { formatRate, type Rate, sameRate } from '../time/index.ts'
import type { Condition } from './condition.ts'

/** Clips that came in alike; what a clip does not say is null, or empty words. */
export interface AlikeClips {
  readonly kind: 'picture' | 'sound' | 'still'
  readonly rate: Rate | null
  readonly width: number | null
  readonly height: number | null
  /** "square", or as "2:1". */
  readonly pixelAspect: string
  readonly scan: string
  readonly colour: string
  readonly sampleRate: number | null
  readonly clips: number
}

/** One value of a property: how many clips have it, and what that means for the production. */
export interface FitValue {
  readonly value: string
  readonly clips: number
  /** Null where it fits, or where the production asks for nothing. */
  readonly trouble: string | null
  /** The search that finds these clips. */
  readonly condition: Condition
}

export interface FitProperty {
  readonly property: string
  /** What the production asks for; null for nothing. */
  readonly wanted: string | null
  /** The most frequent first. */
  readonly values: FitValue[]
}

/** What a production is finished in. */
interface Finish {
  readonly rate: Rate
  readonly width: number
  readonly height: number
}

/** Does what came fit the production? Property by property, with every value that came and what it means. */
export function productionFit(finish: Finish, came: readonly AlikeClips[]): FitProperty[] {
  const pictures = came.filter(({ kind }) => kind === 'picture')
  const moving = (field: string, value: string): Condition => ({
    all: [{ field: 'kind', operator: 'is', value: 'picture' }, termOf(field, value)],
  })
  const table: (FitProperty | null)[] = [
    count('Rate', formatRate(finish.rate), pictures, ({ rate }) =>
      rate === null
        ? null
        : {
            value: formatRate(rate),
            trouble: sameRate(rate, finish.rate) ? null : rateTrouble,
            condition: moving('rate', formatRate(rate)),
          },
    ),
    count('Raster', `${finish.width}×${finish.height}`, pictures, (clip) =>
      clip.width === null || clip.height === null
        ? null
        : {
            value: `${clip.width}×${clip.height}`,
            trouble: rasterTrouble(finish, clip.width, clip.height, clip.pixelAspect),
            condition: moving('raster', `${clip.width}×${clip.height}`),
          },
    ),
    count('Pixel aspect', 'square', pictures, ({ pixelAspect }) => ({
      value: pixelAspect,
      trouble: pixelAspect === 'square' ? null : 'anamorphic: shown stretched, or squeezed by what does not know it',
      condition: moving('squeeze', pixelAspect),
    })),
    count('Scan', null, pictures, ({ scan }) => ({
      value: scan || 'not said',
      trouble: scan === '' || scan === 'progressive' ? null : 'interlaced',
      condition: moving('scan', scan),
    })),
    count('Colour', null, pictures, ({ colour }) => ({
      value: colour || 'not tagged',
      trouble: null,
      condition: moving('colour', colour || 'not tagged'),
    })),
    count('Sample rate', '48 kHz', came, ({ sampleRate }) =>
      sampleRate === null
        ? null
        : {
            value: `${sampleRate / 1000} kHz`,
            trouble: sampleRate === 48_000 ? null : 'other than the 48 kHz of finishing',
            condition: termOf('sampleRate', String(sampleRate)),
          },
    ),
  ]
  return table.filter((row): row is FitProperty => row !== null && row.values.length > 0)
}

const rateTrouble = 'its frames are not the production’s: every use is converted'

const termOf = (field: string, value: string): Condition =>
  value === '' ? { field, operator: 'empty' } : { field, operator: 'is', value }

function count(
  property: string,
  wanted: string | null,
  came: readonly AlikeClips[],
  tell: (clip: AlikeClips) => Omit<FitValue, 'clips'> | null,
): FitProperty {
  const values = new Map<string, FitValue>()
  for (const group of came) {
    const value = tell(group)
    if (!value) continue
    // One raster may fit by one pixel aspect and not by another.
    const key = `${value.value} ${value.trouble}`
    values.set(key, { ...value, clips: (values.get(key)?.clips ?? 0) + group.clips })
  }
  return { property, wanted, values: [...values.values()].sort((a, b) => b.clips - a.clips) }
}

/** By the shape in which it is shown; a shape that is within half a percent fills the frame. */
function rasterTrouble(finish: Finish, width: number, height: number, pixelAspect: string): string | null {
  const [across = 1, down = 1] = /^\d+:\d+$/.test(pixelAspect) ? pixelAspect.split(':').map(Number) : []
  const shown = { width: (width * across) / down, height }
  const shape = shown.width / shown.height / (finish.width / finish.height)
  if (Math.abs(shape - 1) > 0.005) return `another shape: ${shape > 1 ? 'letterbox' : 'pillarbox'}, or cut off`
  if (height === finish.height) return null
  return height > finish.height ? null : 'smaller: it is enlarged'
}
