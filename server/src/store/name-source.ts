import type { NameSource } from '@ennick/core'
import type { KnownClip } from './known-material.ts'
import { originalName } from './original-name.ts'
import type { ProductionRow } from './production-row.ts'

/** What is known of a clip that what is made of it is named by. */
export function nameSourceOf(production: Pick<ProductionRow, 'name'>, clip: KnownClip): NameSource {
  const { scene, take, camera, day } = clip.described
  return {
    ...{ name: originalName(clip), production: production.name, reel: clip.reel },
    ...{ scene: scene?.value ?? null, take: take?.value ?? null },
    ...{ camera: camera?.value ?? null, day: day?.value ?? null },
  }
}
