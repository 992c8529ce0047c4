import { lookHeight, lookWidth } from '@ennick/core'

/** What makes a picture small and grey, to be compared. */
export const smallGrey = `scale=${lookWidth}:${lookHeight}:flags=area,format=gray`
