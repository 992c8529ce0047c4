import { exactRate, type Rate } from '../time/index.ts'

/** What the encoder reads: one file, or the files that a list names, joined. */
export type EncodeInput =
  | { readonly kind: 'file'; readonly path: string; readonly beginsMicroseconds?: number | undefined }
  /** `isStills`: each file is one frame, which has no rate of its own. */
  | { readonly kind: 'list'; readonly path: string; readonly isStills: boolean }
  /** The tracks of one clip, each a file of its own: the picture if it has one, then a stream of sound in each. */
  | { readonly kind: 'tracks'; readonly paths: readonly string[]; readonly hasPicture: boolean }

/**
 * The containers and still formats that Ennick reads: anything that could point at other files or hosts is left out.
 */
export const readableFormats =
  'mov,mxf,matroska,wav,aiff,caf,flac,mp3,avi,dv,mpeg,mpegts,aac,ac3,w64,' +
  'png_pipe,jpeg_pipe,tiff_pipe,dpx_pipe,exr_pipe,bmp_pipe,webp_pipe,psd_pipe,j2k_pipe'

/** How many inputs of the encoder it is. */
export const inputCount = (input: EncodeInput): number => (input.kind === 'tracks' ? input.paths.length : 1)

/**
 * What the encoder calls a stream of its sound, the first is 0.
 * @param inputsBefore how many inputs it has before this one
 */
export const soundPad = (input: EncodeInput, stream: number, inputsBefore = 0): string =>
  input.kind === 'tracks' ? `${inputsBefore + stream + (input.hasPicture ? 1 : 0)}:a:0` : `${inputsBefore}:a:${stream}`

/** The encoder's words to begin at a moment of a file; none for its beginning. */
export const beginAt = (seconds: number): string[] => (seconds > 0 ? ['-ss', seconds.toFixed(6)] : [])

/**
 * The encoder's words for an input; nothing but files is ever opened. Its picture and its sound are counted from its
 * first frame: what a file has of sound before that is left out.
 * @param fromSeconds where it begins, from its first frame
 */
export function inputArguments(input: EncodeInput, rate: Rate, fromSeconds = 0): string[] {
  const begins = input.kind === 'file' ? (input.beginsMicroseconds ?? 0) / 1_000_000 : 0
  const only = [...beginAt(begins + fromSeconds), '-protocol_whitelist', 'file,pipe', '-format_whitelist']
  if (input.kind === 'file') return [...only, readableFormats, '-i', `file:${input.path}`]
  if (input.kind === 'tracks') return input.paths.flatMap((path) => [...only, readableFormats, '-i', `file:${path}`])
  // Large stills are opened by the reader of numbered files; the list tells it to take every name as it is.
  const formats = `${readableFormats},concat${input.isStills ? ',image2' : ''}`
  const timing = input.isStills ? ['-r', exactRate(rate)] : []
  // Its own word for “safe” would refuse that option; what the list may name is held by `inputList`.
  return [...only, formats, ...timing, '-f', 'concat', '-safe', '0', '-i', `file:${input.path}`]
}

/**
 * A list of files beside it as the encoder joins them. A line of the list may be an order to the decoder: names are of
 * our own making, and of nothing but letters, digits and a dot.
 * @param seconds how long each is taken to be, where its longest stream does not say it
 * @throws Error for any other name
 */
export function inputList(names: readonly string[], isStills: boolean, seconds: readonly string[] = []): string {
  for (const name of names)
    if (!/^[A-Za-z0-9]+(\.[A-Za-z0-9]+)?$/.test(name)) throw new Error(`“${name}” is no name for a list.`)
  const lines = names.flatMap((name, index) => [
    ...[`file ${name}`, ...(isStills ? ['option pattern_type none'] : [])],
    ...(seconds[index] === undefined ? [] : [`duration ${seconds[index]}`]),
  ])
  return ['ffconcat version 1.0', ...lines, ''].join('\n')
}
