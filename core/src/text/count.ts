/** A number with what it counts, as a sentence says it: "1 file", "2,400 files". */
export const count = (number: number, one: string, many = `${one}s`): string =>
  `${number.toLocaleString('en')} ${number === 1 ? one : many}`
