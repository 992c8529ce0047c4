import { relative } from 'node:path'
import type { EncodePlan, EvidenceRow, Recipe } from '@ennick/core'
import type { VolumeRow, World, WorldClip } from '../store/world.ts'
import type { DescribedFile } from './describe-file.ts'
import { JobFailure } from './failure.ts'

export type MakeInput = {
  readonly clipId: string
  readonly recipeId: string
  readonly recipeVersion?: number
  readonly mendId: string | null
  readonly index?: number
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
