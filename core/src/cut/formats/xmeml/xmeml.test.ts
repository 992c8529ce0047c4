import { describe, expect, test } from '@jest/globals'
import { rate } from '../../../time/index.ts'
import { CutFormatError, neededRanges } from '../../model.ts'
import { lossesOf } from '../carries.ts'
import { otio, recogniseCutFormat } from '../index.ts'
import { writeProven } from '../prove.ts'
import { xmeml } from './read-xmeml.ts'

const options = { rate: rate(25), fileName: 'reel 4.xml' }
const rateXml = (timebase = 25, ntsc = 'FALSE') => `<rate><timebase>${timebase}</timebase><ntsc>${ntsc}</ntsc></rate>`
const file = (id: string, change = '') => `<file id="${id}"><name>${id}.mov</name>
  <pathurl>file://localhost/P%3A/LW/${id}.mov</pathurl>${rateXml()}<duration>1000</duration>
  <timecode>${rateXml()}<string>10:00:00:00</string><frame>900000</frame><displayformat>NDF</displayformat>
  <reel><name>A001</name></reel></timecode>${change}</file>`
const clip = (at: { start: number; end: number; in: number; out: number }, inside = file('f1')) =>
  `<clipitem id="c"><name>A001C001</name>${rateXml()}<start>${at.start}</start><end>${at.end}</end>
  <in>${at.in}</in><out>${at.out}</out>${inside}</clipitem>`
const transition = (start: number, end: number, alignment = 'center') =>
  `<transitionitem><start>${start}</start><end>${end}</end><alignment>${alignment}</alignment></transitionitem>`
const sequence = (video: string, audio = '', head = '') => `<?xml version="1.0" encoding="UTF-8"?>
<!DOCTYPE xmeml>
<xmeml version="5"><sequence id="s"><name>Reel 4</name>${rateXml()}
<timecode>${rateXml()}<string>01:00:00:00</string><frame>90000</frame><displayformat>NDF</displayformat></timecode>${head}
<media><video>${video}</video><audio>${audio}</audio></media></sequence></xmeml>`
const track = (...items: string[]) => `<track>${items.join('\n')}</track>`
const read = (text: string, change: object = {}) => xmeml.read(text, { ...options, ...change })
const placesOf = (cut: ReturnType<typeof read>) =>
  cut.events.map(({ track: on, record, source }) =>
    [on, record.startFrame, record.endFrame, source.startFrame, source.endFrame].join(' '),
  )
const speed = (...parameters: [string, string][]) =>
  `<filter><effect><effectid>timeremap</effectid>${parameters
    .map(([id, value]) => `<parameter><parameterid>${id}</parameterid><value>${value}</value></parameter>`)
    .join('')}</effect></filter>`

