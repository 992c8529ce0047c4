/** A number as a sentence says it: "2,400". */
export const formatNumber = (number: number): string => number.toLocaleString('en')

/** The same with what it counts: "1 file", "2,400 files". */
export const count = (number: number, one: string, many = `${one}s`): string =>
  `${formatNumber(number)} ${number === 1 ? one : many}`
