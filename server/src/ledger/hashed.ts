import type { Hash } from 'node:crypto'
import { Transform } from 'node:stream'

/** Lets bytes through, and counts them into a sum. */
export const hashed = (hash: Hash): Transform =>
  new Transform({
    transform(chunk: Buffer, _encoding, done) {
      hash.update(chunk)
      done(null, chunk)
    },
  })
