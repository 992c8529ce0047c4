import { describe, expect, test } from '@jest/globals'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { fraction, rate, subtract } from '../time/index.ts'
import {
  channelCount,
  claimsToBeMedia,
  describeChannels,
  describePictureCodec,
  describeSoundCodec,
  displayAspect,
  framesInto,
  isPassedOver,
  labelledRange,
  mediumRange,
  pictureRange,
  type SoundFacts,
  stillFormat,
} from './index.ts'

const stream = (channels: number, change: Partial<SoundFacts> = {}): SoundFacts => ({
  codec: 'pcm_s24le',
  channels,
  layout: null,
  sampleRate: 48_000,
  bitDepth: 24,
  samples: 48_000,
  ...change,
})
const picture = (change: Parameters<typeof pictureFacts>[0] = {}) =>
  pictureFacts(change).picture as NonNullable<ReturnType<typeof pictureFacts>['picture']>

describe('where a medium lies', () => {
  test('a picture by its frames, on its own axis', () => {
    expect(pictureRange(pictureFacts())).toEqual({ startFrame: 900_000, endFrame: 900_100 })
    expect(mediumRange(pictureFacts(), rate(25))).toEqual({ start: fraction(900_000), end: fraction(900_100) })
  })

  test('a picture of another rate by real time', () => {
    const range = mediumRange(pictureFacts({ rate: rate(50), start: '00:00:02:00' }), rate(25))
    expect(range).toEqual({ start: fraction(50), end: fraction(100) })
  })

  test('sound by its samples since midnight', () => {
    expect(mediumRange(soundFacts(48_000, 3600 * 48_000), rate(25))).toEqual({
      start: fraction(90_000),
      end: fraction(90_025),
    })
  })

  test('sound at 29.97 starts between frames, exactly', () => {
    expect(mediumRange(soundFacts(1, 1), rate(30000, 1001))?.start).toEqual(fraction(30000, 1001n * 48_000n))
  })

  test('a still, and sound of unknown length, lie nowhere', () => {
    expect(mediumRange({ ...pictureFacts(), kind: 'still' }, rate(25))).toBeNull()
    expect(mediumRange({ ...soundFacts(1, 0), sound: [stream(2, { samples: null })] }, rate(25))).toBeNull()
  })

  test('a picture without timecode starts at zero', () => {
    expect(pictureRange(pictureFacts({ start: null }))?.startFrame).toBe(0)
  })
})

describe('channels', () => {
  test.each([
    [[], 'none'],
    [[stream(1)], 'mono'],
    [[stream(1), stream(1), stream(1), stream(1)], '4 × mono'],
    [[stream(2)], 'stereo'],
    [[stream(6)], '6 ch'],
    [[stream(1), stream(1), stream(2)], '2 × mono + stereo'],
  ])('%#', (sound, words) => {
    expect(describeChannels(sound)).toBe(words)
  })
  test('are counted over all streams', () => {
    expect(channelCount({ ...pictureFacts(), sound: [stream(2), stream(1)] })).toBe(3)
  })
})

describe('codecs by the names of the trade', () => {
  test.each([
    [{ codec: 'prores', profile: 'Proxy' }, 'ProRes Proxy'],
    [{ codec: 'prores', profile: 'Standard' }, 'ProRes'],
    [{ codec: 'dnxhd', profile: 'DNXHR LB' }, 'VC-3 DNXHR LB'],
    [{ codec: 'h264', profile: 'High' }, 'H.264'],
    [{ codec: 'mjpeg', profile: null }, 'MJPEG'],
    [{ codec: 'mpeg2video', profile: '4:2:2' }, 'MPEG-2'],
    [{ codec: 'oddcodec', profile: 'x' }, 'ODDCODEC'],
  ])('%p', (facts, name) => {
    expect(describePictureCodec(facts)).toBe(name)
  })
  test.each([
    [stream(2), 'PCM 24 bit 48 kHz'],
    [stream(2, { codec: 'aac', bitDepth: null, sampleRate: 44_100 }), 'AAC 44.1 kHz'],
    [stream(2, { codec: 'flac' }), 'FLAC 48 kHz'],
  ])('%#', (facts, name) => {
    expect(describeSoundCodec(facts)).toBe(name)
  })
})