describe('reading', () => {
  test('a clip with its path, reel, source from midnight and record', () => {
    const cut = read(sequence(track(clip({ start: 25, end: 75, in: 10, out: 60 }))))
    expect(cut).toMatchObject({ name: 'Reel 4', rate: rate(25), recordStartFrame: 90_000 })
    expect(cut.events[0]).toMatchObject({
      clipName: 'A001C001',
      reel: 'A001',
      path: 'file://localhost/P%3A/LW/f1.mov',
      source: { startFrame: 900_010, endFrame: 900_060 },
      record: { startFrame: 90_025, endFrame: 90_075 },
      mediumStartFrame: 900_000,
    })
  })

  test('a file is described once, and named by its id after that; one without timecode counts from its start', () => {
    const bare = '<file id="f2"><name>x.wav</name></file>'
    const cut = read(
      sequence(
        track(
          clip({ start: 0, end: 50, in: 0, out: 50 }),
          clip({ start: 50, end: 60, in: 5, out: 15 }, '<file id="f1"/>'),
        ),
        track(
          clip({ start: 0, end: 50, in: 7, out: 57 }, `${bare}<sourcetrack><trackindex>3</trackindex></sourcetrack>`),
        ),
      ),
    )
    expect(placesOf(cut)).toEqual([
      'V1 90000 90050 900000 900050',
      'V1 90050 90060 900005 900015',
      'A1 90000 90050 7 57',
    ])
    expect(cut.events[2]).toMatchObject({ kind: 'sound', sourceChannel: 3, mediumStartFrame: 0 })
  })

  test('timecode that counts otherwise than its file runs means its labels', () => {
    const at = { start: 0, end: 25, in: 0, out: 25 }
    const eventOf = (text: string) => read(sequence(track(clip(at, text)))).events[0]
    // Ten o'clock of 24 is ten o'clock of 23.976, and not 36 seconds before.
    const slowed = file('f1').replace(rateXml(), rateXml(24, 'TRUE')).replace(rateXml(), rateXml(24))
    expect(eventOf(slowed.replace('900000', '864000'))?.mediumStartFrame).toBe(864_000)
    const doubled = file('f1').replace(rateXml(), rateXml(50))
    expect(eventOf(doubled.replace('900000', '900012'))?.mediumStartFrame).toBe(1_800_024)
  })

  test('drop-frame, 23.976 and the raster', () => {
    const ntsc = `<timecode>${rateXml(30, 'TRUE')}<string>01:00:00;00</string><displayformat>DF</displayformat></timecode>`
    const head =
      '<format><samplecharacteristics><width>960</width><height>540</height></samplecharacteristics></format>'
    const text = sequence(head + track(clip({ start: 0, end: 30, in: 0, out: 30 }, '')))
      .replace(/<timecode>[\s\S]*?<\/timecode>/, ntsc)
      .replaceAll(rateXml(), rateXml(30, 'TRUE'))
    const cut = read(text)
    // An hour of drop-frame: 108,000 labels less 2 for each of 54 minutes.
    expect(cut).toMatchObject({
      rate: rate(30000, 1001),
      dropFrame: true,
      recordStartFrame: 107_892,
      raster: { width: 960, height: 540 },
    })
  })
})

describe('transitions', () => {
  test('with −1 for what they take, and in and out over all of them', () => {
    const cut = read(
      sequence(
        track(
          clip({ start: 0, end: -1, in: 0, out: 60 }),
          transition(50, 60),
          clip({ start: -1, end: 100, in: 100, out: 150 }),
        ),
      ),
    )
    expect(placesOf(cut)).toEqual(['V1 90000 90050 900000 900050', 'V1 90050 90100 900100 900150'])
    expect(cut.events[1]?.transition).toMatchObject({ kind: 'dissolve', durationFrames: 10 })
    expect(neededRanges(cut.events, cut.rate)[0]?.endFrame).toBe(900_060)
  })

  test('with in and out at the cut, as others write them', () => {
    const cut = read(
      sequence(
        track(
          clip({ start: 0, end: -1, in: 0, out: 55 }),
          transition(50, 60),
          clip({ start: -1, end: 100, in: 105, out: 150 }),
        ),
      ),
    )
    expect(placesOf(cut)).toEqual(['V1 90000 90050 900000 900050', 'V1 90050 90100 900100 900150'])
  })

  test('to and from black', () => {
    const cut = read(
      sequence(
        track(
          transition(0, 10, 'start-black'),
          clip({ start: -1, end: -1, in: 0, out: 50 }),
          transition(40, 50, 'end-black'),
          clip({ start: 60, end: 70, in: 0, out: 10 }),
        ),
      ),
    )
    expect(placesOf(cut)).toEqual(['V1 90000 90040 900000 900040', 'V1 90060 90070 900000 900010'])
    expect(cut.events[0]).toMatchObject({ transition: { durationFrames: 10 }, fadeOut: { durationFrames: 10 } })
    expect(cut.events[1]?.transition).toBeNull()
  })
})

