import { describe, expect, test } from '@jest/globals'
import { padWave, type WaveChunk } from './index.ts'

/** A wave file of some chunks, with what it says of itself. */
function wave(parts: readonly (readonly [string, Uint8Array])[], form = 'RIFF') {
  const chunks: WaveChunk[] = []
  const bytes: number[] = [...Buffer.from(form, 'latin1'), 0, 0, 0, 0, ...Buffer.from('WAVE', 'latin1')]
  for (const [id, content] of parts) {
    const size = Buffer.alloc(4)
    size.writeUInt32LE(form === 'RIFF' || id !== 'data' ? content.length : 0xffffffff)
    bytes.push(...Buffer.from(id, 'latin1'), ...size)
    chunks.push({ id, at: bytes.length, bytes: content.length })
    bytes.push(...content, ...(content.length % 2 ? [0] : []))
  }
  const file = Uint8Array.from(bytes)
  new DataView(file.buffer).setUint32(4, form === 'RIFF' ? file.length - 8 : 0xffffffff, true)
  return { file, chunks, form }
}
function format(tag: number, channels: number, bits: number): DataView {
  const view = new DataView(new ArrayBuffer(16))
  view.setUint16(0, tag, true)
  view.setUint16(2, channels, true)
  view.setUint32(4, 48_000, true)
  view.setUint16(12, (channels * bits) / 8, true)
  view.setUint16(14, bits, true)
  return view
}
const contentOf = (view: DataView) => new Uint8Array(view.buffer)

function padded({ file, chunks, form }: ReturnType<typeof wave>, fmt: DataView, samples: number): Uint8Array {
  const plan = padWave({ form, bytes: file.length }, chunks, fmt, samples)
  if ('refusal' in plan) throw new Error(plan.refusal)
  const copy = Uint8Array.from([
    ...file.subarray(0, plan.keepBytes),
    ...new Uint8Array(plan.silenceBytes),
    ...file.subarray(plan.goOnAt),
  ])
  for (const { at, bytes } of plan.patches) copy.set(bytes, at)
  return copy
}

describe('a wave file with silence behind its sound', () => {
  const notes = Uint8Array.from(Buffer.from('<BWFXML/>', 'latin1'))

  test.each([
    ['even', 2, 16, 3],
    ['odd, and odd after it', 1, 24, 2],
    ['odd, and even after it', 1, 24, 1],
  ])('%s: what comes before and behind stays, and its lengths say the truth', (_, channels, bits, samples) => {
    const fmt = format(1, channels, bits)
    const sound = Uint8Array.from({ length: 3 * ((channels * bits) / 8) }, (_, index) => index + 1)
    const longer = Uint8Array.from([...sound, ...new Uint8Array(samples * ((channels * bits) / 8))])
    const parts = (data: Uint8Array) =>
      [
        ['fmt ', contentOf(fmt)],
        ['data', data],
        ['iXML', notes],
      ] as const
    expect(padded(wave(parts(sound)), fmt, samples)).toEqual(wave(parts(longer)).file)
  })

  test('one of more than four gigabytes says it in its ds64, and a fact chunk is kept true', () => {
    const fmt = format(3, 1, 32)
    const ds64 = (riff: number, data: number, samples: number) => {
      const view = new DataView(new ArrayBuffer(28))
      for (const [at, value] of [riff, data, samples].entries()) view.setBigUint64(8 * at, BigInt(value), true)
      return new Uint8Array(view.buffer)
    }
    const long = (samples: number, riff: number) =>
      wave(
        [
          ['ds64', ds64(riff, 4 * samples, samples)],
          ['fmt ', contentOf(fmt)],
          ['data', new Uint8Array(4 * samples)],
        ],
        'RF64',
      )
    const before = long(5, 0)
    const after = padded(before, fmt, 2)
    expect(after).toEqual(long(7, after.length - 8).file)
    const fact = (samples: number) => Uint8Array.from([samples, 0, 0, 0])
    const told = (samples: number) =>
      wave([
        ['fmt ', contentOf(fmt)],
        ['fact', fact(samples)],
        ['data', new Uint8Array(4 * samples)],
      ])
    expect(padded(told(5), fmt, 2)).toEqual(told(7).file)
  })

  test('what is cut off, or has no silence of noughts, is refused', () => {
    const fmt = format(1, 1, 16)
    const { file, chunks } = wave([
      ['fmt ', contentOf(fmt)],
      ['data', new Uint8Array(8)],
    ])
    const ask = (bytes: number, view = fmt) => padWave({ form: 'RIFF', bytes }, chunks, view, 1)
    expect(ask(file.length - 2)).toEqual({ refusal: 'it is cut off: its sound is shorter than it says' })
    expect(ask(file.length, format(1, 1, 8))).toMatchObject({ refusal: expect.stringMatching(/silence/) })
    expect(ask(file.length, format(0x55, 1, 16))).toMatchObject({ refusal: expect.stringMatching(/silence/) })
    expect(padWave({ form: 'RIFF', bytes: 99 }, [], fmt, 1)).toMatchObject({
      refusal: expect.stringMatching(/not where/),
    })
  })
})
