import { channelCount, type EncodeInput, type MediaFacts, soundPad } from '@ennick/core'

/**
 * The encoder's words that put all channels of a file into one stream, one after another, without a label at the end;
 * null when it has no sound.
 * @param input of which it is, where that is not one file
 * @param inputsBefore how many inputs the encoder has before it
 */
export function joinedSound(
  facts: MediaFacts,
  input: EncodeInput = { kind: 'file', path: '' },
  inputsBefore = 0,
): { graph: string; channels: number } | null {
  const { sound } = facts
  const channels = channelCount(facts)
  if (channels === 0) return null
  const pads = sound.map((_, index) => `[${soundPad(input, index, inputsBefore)}]`).join('')
  return { graph: `${pads}${sound.length > 1 ? `amerge=inputs=${sound.length}` : 'anull'}`, channels }
}
