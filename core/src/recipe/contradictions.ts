import { PatternError } from '../describe/index.ts'
import { codecTraits, containerExtension, containerLabel, fixedRateRaster, type RecipeCodec } from './codec.ts'
import { folderTrouble } from './made-folder.ts'
import { madeBase, nameTrouble, sourceName } from './made-name.ts'
import { isUsual } from './quality.ts'
import { isStretching, type Recipe } from './recipe.ts'
import { isAsSource } from './tracks.ts'

/** What is wrong with a recipe: an error makes it useless for its purpose, a warning is worth a second look. */
export interface Contradiction {
  readonly level: 'error' | 'warning'
  readonly message: string
}

const lightCodecs: ReadonlySet<RecipeCodec> = new Set([
  'h264-intra',
  'h264-long',
  'vc3-lb',
  'vc3-hd',
  'prores-proxy',
  'mjpeg',
  'vp9',
])

const error = (message: string): Contradiction => ({ level: 'error', message })
const warning = (message: string): Contradiction => ({ level: 'warning', message })

/** What in a recipe contradicts itself or its purpose; the reasons are for people. Errors first. */
export function contradictions(recipe: Recipe): Contradiction[] {
  return [...carriage(recipe), ...identity(recipe), ...shape(recipe), ...sound(recipe), ...purposes(recipe)].sort(
    (a, b) => Number(a.level === 'warning') - Number(b.level === 'warning'),
  )
}

function carriage({ codec, container, quality }: Recipe): Contradiction[] {
  const { label, containers, takesQuality } = codecTraits[codec]
  const list = containers.map((other) => containerLabel[other]).join(', ')
  return [
    ...(containers.includes(container)
      ? []
      : [error(`${containerLabel[container]} does not carry ${label} here: choose ${list}.`)]),
    ...(takesQuality || isUsual(quality) ? [] : [error(`${label} has one quality: leave it at the usual one.`)]),
  ]
}

