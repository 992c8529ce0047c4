import type { MediaFacts } from '@ennick/core'

/**
 * The encoder's words that put all channels of a file into one stream, one after another, without a label at the end;
 * null when it has no sound.
 */
export function joinedSound({ sound }: MediaFacts): { graph: string; channels: number } | null {
  const channels = sound.reduce((sum, stream) => sum + stream.channels, 0)
  if (channels === 0) return null
  const pads = sound.map((_, index) => `[0:a:${index}]`).join('')
  return { graph: `${pads}${sound.length > 1 ? `amerge=inputs=${sound.length}` : 'anull'}`, channels }
}
