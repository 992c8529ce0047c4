/** Reads the bits of a sequence parameter set, without the bytes that keep it from looking like a start code. */
class Bits {
  readonly #bytes: number[] = []
  #at = 0
  constructor(unit: Uint8Array) {
    for (const [index, byte] of unit.entries())
      if (!(byte === 3 && unit[index - 1] === 0 && unit[index - 2] === 0)) this.#bytes.push(byte)
  }
  bit(): number {
    const byte = this.#bytes[this.#at >> 3]
    if (byte === undefined) throw new RangeError('It ends within a word.')
    return (byte >> (7 - (this.#at++ & 7))) & 1
  }
  bits(count: number): number {
    let value = 0
    for (let left = count; left > 0; left--) value = value * 2 + this.bit()
    return value
  }
  /** Exp-Golomb, ITU-T H.264, 9.1. */
  unsigned(): number {
    let zeros = 0
    while (this.bit() === 0) if (++zeros > 31) throw new RangeError('It is no number.')
    return 2 ** zeros - 1 + this.bits(zeros)
  }
  signed(): number {
    const code = this.unsigned()
    return code % 2 ? (code + 1) / 2 : -code / 2
  }
}

/** Profiles that say how colour is sampled (ITU-T H.264, 7.3.2.1.1). */
const highProfiles = new Set([100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135])

/**
 * Whether every picture of H.264 is a whole frame, by its decoder configuration (ISO/IEC 14496-15, 5.3.3.1; ITU-T
 * H.264, frame_mbs_only_flag): of others each may be of fields or not. Null where it cannot be read.
 */
export function isOfWholeFrames(configuration: Uint8Array): boolean | null {
  const length = ((configuration[6] ?? 0) << 8) | (configuration[7] ?? 0)
  const unit = configuration.subarray(8, 8 + length)
  return ((configuration[5] ?? 0) & 0x1f) === 1 && unit.length === length ? saysWholeFrames(unit) : null
}

/** The same, by the sequence parameter set itself. */
export function saysWholeFrames(unit: Uint8Array): boolean | null {
  if (unit.length < 5) return null
  try {
    return readFrameFlag(unit)
  } catch (error) {
    if (error instanceof RangeError) return null
    throw error
  }
}

function readFrameFlag(unit: Uint8Array): boolean {
  // Behind the unit's own byte, profile, constraints and level.
  const bits = new Bits(unit.subarray(4))
  bits.unsigned()
  if (highProfiles.has(unit[1] as number)) {
    const sampling = bits.unsigned()
    if (sampling === 3) bits.bit()
    bits.unsigned()
    bits.unsigned()
    bits.bit()
    const lists = bits.bit() === 0 ? 0 : sampling === 3 ? 12 : 8
    for (let list = 0; list < lists; list++) if (bits.bit()) skipList(bits, list)
  }
  bits.unsigned()
  const order = bits.unsigned()
  if (order === 0) bits.unsigned()
  if (order === 1) {
    bits.bit()
    bits.signed()
    bits.signed()
    for (let left = bits.unsigned(); left > 0; left--) bits.signed()
  }
  bits.unsigned()
  bits.bit()
  bits.unsigned()
  bits.unsigned()
  return bits.bit() === 1
}

/** A scaling list: ITU-T H.264, 7.3.2.1.1.1. */
function skipList(bits: Bits, list: number): void {
  let [last, next] = [8, 8]
  for (let index = 0; index < (list < 6 ? 16 : 64); index++) {
    if (next !== 0) next = (last + bits.signed() + 256) % 256
    last = next === 0 ? last : next
  }
}
