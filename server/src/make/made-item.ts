import { basename, relative, sep } from 'node:path'
import type { EncodePlan, EvidenceRow, LutFile, Recipe } from '@ennick/core'
import type { HeldFolder } from '../disk/held-folder.ts'
import { holdPlace } from '../disk/marker.ts'
import { explainFileError } from '../errors.ts'
import type { DescribedFile } from '../intake/describe-file.ts'
import { JobFailure } from '../queue/failure.ts'
import type { KnownClip, Material, VolumeRow } from '../store/material.ts'

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
  readonly made: VolumeRow
  readonly files: readonly VerifiedFile[]
  readonly checks: EvidenceRow[]
  readonly proof: EvidenceRow[]
}

export function madeVolume(material: Material): VolumeRow {
  const made = material.volumes.find((volume) => volume.kind === 'made')
  if (!made) throw new JobFailure('This production has no place for what is made.')
  return made
}

/** The place of what is made, held. @throws JobFailure when it is not there */
export const holdMade = (made: VolumeRow): Promise<HeldFolder> =>
  holdPlace(made).catch((error) => {
    throw new JobFailure(explainFileError(error, made.rootPath))
  })

/** A path below the made volume, as its file rows keep it. */
export const belowMade = (made: VolumeRow, path: string): string => relative(made.rootPath, path).split(sep).join('/')
