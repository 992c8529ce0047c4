/** By code units, the same on every system. */
export const compareText = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0)