describe('speed', () => {
  const at = (filter: string) =>
    read(sequence(track(clip({ start: 0, end: 50, in: 20, out: 70 }, file('f1') + filter)))).events[0]

  test('an item counts its own frames: at twice the speed its frame 20 is frame 40 of the medium', () => {
    expect(at(speed(['speed', '200']))).toMatchObject({
      speed: { numerator: 2, denominator: 1 },
      source: { startFrame: 900_040, endFrame: 900_140 },
    })
  })

  test('backwards it counts from the end of the medium', () => {
    expect(at(speed(['speed', '100'], ['reverse', 'TRUE']))).toMatchObject({
      speed: { numerator: -1, denominator: 1 },
      source: { startFrame: 900_000 + 999 - 20 },
    })
  })

  test('by keyframes: even ones are a speed, others are told', () => {
    const graph = (...points: [number, number][]) =>
      speed(['variablespeed', '1']).replace(
        '</effect>',
        `<parameter><parameterid>graphdict</parameterid>${points
          .map(([when, value]) => `<keyframe><when>${when}</when><value>${value}</value></keyframe>`)
          .join('')}</parameter></effect>`,
      )
    expect(at(graph([0, 0], [100, 50]))).toMatchObject({
      speed: { numerator: 1, denominator: 2 },
      source: { startFrame: 900_010 },
      notes: [],
    })
    expect(at(graph([0, 0], [40, 10], [100, 100]))?.notes[0]).toContain('SPEED VARIES')
  })

  test('a held frame', () => {
    expect(at('<stillframe>TRUE</stillframe>')).toMatchObject({
      speed: { numerator: 0 },
      source: { startFrame: 900_020, endFrame: 900_021 },
    })
  })
})

test('scale and position, and other filters, go back as they came', () => {
  const basic = `<filter><effect><effectid>basic</effectid>
    <parameter><parameterid>scale</parameterid><value>50</value></parameter>
    <parameter><parameterid>center</parameterid><value><horiz>0.1</horiz><vert>0</vert></value></parameter></effect></filter>`
  const blur = '<filter><effect><name>Blur</name><effectid>blur</effectid></effect></filter>'
  const cut = read(sequence(track(clip({ start: 0, end: 50, in: 0, out: 50 }, file('f1') + basic + blur))))
  expect(cut.events[0]?.fit).toEqual({ scalePercent: 50, offset: { horizontal: 0.1, vertical: 0 } })
  const again = read(writeProven(cut, xmeml))
  expect(again.events[0]?.fit).toEqual(cut.events[0]?.fit)
  expect(JSON.stringify(again.events[0]?.carried)).toContain('blur')
  expect(lossesOf(cut, 'otio').map(({ feature }) => feature)).toEqual(expect.arrayContaining(['fit', 'effects']))
})

