import { allowsDropFrame, type Rate } from '../time/index.ts'
import type { Cut } from './model.ts'

/** The drop flag that an event says of its source: only where its rate has both, and the list counts in the other. */
export const sourceDropOf = (
  dropFrame: boolean,
  sourceRate: Rate,
  cut: Pick<Cut, 'dropFrame'>,
): { sourceDropFrame?: boolean } =>
  dropFrame === cut.dropFrame || !allowsDropFrame(sourceRate) ? {} : { sourceDropFrame: dropFrame }
