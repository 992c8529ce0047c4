import { relative } from 'node:path'
import type { EncodePlan, EvidenceRow, LutFile, Recipe } from '@ennick/core'
import type { VolumeRow, World, WorldClip } from '../store/world.ts'
import type { DescribedFile } from './describe-file.ts'
import { JobFailure } from './failure.ts'

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
  readonly finalPaths: readonly string[]
  readonly partPaths: readonly string[]
}

/** A file of a made item, verified under its temporary name. */
export interface VerifiedFile {
  readonly partPath: string
  readonly finalPath: string
  readonly part: 'whole' | 'picture' | 'sound'
  readonly described: DescribedFile
}

export interface Verified {
  readonly world: World
  readonly clip: WorldClip
  readonly recipe: Recipe
  readonly plan: EncodePlan
  readonly made: VolumeRow
  readonly files: readonly VerifiedFile[]
  readonly checks: EvidenceRow[]
  readonly proof: EvidenceRow[]
}

export function madeVolume(world: World): VolumeRow {
  const made = world.volumes.find((volume) => volume.kind === 'made')
  if (!made) throw new JobFailure('This production has no place for what is made.')
  return made
}

/** A path below the made volume, as its file rows keep it. */
export const belowMade = (made: VolumeRow, path: string): string => relative(made.rootPath, path).split('\\').join('/')