describe('levels of sound', () => {
  const levels = (value: string, keyframes = '') => `<filter><effect><name>Audio Levels</name>
    <effectid>audiolevels</effectid><parameter><parameterid>level</parameterid><value>${value}</value>${keyframes}
    </parameter></effect></filter>`
  const keyframe = (when: number, value: number) => `<keyframe><when>${when}</when><value>${value}</value></keyframe>`
  const heard = (filters: string) =>
    read(sequence(track(), track(clip({ start: 0, end: 50, in: 20, out: 70 }, file('f1') + filters))))

  test('an amplitude, which is no filter of others any more; and nothing where it is as it was recorded', () => {
    expect(heard(levels('0.5011872')).events[0]).toMatchObject({ level: { gain: 0.501187 } })
    expect(heard(levels('0.5011872')).events[0]?.carried).toBeUndefined()
    expect(heard(levels('1')).events[0]).not.toHaveProperty('level')
    expect(heard(levels('0')).events[0]?.level).toEqual({ gain: 0 })
  })

  test('keyframes count frames of the item; they stand at frames of the source', () => {
    const cut = heard(levels('1', keyframe(45, 0.25) + keyframe(20, 1)))
    expect(cut.events[0]?.level).toEqual({
      gain: 1,
      points: [
        { sourceFrame: { numerator: 900_020, denominator: 1 }, gain: 1 },
        { sourceFrame: { numerator: 900_045, denominator: 1 }, gain: 0.25 },
      ],
    })
    const written = writeProven(cut, xmeml)
    expect(written).toContain('<when>45</when>')
    expect(read(written).events[0]?.level).toEqual(cut.events[0]?.level)
  })

  test('at another speed too', () => {
    const cut = heard(speed(['speed', '300']) + levels('1', keyframe(20, 1) + keyframe(31, 0.5)))
    expect(cut.events[0]?.level?.points?.map(({ sourceFrame }) => sourceFrame.numerator)).toEqual([900_060, 900_093])
    expect(read(writeProven(cut, xmeml)).events[0]?.level).toEqual(cut.events[0]?.level)
  })

  test.each([
    ['one that is switched off', levels('0.5').replace('<filter>', '<filter><enabled>FALSE</enabled>')],
    ['one that is no amplitude', levels('loud')],
    ['one below nothing', levels('-1')],
    ['a keyframe at no frame', levels('1', '<keyframe><when>soon</when><value>1</value></keyframe>')],
  ])('%s is given back as it came', (_, filter) => {
    const [event] = heard(filter).events
    expect(event).not.toHaveProperty('level')
    expect(JSON.stringify(event?.carried)).toContain('audiolevels')
  })

  test('a sequence within the sequence makes all that is in it louder or softer', () => {
    const inner = `<sequence id="in"><name>Inner</name>${rateXml()}<media><audio>${track(
      clip({ start: 0, end: 40, in: 0, out: 40 }, file('f1') + levels('0.5')),
      clip({ start: 40, end: 80, in: 100, out: 140 }),
    )}</audio></media></sequence>`
    const nested = `<clipitem><name>Inner</name>${rateXml()}<start>0</start><end>80</end><in>0</in><out>80</out>${inner}
      ${levels('0.5')}</clipitem>`
    expect(read(sequence(track(), track(nested))).events.map(({ level }) => level?.gain)).toEqual([0.25, 0.5])
  })

  test('they go to OTIO and back; an EDL says nothing of them, and that is told', () => {
    const cut = heard(levels('0.5', keyframe(20, 0.5) + keyframe(31, 1)))
    const again = otio.read(writeProven(cut, otio), options)
    expect(again.events[0]?.level).toEqual(cut.events[0]?.level)
    expect(lossesOf(cut, 'edl').map(({ feature }) => feature)).toContain('level')
    expect(lossesOf(cut, 'xmeml').map(({ feature }) => feature)).not.toContain('level')
  })
})

test('sequences in each other are laid out flat; one that holds itself is refused', () => {
  const inner = `<sequence id="in"><name>Inner</name>${rateXml()}<media><video>${track(
    clip({ start: 0, end: 40, in: 0, out: 40 }),
    clip({ start: 40, end: 80, in: 100, out: 140 }),
  )}</video></media></sequence>`
  const nested = `<clipitem><name>Inner</name>${rateXml()}<start>10</start><end>50</end><in>20</in><out>60</out>${inner}</clipitem>`
  expect(placesOf(read(sequence(track(nested))))).toEqual([
    'V1 90010 90030 900020 900040',
    'V1 90030 90050 900100 900120',
  ])
  const self = nested.replace(inner, '<sequence id="s"/>')
  expect(() => read(sequence(track(self)))).toThrow('holds itself')
})

