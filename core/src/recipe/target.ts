import type { CutFormatId } from '../cut/index.ts'
import {
  codecTraits,
  containerLabel,
  fixedRateRaster,
  type RecipeCodec,
  type RecipeContainer,
  recipeCodecs,
  recipeContainers,
} from './codec.ts'
import { usualQuality } from './quality.ts'
import { pairKindOf, type Recipe, type RecipePurpose, type RecipeSound } from './recipe.ts'

/**
 * The room that receives what is made: a cutting room, or a finishing one, described by what it takes. An empty list
 * takes everything.
 */
export interface Target {
  readonly name: string
  /** What it takes the files for. */
  readonly purpose: RecipePurpose
  readonly containers: readonly RecipeContainer[]
  readonly codecs: readonly RecipeCodec[]
  readonly sounds: readonly RecipeSound[]
  /** Most characters of a file's name without its ending; null for no limit of its own. */
  readonly longestName: number | null
  /** Whether names are to be of letters without accents, digits, "_" and "-" alone. */
  readonly isPlainNames: boolean
  /** Most characters of a reel. */
  readonly longestReel: number | null
  /** It looks into numbered folders of so many files at most; null where folders do not matter. */
  readonly filesInFolder: number | null
  /** The lists of cuts that it reads. */
  readonly lists: readonly CutFormatId[]
  /** How people there take the files in. */
  readonly bringIn: string
}

const open = {
  ...{ containers: [], codecs: [], sounds: [], longestName: null, isPlainNames: false, longestReel: null },
  ...{ filesInFolder: null, lists: [] },
} as const

/** Rooms to begin with: each is taken over and corrected. */
export const targetKinds: readonly Target[] = [
  {
    ...open,
    name: 'Cutting room with managed media',
    purpose: 'cutting, OP-Atom, one file per track',
    containers: ['mxf-op-atom'],
    codecs: ['vc3-lb', 'vc3-sq', 'vc3-hq', 'vc3-hd'],
    sounds: ['pcm 16', 'pcm 24', 'as source'],
    isPlainNames: true,
    longestName: 32,
    longestReel: 32,
    filesInFolder: 4000,
    lists: ['edl'],
    bringIn:
      'Put the numbered folder among the room’s managed media while its program is closed, then open the program: ' +
      'it takes stock of the folder by itself. Read the ALE for what the files cannot carry.',
  },
  {
    ...open,
    name: 'Cutting room that links to files',
    purpose: 'cutting, one file per clip',
    containers: ['mov', 'mxf-op1a'],
    lists: ['xmeml', 'otio'],
    bringIn: 'Put the folder where it is to stay and link to it there. Moved later, it has to be linked again.',
  },
  {
    ...open,
    name: 'Finishing room, from optimized copies',
    purpose: 'finishing',
    containers: ['mov', 'mkv'],
    codecs: ['prores-422', 'prores-hq', 'ffv1'],
    sounds: ['as source', 'pcm 24'],
    longestReel: 32,
    lists: ['otio', 'edl'],
    bringIn: 'Link by name and timecode to the folder, with the originals beside it for what is graded from them.',
  },
]

/** Whether a recipe makes what a target takes at all: proxies for a cutting room, copies for a finishing one. */
export const isMeantFor = (recipe: Pick<Recipe, 'purpose'>, target: Target): boolean =>
  pairKindOf(recipe) === pairKindOf(target)

const either = (words: readonly string[]): string =>
  words.length > 1 ? `${words.slice(0, -1).join(', ')} or ${words.at(-1)}` : (words[0] ?? '')

/** Why a target does not take what a recipe makes; empty where it does. */
export function targetTroubles(recipe: Omit<Recipe, 'id' | 'version'>, target: Target): string[] {
  const { containers, codecs, sounds, filesInFolder } = target
  const troubles: string[] = []
  const takes = <Word>(list: readonly Word[], word: Word, label: (word: Word) => string): void => {
    if (list.length && !list.includes(word))
      troubles.push(`It takes ${either(list.map(label))}; this makes ${label(word)}.`)
  }
  takes(containers, recipe.container, (each) => containerLabel[each])
  takes(codecs, recipe.codec, (each) => codecTraits[each].label)
  takes(sounds, recipe.sound, soundLabel)
  const { folders } = recipe
  const fill = folders.kind === 'numbered' ? folders.filesPerFolder : null
  if (filesInFolder !== null && (fill === null || fill > filesInFolder)) {
    const lays = fill === null ? 'lays files into the folders of the originals' : `fills each with ${fill}`
    troubles.push(`It looks into numbered folders of ${filesInFolder} files at most; this ${lays}.`)
  }
  return troubles
}

/** What a recipe's sound is called. */
export const soundLabel = (sound: RecipeSound): string =>
  ({
    'as source': 'PCM as deep as the source',
    'pcm 16': '16-bit PCM',
    'pcm 24': '24-bit PCM',
    compressed: 'compressed sound',
  })[sound]

/** A recipe changed as little as a target asks for: container, codec, sound and folders together. */
export function fitToTarget<Draft extends Omit<Recipe, 'id' | 'version'>>(recipe: Draft, target: Target): Draft {
  const isTaken = <Word>(list: readonly Word[], word: Word): boolean => list.length === 0 || list.includes(word)
  const carries = (codec: RecipeCodec, container: RecipeContainer): boolean =>
    codecTraits[codec].containers.includes(container)
  const taken = <Word>(own: Word, list: readonly Word[], all: readonly Word[]): Word[] =>
    [own, ...(list.length ? list : all)].filter((each) => isTaken(list, each))
  const codecs = taken(recipe.codec, target.codecs, recipeCodecs)
  const containers = taken(recipe.container, target.containers, recipeContainers)
  // The codec of the recipe is kept where any container that is taken carries it.
  const fitting = codecs.flatMap((codec) =>
    containers.filter((container) => carries(codec, container)).map((container) => ({ codec, container })),
  )
  const { codec, container } = fitting[0] ?? recipe
  const { filesInFolder } = target
  const sound = isTaken(target.sounds, recipe.sound) ? recipe.sound : (target.sounds[0] ?? recipe.sound)
  return {
    ...recipe,
    ...{ purpose: target.purpose, codec, container, sound },
    quality: codecTraits[codec].takesQuality ? recipe.quality : usualQuality,
    size: codec === 'vc3-hd' ? { kind: 'raster', ...fixedRateRaster } : recipe.size,
    folders:
      filesInFolder === null || (recipe.folders.kind === 'numbered' && recipe.folders.filesPerFolder <= filesInFolder)
        ? recipe.folders
        : { kind: 'numbered', root: 'managed media', filesPerFolder: filesInFolder },
  }
}

/** Why a target does not take a file of this name, without its ending; null where it does. */
export function targetNameTrouble(name: string, { longestName, isPlainNames }: Target): string | null {
  const characters = [...name].length
  if (longestName !== null && characters > longestName) return `${characters} characters, and ${longestName} are taken`
  const others = new Set(isPlainNames ? name.replace(/[A-Za-z0-9_-]/g, '') : '')
  if (others.size === 0) return null
  return `has ${[...others].map((each) => (each === ' ' ? 'a blank' : `“${each}”`)).join(', ')}`
}
