import { expect, test } from '@jest/globals'
import { otio } from '../cut/formats/otio/read-otio.ts'
import { writeProven } from '../cut/formats/prove.ts'
import { xmeml } from '../cut/formats/xmeml/read-xmeml.ts'
import { plain } from '../cut/index.ts'
import type { SoundFacts } from '../media/index.ts'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { fraction, rate } from '../time/index.ts'
import type { SoundLink } from './sound-link.ts'
import { type ListedFile, type SyncedClip, syncedList } from './synced-list.ts'

const tenHours = 10 * 3600 * 48_000
const format = { rate: rate(25), width: 1920, height: 1080 }
const link = (change: Partial<SoundLink> = {}): SoundLink => ({
  ...{ soundIds: ['T1'], offsetSamples: fraction(96_000), sampleRate: 48_000, method: 'waveform' },
  ...{ tracks: [0, 2], cameraSound: 'dropped', ...change },
})
const listed = (name: string, facts: ListedFile['facts']): ListedFile => ({
  ...{ name, path: `/media/${name}`, reel: facts.reel, facts },
})
const synced = (change: Partial<SoundLink> = {}, picture = pictureFacts({ frames: 100 })): SyncedClip => ({
  ...{ picture: listed('A001C001.mov', picture), link: link(change) },
  recordings: [listed('T001.wav', soundFacts(48_000 * 60, tenHours))],
})
const write = (...clips: SyncedClip[]) => syncedList('Day 1', format, clips)
const placed = ({ cut }: ReturnType<typeof write>) =>
  cut.events.map(({ track, record, source, sourceChannel = 0 }) =>
    [track, record.startFrame, record.endFrame, source.startFrame, source.endFrame, sourceChannel].join(' '),
  )

test('each picture, and under it the used tracks of its recording from the right frame on', () => {
  const list = write(synced(), synced({ tracks: [3], offsetSamples: fraction(0) }))
  // Two seconds in, the recorder stands at 10:00:02:00.
  expect(placed(list)).toEqual([
    'V1 0 100 900000 900100 0',
    'V1 100 200 900000 900100 0',
    'A1 0 100 900050 900150 1',
    'A1 100 200 900000 900100 4',
    'A2 0 100 900050 900150 3',
  ])
  expect(list.leftOut).toEqual([])
  expect(list.cut.events.map(({ linkedBy }) => linkedBy)).toEqual(['001', '002', '001', '002', '001'])
})

test('the camera’s own channels come first where they are kept', () => {
  const list = write(synced({ cameraSound: 'kept' }))
  expect(list.cut.events.map(({ track, clipName, sourceChannel }) => [track, clipName, sourceChannel])).toEqual([
    ['V1', 'A001C001.mov', undefined],
    ['A1', 'A001C001.mov', 1],
    ['A2', 'A001C001.mov', 2],
    ['A3', 'T001.wav', 1],
    ['A4', 'T001.wav', 3],
  ])
})

test('a sample between two frames stays there, to a millionth of a frame', () => {
  const [, sound] = write(synced({ offsetSamples: fraction(97_001) })).cut.events
  // 97 001 ÷ 1920 = 50.521 354 1…
  expect(sound?.soundTimes?.sourceStart).toEqual(plain(fraction(900_050_521_354, 1_000_000)))
  expect(sound?.soundTimes?.sourceEnd).toEqual(plain(fraction(900_150_521_354, 1_000_000)))
  expect(sound?.record).toEqual({ startFrame: 0, endFrame: 100 })
  expect(sound?.source).toEqual({ startFrame: 900_050, endFrame: 900_151 })
})

test('what a recording lacks at the head or the tail is left empty', () => {
  const short = { ...synced(), recordings: [listed('T001.wav', soundFacts(48_000 * 3, tenHours))] }
  expect(placed({ ...write(short) }).slice(1, 2)).toEqual(['A1 0 25 900050 900075 1'])
  const late = synced({ offsetSamples: fraction(-19_200) })
  expect(placed(write(late)).slice(1, 2)).toEqual(['A1 10 100 900000 900090 1'])
})

test('a channel of a file with several streams is counted through', () => {
  const stream = { ...(soundFacts(48_000 * 60, 0).sound[0] as SoundFacts), channels: 2 }
  const facts = { ...soundFacts(48_000 * 60, tenHours), sound: [stream, stream] }
  const list = write({ ...synced({ tracks: [2] }), recordings: [listed('T001.wav', facts)] })
  expect(list.cut.events[1]?.sourceChannel).toBe(3)
})

test('a picture of another rate, or with no used track, is told and left out', () => {
  const list = write(
    synced({}, pictureFacts({ frames: 100, rate: rate(24_000, 1001) })),
    synced({ tracks: [9] }),
    synced(),
  )
  expect(list.leftOut).toEqual([
    expect.stringMatching(/^A001C001\.mov: it has 23\.976 frames a second, the list 25/),
    'A001C001.mov: nothing of its recording is used, or that is not here.',
  ])
  expect(list.cut.events[0]?.record).toEqual({ startFrame: 0, endFrame: 100 })
})

test('both formats say it as it is, and in timeline XML a picture is linked with its sound', () => {
  const { cut } = write(synced({ offsetSamples: fraction(97_001) }), synced({ offsetSamples: fraction(-19_203) }))
  const ofOtio = otio.read(writeProven(cut, otio), { rate: rate(25), fileName: 'synced.otio' })
  expect(ofOtio.events.map(({ soundTimes }) => soundTimes)).toEqual(cut.events.map(({ soundTimes }) => soundTimes))
  const text = writeProven(cut, xmeml)
  const itemOf = (name: string) =>
    [...text.matchAll(/<clipitem id="([^"]+)">\s*<name>([^<]+)<\/name>/g)]
      .filter(([, , of]) => of === name)
      .map(([, id]) => id)
  const linksOf = (id = '') => {
    const from = text.indexOf(`<clipitem id="${id}">`)
    const item = text.slice(from, text.indexOf('</clipitem>', from))
    return [...item.matchAll(/<linkclipref>([^<]+)</g)].map(([, ref]) => ref)
  }
  const [pictures, sounds] = [itemOf('A001C001.mov'), itemOf('T001.wav')]
  // Two used tracks of each: on A1 first both of them, then on A2.
  expect(linksOf(pictures[0])).toEqual([pictures[0], sounds[0], sounds[2]])
  expect(linksOf(sounds[3])).toEqual([pictures[1], sounds[1], sounds[3]])
})
