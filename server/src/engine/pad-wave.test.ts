import { mkdtemp, open, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { padWave } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { padWaveCopy, whyOther } from './pad-wave.ts'
import { readWave } from './riff.ts'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'ennick-pad-'))
})
afterAll(() => rm(folder, { recursive: true }))

const chunk = (id: string, content: Buffer): Buffer => {
  const head = Buffer.alloc(8, id, 'latin1')
  head.writeUInt32LE(content.length, 4)
  return Buffer.concat([head, content, Buffer.alloc(content.length % 2)])
}

/** Three samples of one channel of 24 bits, which is an odd number of bytes, with notes behind them. */
function recording(): Buffer {
  const format = Buffer.alloc(16)
  for (const [at, value] of [1, 1, 48_000, 0, 0, 0, 3, 24].entries()) format.writeUInt16LE(value, 2 * at)
  const chunks = [
    ...[chunk('fmt ', format), chunk('data', Buffer.from([1, 2, 3, 4, 5, 6, 7, 8, 9]))],
    chunk('iXML', Buffer.from('<BWFXML/>')),
  ]
  const body = Buffer.concat([Buffer.from('WAVE'), ...chunks])
  return chunk('RIFF', body)
}

const signal = new AbortController().signal

test('notes behind the sound are behind the silence, byte for byte', async () => {
  const [from, to] = [join(folder, 'a.wav'), join(folder, 'b.wav')]
  await writeFile(from, recording())
  expect(await padWaveCopy(from, to, 5, signal)).toBeNull()
  const [file, copy] = [await readFile(from), await readFile(to)]
  const sound = file.indexOf('data') + 8
  expect(copy.subarray(sound, sound + 24)).toEqual(Buffer.concat([file.subarray(sound, sound + 9), Buffer.alloc(15)]))
  expect(copy.subarray(sound + 24)).toEqual(file.subarray(sound + 10))
  expect([copy.readUInt32LE(4), copy.readUInt32LE(sound - 4)]).toEqual([copy.length - 8, 24])
  await expect(padWaveCopy(from, to, 5, signal)).rejects.toThrow(/EEXIST/)
})

test.each([
  ['its sound', (copy: Buffer) => copy.indexOf('data') + 9, /reads back otherwise/],
  ['the silence', (copy: Buffer) => copy.indexOf('data') + 8 + 12, /is no silence/],
  ['its notes', (copy: Buffer) => copy.indexOf('<BWFXML') + 1, /reads back otherwise/],
  ['what it says of its length', () => 4, /reads back otherwise/],
  ['something more at its end', (copy: Buffer) => copy.length, /reads back otherwise/],
])('a copy that has another byte in %s is none', async (_, placeOf, complaint) => {
  const [from, to] = [join(folder, 'c.wav'), join(folder, 'd.wav')]
  await writeFile(from, recording())
  await rm(to, { force: true })
  await padWaveCopy(from, to, 5, signal)
  const [source, copy] = [await open(from, 'r'), await open(to, 'r+')]
  try {
    const { form, chunks, format } = await readWave(source)
    const { size } = await source.stat()
    const plan = padWave({ form, bytes: size }, chunks, format, 5)
    if ('refusal' in plan) throw new Error(plan.refusal)
    expect(await whyOther(source, copy, plan, size, signal)).toBeNull()
    await copy.write(Buffer.from([0x7b]), 0, 1, placeOf(await readFile(to)))
    expect(await whyOther(source, copy, plan, size, signal)).toMatch(complaint)
  } finally {
    await source.close()
    await copy.close()
  }
})
