import { formatNumber } from './count.ts'

/**
 * Names in a sentence, however many there are: "A, B, C and 147 more".
 * @param most so many are named; one more than that is named too, as that is no longer than saying so
 */
export const nameSome = (names: readonly string[], most = 4): string =>
  names.length > most + 1
    ? `${names.slice(0, most).join(', ')} and ${formatNumber(names.length - most)} more`
    : names.join(', ')
