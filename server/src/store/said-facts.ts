import { type MediaFacts, pixelAspectField, readPixelAspect, withPixelAspect } from '@ennick/core'
import type { clips } from './schema.ts'

/** A clip's file with its facts as they hold: what a person says of its pixels goes before what the file says. */
export function withSaidFacts<File extends { readonly facts: MediaFacts | null }>(
  { described }: Pick<typeof clips.$inferSelect, 'described'>,
  file: File,
): File {
  const said = described[pixelAspectField]?.value
  if (said === undefined || !file.facts) return file
  return { ...file, facts: withPixelAspect(file.facts, readPixelAspect(said)) }
}
