import type { Rate } from '../time/index.ts'

export type RecipeCodec = 'h264-intra' | 'dnxhr-lb' | 'prores-proxy'
export type RecipeContainer = 'mov' | 'mxf-op-atom'

export type RecipeSize =
  /** The original's own raster, with its pixels made square. */
  | { readonly kind: 'source' }
  /** The original's raster divided by a whole number. */
  | { readonly kind: 'divided'; readonly by: 2 | 4 | 8 }
  /** The whole picture inside the production's raster, padded where the shapes differ. */
  | { readonly kind: 'production' }

/** A reusable way of making files from originals. It never changes the rate. */
export interface Recipe {
  readonly id: string
  readonly name: string
  readonly version: number
  /** What the made files are for, in a sentence. */
  readonly purpose: string
  readonly pairKind: 'proxy' | 'optimized'
  readonly codec: RecipeCodec
  readonly container: RecipeContainer
  readonly size: RecipeSize
  /** Name of a viewing LUT that log originals pass through, or null for none. */
  readonly viewingLut: string | null
  /** Put between the original's stem and the extension. */
  readonly suffix: string
}

/** What a production asks of all its material. */
export interface ProductionFormat {
  readonly rate: Rate
  readonly width: number
  readonly height: number
}

/** The recipes that every production starts with. */
export const builtInRecipes: readonly Recipe[] = [
  {
    id: 'half-h264-intra',
    name: 'Half size, H.264 intra',
    version: 1,
    purpose: 'Light cutting copies for a laptop, one MOV a clip; every frame stands alone.',
    pairKind: 'proxy',
    codec: 'h264-intra',
    container: 'mov',
    size: { kind: 'divided', by: 2 },
    viewingLut: 'estuary-log-to-display',
    suffix: '_proxy',
  },
  {
    id: 'vc3-lb-op-atom',
    name: 'Source size, VC-3 LB, one file per essence',
    version: 1,
    purpose: 'For cutting rooms that want MXF OP-Atom: one file for the picture and one for each sound channel.',
    pairKind: 'proxy',
    codec: 'dnxhr-lb',
    container: 'mxf-op-atom',
    size: { kind: 'source' },
    viewingLut: 'estuary-log-to-display',
    suffix: '',
  },
  {
    id: 'production-prores-proxy',
    name: 'Production raster, ProRes Proxy',
    version: 1,
    purpose: 'Cutting copies at the size of the finish, one MOV a clip, the whole picture fitted and padded.',
    pairKind: 'proxy',
    codec: 'prores-proxy',
    container: 'mov',
    size: { kind: 'production' },
    viewingLut: 'estuary-log-to-display',
    suffix: '',
  },
]
