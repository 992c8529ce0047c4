import { basename, relative, sep } from 'node:path'
import {
  compareText,
  type EncodePlan,
  type EvidenceRow,
  type LutFile,
  type PairKind,
  pairKindOf,
  type Recipe,
} from '@ennick/core'
import type { HeldFolder } from '../disk/held-folder.ts'
import { holdPlace } from '../disk/marker.ts'
import { explainFileError } from '../errors.ts'
import type { DescribedFile } from '../intake/describe-file.ts'
import { JobFailure } from '../queue/failure.ts'
import type { KnownClip, Material, VolumeRow } from '../store/known-material.ts'

/** A recipe in a version, and the clip's number among those of the recipe. */
export interface MakeChoice {
  readonly recipeId: string
  readonly recipeVersion?: number
  readonly index?: number
}

export type MakeInput = MakeChoice & {
  readonly clipId: string
  readonly mendId: string | null
  /** What is made besides, from the same reading of the original. */
  readonly also?: readonly MakeChoice[]
}

/** One item that is to be made: where its files go, and under which names they are written first. */
export interface MakeOrder {
  readonly recipe: Recipe
  readonly plan: EncodePlan
  readonly lut: LutFile | null
  readonly place: VolumeRow
  /** Held from before the first byte until the files have their names. */
  readonly folder: HeldFolder
  readonly finalPaths: readonly string[]
  readonly partPaths: readonly string[]
}

/**
 * By which path the unfinished files of an order are written and read: in the held folder, whatever becomes of its
 * name.
 */
export const openPaths = ({ folder, partPaths }: Pick<MakeOrder, 'folder' | 'partPaths'>): string[] =>
  partPaths.map((path) => folder.at(basename(path)))

/** A file of a made item, verified under its temporary name. */
export interface VerifiedFile {
  readonly partPath: string
  readonly finalPath: string
  readonly part: 'whole' | 'picture' | 'sound'
  readonly described: DescribedFile
}

export interface Verified {
  readonly material: Material
  readonly clip: KnownClip
  readonly recipe: Recipe
  readonly plan: EncodePlan
  readonly place: VolumeRow
  readonly files: readonly VerifiedFile[]
  readonly checks: EvidenceRow[]
  readonly proof: EvidenceRow[]
}

/** Every place of what is made of a production, the main one first: it was there before any other. */
export const madePlaces = ({ volumes }: { readonly volumes: readonly VolumeRow[] }): VolumeRow[] =>
  volumes
    .filter(({ kind }) => kind === 'made')
    .sort((a, b) => a.createdAt.getTime() - b.createdAt.getTime() || compareText(a.id, b.id))

/** Where new items of a recipe go: the place that takes their kind, else the main one. */
export const placeOfRecipe = (material: Material, recipe: Recipe): VolumeRow =>
  placeOfKind(material, pairKindOf(recipe))

/** @param kind of what is made; null for a copy that stands in for an original, which goes to the main place */
export function placeOfKind(material: Material, kind: PairKind | null): VolumeRow {
  const places = madePlaces(material)
  const place = places.find(({ takes }) => kind !== null && takes.includes(kind)) ?? places[0]
  if (!place) throw new JobFailure('This production has no place for what is made.')
  return place
}

/** A place of what is made, held. @throws JobFailure when it is not there */
export const holdMade = (place: VolumeRow): Promise<HeldFolder> =>
  holdPlace(place).catch((error) => {
    throw new JobFailure(explainFileError(error, place.rootPath))
  })

/** A path below a place of what is made, as its file rows keep it. */
export const belowMade = (place: VolumeRow, path: string): string => relative(place.rootPath, path).split(sep).join('/')
