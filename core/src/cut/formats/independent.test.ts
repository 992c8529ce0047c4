import { expect, test } from '@jest/globals'
import fc from 'fast-check'
import { XMLParser } from 'fast-xml-parser'
import { anyCut } from '../../testing/cuts.ts'
import { formatTimecode } from '../../time/index.ts'
import type { Cut, CutEvent } from '../model.ts'
import { edl, otio, xmeml } from './index.ts'

/**
 * What was written is read here by readers that know nothing of the product's own: by the columns of an EDL, by the
 * schemas of OTIO, by the elements of timeline XML. They have to agree with the cut in every frame.
 */
const runs = { numRuns: 40 }

/** Frames of each event on its track, in order: where it stands in the record and where its source begins. */
type Places = Map<string, string[]>
const placesOf = (cut: Cut, keep: (event: CutEvent) => boolean = () => true): Places => {
  const places: Places = new Map()
  for (const { track, record, source, isDisabled, ...event } of cut.events) {
    if (!keep({ track, record, source, ...event, ...(isDisabled && { isDisabled }) })) continue
    const list = places.get(track) ?? []
    list.push(`${record.startFrame}-${record.endFrame} from ${source.startFrame}`)
    places.set(track, list)
  }
  return places
}

test('EDL: by its columns', () => {
  fc.assert(
    fc.property(anyCut({ otherRates: false }), (cut) => {
      const found: Places = new Map()
      for (const line of edl.write(cut).split(/\r?\n/)) {
        if (!/^\d/.test(line)) continue
        const words = line.trim().split(/\s+/)
        const [sourceIn, , recordIn, recordOut] = words.slice(-4) as [string, string, string, string]
        // A line of no length says what a transition leaves; black is no use.
        if (recordIn === recordOut || words[1] === 'BL') continue
        const field = words[2] as string
        const tracks = { V: ['V1'], A: ['A1'], B: ['V1', 'A1'], AA: ['A1', 'A2'], 'AA/V': ['V1', 'A1', 'A2'] }[
          field
        ] ?? [field]
        for (const track of tracks)
          found.set(track, [...(found.get(track) ?? []), `${recordIn}-${recordOut} from ${sourceIn}`])
      }
      const label = (frame: number): string => formatTimecode(frame, cut.rate, cut.dropFrame)
      const wanted: Places = new Map()
      for (const { track, record, source, isDisabled } of cut.events)
        if (!isDisabled)
          wanted.set(track, [
            ...(wanted.get(track) ?? []),
            `${label(record.startFrame)}-${label(record.endFrame)} from ${label(source.startFrame)}`,
          ])
      for (const list of [...wanted.values(), ...found.values()]) list.sort()
      expect(found).toEqual(wanted)
    }),
    runs,
  )
})

interface OtioTime {
  value: number
  rate: number
}

test('OTIO: by its schemas', () => {
  fc.assert(
    fc.property(anyCut({ otherRates: true }), (cut) => {
      const timeline = JSON.parse(otio.write(cut))
      const recordRate = cut.rate.numerator / cut.rate.denominator
      const inRecord = (time: OtioTime): number => (time.value / time.rate) * recordRate
      const found: Places = new Map()
      expect(timeline.tracks.OTIO_SCHEMA).toBe('Stack.1')
      for (const track of timeline.tracks.children) {
        let at = inRecord(timeline.global_start_time)
        for (const item of track.children) {
          const schema = item.OTIO_SCHEMA.split('.')[0]
          if (schema === 'Transition') continue
          const end = at + inRecord(item.source_range.duration)
          const start: OtioTime = item.source_range.start_time
          if (schema === 'Clip') {
            const list = found.get(track.name) ?? []
            list.push(`${Math.round(at)}-${Math.round(end)} from ${Math.floor(start.value + 1e-9)}`)
            found.set(track.name, list)
          }
          at = end
        }
      }
      expect(found).toEqual(placesOf(cut))
    }),
    runs,
  )
})

test('timeline XML: by its elements', () => {
  const parser = new XMLParser({ preserveOrder: true, processEntities: true })
  type Node = Record<string, unknown>
  const children = (node: Node | undefined, name: string): Node[] =>
    ((node ? (Object.values(node)[0] as Node[]) : []) ?? []).filter((child) => name in child)
  const text = (node: Node | undefined, name: string): string => {
    const [child] = children(node, name)
    return String((child?.[name] as Node[] | undefined)?.[0]?.['#text'] ?? '')
  }
  fc.assert(
    fc.property(anyCut({ otherRates: true }), (cut) => {
      const root = parser.parse(xmeml.write(cut)).find((node: Node) => 'xmeml' in node)
      const [sequence] = children(root, 'sequence')
      const start = Number(text(children(sequence, 'timecode')[0], 'frame'))
      const found: Places = new Map()
      for (const [kind, letter] of [
        ['video', 'V'],
        ['audio', 'A'],
      ] as const) {
        const [media] = children(children(sequence, 'media')[0], kind)
        children(media, 'track').forEach((track, index) => {
          const items = (track.track as Node[]).filter((item) => 'clipitem' in item || 'transitionitem' in item)
          items.forEach((item, at) => {
            if (!('clipitem' in item)) return
            const around = (step: number): number => Number(text(items[at + step], 'start'))
            // −1 stands for where the transition beside it begins; of the one behind it, the clip is lent to all.
            const from = text(item, 'start') === '-1' ? around(-1) : Number(text(item, 'start'))
            const to = text(item, 'end') === '-1' ? around(1) : Number(text(item, 'end'))
            const name = `${letter}${index + 1}`
            const list = found.get(name) ?? []
            list.push(`${start + from}-${start + to}`)
            found.set(name, list)
          })
        })
      }
      const records = new Map(
        [...placesOf(cut)].map(([track, list]) => [track, list.map((each) => each.replace(/ from.*/, ''))]),
      )
      expect(found).toEqual(records)
    }),
    runs,
  )
})