describe('a sequence within the sequence that is retimed', () => {
  const inner = `<sequence id="in"><name>Inner</name>${rateXml()}<media><video>${track(
    clip({ start: 0, end: 40, in: 0, out: 40 }),
    clip({ start: 40, end: 80, in: 100, out: 140 }),
  )}</video></media></sequence>`
  const speed = (percent: string) => `<filter><effect><effectid>timeremap</effectid>
    <parameter><parameterid>speed</parameterid><value>${percent}</value></parameter></effect></filter>`
  const nested = (filter: string, [first, last]: [number, number]) => `<clipitem>${rateXml()}
    <start>10</start><end>${10 + last - first}</end><in>${first}</in><out>${last}</out>${inner}${filter}</clipitem>`

  test('hands its speed to what is in it; its in and out count frames as retimed', () => {
    const cut = read(sequence(track(nested(speed('200'), [10, 30]))))
    expect(placesOf(cut)).toEqual(['V1 90010 90020 900020 900040', 'V1 90020 90030 900100 900120'])
    expect(cut.events.map((event) => event.speed)).toEqual(Array(2).fill({ numerator: 2, denominator: 1 }))
    const slow = read(sequence(track(nested(speed('50'), [40, 120]))))
    expect(placesOf(slow)).toEqual(['V1 90010 90050 900020 900040', 'V1 90050 90090 900100 900120'])
  })

  test('backwards its in and out count from its end, and each of its clips runs from its last frame', () => {
    const whole = inner.replace('<media>', '<duration>80</duration><media>')
    const back = (percent: string, points: [number, number]) =>
      read(sequence(track(nested(speed(percent), points).replace(inner, whole))))
    const cut = back('-100', [10, 50])
    expect(placesOf(cut)).toEqual(['V1 90010 90040 900129 900159', 'V1 90040 90050 900039 900049'])
    expect(cut.events.map((event) => event.speed.numerator)).toEqual([-1, -1])
    // What it needs is what the same stretch needs forwards.
    expect(neededRanges(cut.events, cut.rate)).toEqual([
      { startFrame: 900_100, endFrame: 900_130 },
      { startFrame: 900_030, endFrame: 900_040 },
    ])
    expect(placesOf(back('-200', [5, 25]))).toEqual(['V1 90010 90025 900129 900159', 'V1 90025 90030 900039 900049'])
    expect(read(writeProven(cut, xmeml)).events.map(({ source }) => source.startFrame)).toEqual([900_129, 900_039])
  })

  test('held, it shows what stands at its in point for as long as it lasts', () => {
    const still = (offset: string, [first, last]: [number, number]) =>
      read(sequence(track(nested(`<stillframe>TRUE</stillframe>${offset}`, [first, last]))))
    const cut = still('', [50, 75])
    expect(placesOf(cut)).toEqual(['V1 90010 90035 900110 900111'])
    expect(cut.events[0]?.speed.numerator).toBe(0)
    const later = still('<stillframeoffset>5</stillframeoffset>', [30, 60])
    expect(placesOf(later)).toEqual(['V1 90010 90040 900035 900036'])
    // Behind all that it holds there is nothing to be held.
    expect(() => still('', [90, 100])).toThrow('no clip in this sequence')
  })

  test.each([
    ['a cut between two frames', speed('150'), /falls between frames/],
    ['backwards, of no known length', speed('-100'), /does not say how long it is/],
    ['at no speed', speed('0'), /at no speed/],
  ])('%s is refused', (_, filter, message) => {
    expect(() => read(sequence(track(nested(filter, [10, 50]))))).toThrow(message)
  })
})

test('a sequence that stands in others again and again is read once, and refused before it grows without end', () => {
  const place = (start: number, inside: string) =>
    `<clipitem>${rateXml()}<start>${start}</start><end>${start + 1}</end><in>0</in><out>1</out>${inside}</clipitem>`
  const shot = track(clip({ start: 0, end: 40, in: 0, out: 40 }))
  let inner = `<sequence id="s0">${rateXml()}<media><video>${shot}</video></media></sequence>`
  for (let level = 1; level <= 40; level++) {
    const tracks = [inner, ...Array.from({ length: 3 }, () => `<sequence id="s${level - 1}"/>`)]
    const video = tracks.map((inside) => track(place(0, inside))).join('')
    inner = `<sequence id="s${level}">${rateXml()}<media><video>${video}</video></media></sequence>`
  }
  expect(() => read(sequence(track(place(0, inner))))).toThrow('events when they are laid out')
})

