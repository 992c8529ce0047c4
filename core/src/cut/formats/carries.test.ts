import { readFile } from 'node:fs/promises'
import { expect, test } from '@jest/globals'
import fc from 'fast-check'
import { anyCut } from '../../testing/cuts.ts'
import { asCarried, formatFeatures, lossesOf } from './carries.ts'
import { cutFormats, otio, writeProven } from './index.ts'

test('the table of the docs says the same as the one by which formats are written', async () => {
  const head = ['Of a cut', ...cutFormats.map(({ name }) => name)]
  const rows = formatFeatures.map(({ name, carries, becomes }) => [
    name,
    ...cutFormats.map(({ id }) => [carries[id], becomes[id]].filter(Boolean).join(': ')),
  ])
  const table = [head, head.map(() => '---'), ...rows].map((cells) => `| ${cells.join(' | ')} |`).join('\n')
  expect(await readFile(new URL('../../../../docs/formats.md', import.meta.url), 'utf8')).toContain(table)
})

test('what a format does not carry has a sentence of what becomes of it', () => {
  for (const { name, carries, becomes } of formatFeatures)
    for (const { id } of cutFormats)
      if (carries[id] !== 'yes' && !becomes[id]) throw new Error(`${name} in ${id} becomes nothing that is said.`)
})

test('numbered stills leave by the path of the first of them, and as a sequence in OTIO', () => {
  const [cut] = fc.sample(anyCut({ otherRates: false }), { seed: 1, numRuns: 1 }) as [Parameters<typeof asCarried>[0]]
  const event = cut.events.find(({ kind }) => kind === 'picture') as (typeof cut.events)[number]
  const medium = { frames: event.source, width: null, height: null, soundChannels: 0, firstStill: 12 }
  const stills = { ...cut, events: [{ ...event, path: '/mnt/day #3/mist_####.dpx', medium }] }
  const pathIn = (format: 'edl' | 'otio' | 'xmeml') => asCarried(stills, format).events[0]?.path
  expect([pathIn('edl'), pathIn('xmeml'), pathIn('otio')]).toEqual([
    '/mnt/day #3/mist_0012.dpx',
    '/mnt/day #3/mist_0012.dpx',
    '/mnt/day #3/mist_####.dpx',
  ])
  for (const format of cutFormats) writeProven(stills, format)
  expect(otio.write(stills)).toContain('"start_frame": 12')
})

test('a loss is told with the events that have it, and only where something is lost', () => {
  fc.assert(
    fc.property(anyCut({ otherRates: true }), (cut) => {
      for (const { id } of cutFormats) {
        const off = lossesOf(cut, id).find(({ feature }) => feature === 'disabled')
        const disabled = cut.events.flatMap((event, position) => (event.isDisabled ? [position] : []))
        expect(off?.events ?? []).toEqual(id === 'edl' ? disabled : [])
        // What is carried once is carried as it is.
        expect(asCarried(asCarried(cut, id), id)).toEqual(asCarried(cut, id))
      }
    }),
    { numRuns: 50 },
  )
})
