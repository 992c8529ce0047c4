/** Numbers from 0 to 1 that look like chance and are the same each time (a linear congruence of Park and Miller). */
function chance(seed: number): () => number {
  let state = (seed * 7919 + 1) % 2_147_483_647
  return () => {
    state = (state * 48_271) % 2_147_483_647
    return state / 2_147_483_647
  }
}

/** Noise, from -1 to 1. */
export function noise(seconds: number, rate: number, seed: number): Float32Array {
  const next = chance(seed)
  return Float32Array.from({ length: Math.round(seconds * rate) }, () => 2 * next() - 1)
}

/** Something like speech: bursts of voiced and unvoiced sound, some four a second, with pauses. */
export function speech(seconds: number, rate: number, seed: number): Float32Array {
  const next = chance(seed)
  const samples = new Float32Array(Math.round(seconds * rate))
  for (let at = 0; at < samples.length; ) {
    const length = Math.round(rate * (0.06 + 0.25 * next()))
    const loud = next() < 0.2 ? 0 : 0.1 + 0.5 * next()
    const [pitch, isVoiced] = [90 + 130 * next(), next() < 0.7]
    for (let index = 0; index < length && at + index < samples.length; index++) {
      const shape = Math.sin((Math.PI * index) / length) ** 0.5
      const phase = ((at + index) * pitch) / rate
      const voice = isVoiced ? ((phase % 1) - 0.5) * 1.2 + 0.2 * (next() - 0.5) : next() - 0.5
      samples[at + index] = loud * shape * voice
    }
    at += length
  }
  return samples
}

/** Something like music: notes with a sharp beginning that ring out. */
export function music(seconds: number, rate: number, seed: number): Float32Array {
  const next = chance(seed)
  const samples = new Float32Array(Math.round(seconds * rate))
  for (let at = 0; at < samples.length; at += Math.round(rate * (0.15 + 0.3 * next()))) {
    const pitch = 110 * 2 ** (Math.floor(36 * next()) / 12)
    const loud = 0.1 + 0.3 * next()
    for (let index = 0; index < rate / 2 && at + index < samples.length; index++) {
      const fade = Math.exp((-8 * index) / rate)
      const turn = (2 * Math.PI * pitch * index) / rate
      samples[at + index] =
        (samples[at + index] as number) +
        loud * fade * (Math.sin(turn) + 0.4 * Math.sin(2 * turn) + 0.2 * Math.sin(3 * turn))
    }
  }
  return samples
}

/** The same with noise that is so many decibels quieter. */
export function withNoise(samples: Float32Array, decibels: number, seed: number): Float32Array {
  const power = samples.reduce((sum, sample) => sum + sample * sample, 0) / samples.length
  const next = chance(seed)
  // Evenly spread values from -1 to 1 have a third as power.
  const loud = Math.sqrt((3 * power) / 10 ** (decibels / 10))
  return samples.map((sample) => sample + loud * (2 * next() - 1))
}

/** The same in a room: the sound itself, and echoes of it that fade within some time. */
export function echoed(samples: Float32Array, seconds: number, rate: number): Float32Array {
  const next = chance(4711)
  const echoes = Array.from({ length: 60 }, () => {
    const delay = Math.round(rate * (0.004 + seconds * next()))
    return { delay, loud: (next() - 0.5) * 0.8 * Math.exp((-3 * delay) / (rate * seconds)) }
  })
  return samples.map((sample, index) =>
    echoes.reduce((sum, { delay, loud }) => sum + loud * (samples[index - delay] ?? 0), sample),
  )
}

/** The same so many samples later, by a clock of another speed; between samples by a straight line. */
export function delayed(samples: Float32Array, by: number, speed = 1): Float32Array {
  return samples.map((_, index) => {
    const at = (index - by) * speed
    const before = Math.floor(at)
    const part = at - before
    return (samples[before] ?? 0) * (1 - part) + (samples[before + 1] ?? 0) * part
  })
}