test('what is switched off, generated or marked', () => {
  const off = clip({ start: 0, end: 50, in: 0, out: 50 }, `${file('f1')}<enabled>FALSE</enabled>`)
  const title = `<generatoritem><name>Title</name>${rateXml()}<start>50</start><end>75</end><in>0</in><out>25</out></generatoritem>`
  const marker = '<marker><name>look</name><comment>here</comment><in>12</in><out>-1</out></marker>'
  const cut = read(sequence(track(off, title), '', marker))
  expect(cut.events[0]?.isDisabled).toBe(true)
  expect(cut.generators).toEqual([{ track: 'V1', name: 'Title', record: { startFrame: 90_050, endFrame: 90_075 } }])
  expect(cut.markers).toEqual([{ recordFrame: 90_012, durationFrames: 0, name: 'look', note: 'here' }])
  const again = read(writeProven(cut, xmeml))
  expect([again.generators, again.markers]).toEqual([cut.generators, cut.markers])
})

test('of several sequences the first is read, and the others are told', () => {
  const two = sequence(track(clip({ start: 0, end: 50, in: 0, out: 50 }))).replace(
    '</xmeml>',
    `<sequence id="other"><name>Reel 5</name></sequence></xmeml>`,
  )
  expect(read(two).leftOut).toEqual([
    { location: 'line 9', reason: 'the sequence “Reel 5” is another one, and was not read.' },
  ])
})

test('version 4 where that is wanted', () => {
  const cut = read(sequence(track(clip({ start: 0, end: 50, in: 0, out: 50 }))))
  expect(xmeml.write(cut)).toContain('<xmeml version="5">')
  expect(writeProven(cut, xmeml, { xmemlVersion: 4 })).toContain('<xmeml version="4">')
})

describe('refusing, with the line and the reason', () => {
  const good = sequence(track(clip({ start: 0, end: 50, in: 0, out: 50 })))
  test.each([
    ['not well-formed', good.replace('</media>', ''), /line \d+: /],
    ['another document', '<?xml version="1.0"?><timeline/>', 'no xmeml document'],
    [
      'an entity',
      good.replace('<!DOCTYPE xmeml>', '<!DOCTYPE xmeml [<!ENTITY a "aaaa">]>'),
      'document type of its own',
    ],
    [
      'a file elsewhere',
      good.replace('<!DOCTYPE xmeml>', '<!DOCTYPE xmeml SYSTEM "file:///etc/passwd">'),
      'names another file',
    ],
    ['an entity of nobody', good.replace('Reel 4', '&passwd;'), /entity/],
    ['no clip', sequence(track()), 'no clip'],
    ['no sequence', '<xmeml version="5"></xmeml>', 'no sequence'],
    [
      'a length that nothing explains',
      sequence(track(clip({ start: 0, end: 50, in: 0, out: 60 }))),
      'no speed explains',
    ],
    ['−1 without a transition', sequence(track(clip({ start: -1, end: 50, in: 0, out: 50 }))), 'no transition'],
    ['a number that is none', good.replace('<in>0</in>', '<in>zero</in>'), 'no number of frames'],
    ['elements without end', `<xmeml>${'<a>'.repeat(5000)}`, 'deep'],
  ])('%s', (_, text, reason) => {
    expect(() => read(text)).toThrow(CutFormatError)
    expect(() => read(text)).toThrow(reason)
  })
})

test('it is told from other XML by what is in it', () => {
  expect(recogniseCutFormat('x.xml', sequence('')).id).toBe('xmeml')
  expect(recogniseCutFormat('cut.txt', sequence('')).id).toBe('xmeml')
})
