// Jest looks up every global in its sandbox, which takes longer than the sums that are done with them.
const { imul } = Math

/** A repeatable source of numbers from 0 to below 1 (mulberry32). */
export function randomFrom(seed: number): () => number {
  let state = seed
  return () => {
    state = (state + 0x6d2b79f5) | 0
    let mixed = imul(state ^ (state >>> 15), 1 | state)
    mixed = (mixed + imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296
  }
}