function identity({ name, about, suffix, namePattern, folders, purpose }: Recipe): Contradiction[] {
  const found: Contradiction[] = []
  if (name.trim() === '') found.push(error('It needs a name.'))
  if (about.trim() === '') found.push(warning('Say what it is for: whoever chooses a recipe at night will read it.'))
  if (/[\\/:*?"<>|\p{Cc}]/u.test(suffix))
    found.push(error('The suffix has a character that file names on some systems may not have.'))
  if (/[. ]$/.test(suffix)) found.push(error('The suffix ends in a point or a blank, which some systems take away.'))
  found.push(...pattern(namePattern, suffix))
  const trouble = folderTrouble(folders)
  if (trouble) found.push(error(trouble))
  if (namePattern !== sourceName && purpose.startsWith('cutting'))
    found.push(
      warning(
        'Names differ from the originals: a program that links by name will not find them. Timecode and reel still agree.',
      ),
    )
  return found
}

function pattern(namePattern: string, suffix: string): Contradiction[] {
  // A field's own value is made legal when it is filled in: here the words around the fields count.
  const each = { source: 'a', reel: 'a', scene: 'a', take: 'a', day: 'a', camera: 'a', production: 'a' }
  try {
    const trouble = nameTrouble(`${madeBase(namePattern, each, 0)}${suffix || 'a'}`)
    return trouble ? [error(`Not every system could hold a file of this name: ${trouble}.`)] : []
  } catch (reason) {
    if (reason instanceof PatternError) return [error(reason.message)]
    throw reason
  }
}

function shape(recipe: Recipe): Contradiction[] {
  const { size, codec, container, pixels, fit, purpose } = recipe
  const found: Contradiction[] = []
  if (size.kind === 'raster' && (size.width % 2 !== 0 || size.height % 2 !== 0))
    found.push(error('Width and height must be even: the colour of two pixels is kept as one.'))
  if (size.kind === 'raster' && (size.width < 64 || size.height < 64 || size.width > 8192 || size.height > 8192))
    found.push(error('Width and height must lie between 64 and 8192.'))
  const isFixed =
    size.kind === 'raster' && size.width === fixedRateRaster.width && size.height === fixedRateRaster.height
  if (codec === 'vc3-hd' && !isFixed && size.kind !== 'production')
    found.push(error('The fixed-rate kind has one raster, 1920 × 1080: set the size to it.'))
  if (pixels === 'kept') {
    if (size.kind === 'production' || size.kind === 'raster')
      found.push(error('Anamorphic pixels can be kept only with the original’s raster or a part of it.'))
    if (container === 'mxf-op1a' || container === 'mxf-op-atom')
      found.push(error('MXF loses the pixel aspect of anamorphic pictures here: make them square, or choose MOV.'))
  }
  if (fit === 'crop' && (size.kind === 'production' || size.kind === 'raster'))
    found.push(
      warning('Pictures of another shape are cut off at their edges: framing can no longer be judged by them.'),
    )
  if (isStretching(recipe)) {
    const distorted = 'Pictures of another shape are distorted'
    found.push(
      purpose.startsWith('cutting') || purpose === 'finishing'
        ? error(
            `${distorted}: what is framed or repositioned by them will not fit the originals. Pad them, or cut them off.`,
          )
        : warning(`${distorted}: nobody sees what the camera saw.`),
    )
  }
  return found
}

function sound(recipe: Recipe): Contradiction[] {
  return [...soundCarriage(recipe), ...layout(recipe)]
}

function layout({ tracks, purpose }: Recipe): Contradiction[] {
  if (tracks.keep?.length === 0) return [error('No channel is kept. Keep one at least, or all of them.')]
  return isAsSource(tracks) || !purpose.startsWith('cutting')
    ? []
    : [
        warning(
          'The sound is laid out otherwise than in the originals: some cutting rooms refuse to link such copies back.',
        ),
      ]
}

function soundCarriage({ sound: kind, container, purpose }: Recipe): Contradiction[] {
  const takesPcm = container !== 'mp4' && container !== 'webm'
  if (kind !== 'compressed')
    return takesPcm ? [] : [error(`${containerLabel[container]} carries no PCM: choose compressed sound, or MOV.`)]
  if (container === 'mxf-op1a' || container === 'mxf-op-atom')
    return [error('MXF for cutting carries PCM: choose 16 or 24 bit.')]
  return purpose.startsWith('cutting') || purpose === 'finishing' || purpose === 'cinema deliverable'
    ? [warning('Compressed sound is as long as its packets: for cutting and finishing PCM is exact.')]
    : []
}

function purposes(recipe: Recipe): Contradiction[] {
  const { purpose, container, codec, burnIn, viewingLut, size } = recipe
  const { isIntra, label } = codecTraits[codec]
  const found: Contradiction[] = []
  const wants = (right: boolean, message: string): void => {
    if (!right) found.push(error(message))
  }
  switch (purpose) {
    case 'cutting, OP-Atom, one file per track':
      wants(
        container === 'mxf-op-atom',
        `Rooms that keep one essence per file want MXF OP-Atom. ${containerLabel[container]} holds picture and sound together: they would have to be taken apart again.`,
      )
      break
    case 'cutting, one file per clip':
      wants(container !== 'mxf-op-atom', 'OP-Atom takes every clip apart into several files: choose MOV or MXF OP1a.')
      break
    case 'review':
    case 'web deliverable':
      wants(
        container === 'mp4' || container === 'webm',
        `Browsers play MP4 and WebM; ${containerExtension[container]} has to be downloaded first.`,
      )
      break
    case 'finishing':
    case 'cinema deliverable':
      wants(burnIn === null, 'What is burnt into the picture stays in the finish.')
      wants(viewingLut === null, 'A burnt-in LUT takes the range away that finishing works with.')
      if (purpose === 'finishing' && size.kind !== 'source')
        found.push(warning('The raster of the original is given up.'))
      if (lightCodecs.has(codec)) found.push(warning(`${label} is made for cutting and viewing, not for a finish.`))
  }
  if (purpose.startsWith('cutting') && !isIntra)
    found.push(warning(`${label} keeps only what changes from frame to frame: cutting and scrubbing will be slow.`))
  if (purpose === 'web deliverable' && burnIn)
    found.push(warning('Something is burnt into what the audience will see.'))
  return found
}