describe('display aspect', () => {
  const ratio = (facts: ReturnType<typeof picture>): number => {
    const { numerator, denominator } = displayAspect(facts)
    return numerator / denominator
  }
  test('of square, squeezed and turned pictures', () => {
    expect(ratio(picture())).toBeCloseTo(16 / 9)
    expect(ratio(picture({ width: 960, pixelAspect: { numerator: 2, denominator: 1 } }))).toBeCloseTo(16 / 9)
    expect(ratio(picture({ rotation: 90 }))).toBeCloseTo(9 / 16)
    expect(ratio(picture({ rotation: 180 }))).toBeCloseTo(16 / 9)
  })
})

describe('what a scan looks at', () => {
  test.each([
    '.DS_Store',
    '.hidden.mov',
    '$RECYCLE.BIN',
    'System Volume Information',
    'Thumbs.db',
    'x.mov.ennick-part',
  ])('%s is passed over', (name) => {
    expect(isPassedOver(name)).toBe(true)
  })
  test.each([
    ['a.MOV', true],
    ['a.mxf', true],
    ['a.wav', true],
    ['a.dpx', true],
    ['a.M2T', true],
    ['a.dv', true],
    ['a.txt', false],
    ['mov', false],
    ['.mov', false],
    ['a.mov.txt', false],
  ])('%s claims to be media: %p', (name, claims) => {
    expect(claimsToBeMedia(name)).toBe(claims)
  })
  test.each([
    ['a.PNG', 'png_pipe'],
    ['th%d.jpg', 'jpeg_pipe'],
    ['a.mov', null],
    ['png', 'png_pipe'],
  ])('%s is read as %p', (name, format) => {
    expect(stillFormat(name)).toBe(format)
  })
})

describe('labels of one rate in a list of another', () => {
  test.each([
    [rate(24000, 1001), rate(24), 864_000],
    [rate(24000, 1001), rate(25), 900_000],
    [rate(25), rate(24), 864_000],
    [rate(50), rate(25), 900_000],
  ])('a clip at 10:00:00:00 starts there', (own, list, frame) => {
    const facts = pictureFacts({ rate: own, start: '10:00:00:00' })
    expect(labelledRange(facts, list)?.start).toEqual(fraction(frame))
  })

  test.each([
    // Two seconds of a list at 24 behind the label at which the clip begins are two seconds of it.
    [rate(24000, 1001), rate(24), 864_048, fraction(48_000, 1001)],
    [rate(25), rate(24), 864_048, fraction(50)],
    [rate(50), rate(25), 900_010, fraction(20)],
    [rate(25), rate(25), 900_010, fraction(10)],
  ])('a frame of a list lies so far into the medium', (own, list, frame, into) => {
    const facts = pictureFacts({ rate: own, start: '10:00:00:00' })
    expect(framesInto(facts, list, fraction(frame))).toEqual(into)
  })

  test('without a timecode, and of sound, it is counted from the first', () => {
    expect(framesInto(pictureFacts({ start: null }), rate(25), fraction(10))).toEqual(fraction(10))
    const recording = soundFacts(48_000, 48_000 * 36_000)
    expect(framesInto(recording, rate(25), fraction(900_010))).toEqual(fraction(10))
  })

  test('its length is real time', () => {
    const facts = pictureFacts({ rate: rate(24000, 1001), start: '10:00:00:00' })
    const range = labelledRange(facts, rate(25)) as NonNullable<ReturnType<typeof labelledRange>>
    // 100 frames at 24000/1001 are 100 × 1001 ÷ 24000 seconds.
    expect(subtract(range.end, range.start)).toEqual(fraction(100 * 1001 * 25, 24000))
  })
})
