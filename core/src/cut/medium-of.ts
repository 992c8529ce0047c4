import { channelCount, type MediaFacts } from '../media/index.ts'
import { ceiling, type ExactRange, floor } from '../time/index.ts'
import type { Medium } from './model.ts'

/** What a list says of a file: the frames in which it lies, its raster, and how many channels it has. */
export const mediumOf = (facts: MediaFacts, { start, end }: ExactRange): Medium => ({
  frames: { startFrame: Number(floor(start)), endFrame: Number(ceiling(end)) },
  ...{ width: facts.picture?.width ?? null, height: facts.picture?.height ?? null },
  soundChannels: channelCount(facts),
})
