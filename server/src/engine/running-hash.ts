import { createHash } from 'node:crypto'
import type { HashKind } from '@ennick/core'
import { Xxh64 } from '@node-rs/xxhash'

/** A checksum that grows with what is read. */
export interface RunningHash {
  update(bytes: Uint8Array): void
  /** In hexadecimal, as manifests have it. */
  digest(): string
}

export function startHash(kind: HashKind): RunningHash {
  if (kind === 'xxh64') {
    const hash = new Xxh64()
    return { update: (bytes) => void hash.update(bytes), digest: () => hash.digest().toString(16).padStart(16, '0') }
  }
  const hash = createHash(kind)
  return { update: (bytes) => void hash.update(bytes), digest: () => hash.digest('hex') }
}
