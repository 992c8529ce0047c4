import { describe, expect, test } from '@jest/globals'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { whyNotOneClip } from './index.ts'

const part = (path: string, start: string, change: Parameters<typeof pictureFacts>[0] = {}) => ({
  path,
  facts: pictureFacts({ start, frames: 25, ...change }),
})
const track = (path: string, samples: number, at: number) => ({ path, facts: soundFacts(samples, at) })
const atom = (path: string, id: string | null, isPicture: boolean) => ({
  path,
  facts: {
    ...(isPicture ? pictureFacts({ channels: 0 }) : soundFacts(96_000, 0)),
    materialPackage: id === null ? null : { id, name: null },
  },
})

describe('parts of a take', () => {
  test('follow each other to the frame', () => {
    const [one, two, three] = [part('a/A_1.mov', '10:00:00:00'), part('b/A_2.mov', '10:00:01:00')].concat(
      part('A_3.mov', '10:00:02:00'),
    ) as [ReturnType<typeof part>, ReturnType<typeof part>, ReturnType<typeof part>]
    expect(whyNotOneClip([one, two, three])).toBeNull()
    expect(whyNotOneClip([one])).toBeNull()
    expect(whyNotOneClip([one, three])).toBe('A_3.mov begins at 10:00:02:00, where A_1.mov ends at 10:00:01:00')
    expect(whyNotOneClip([two, one])).toBe('A_1.mov begins at 10:00:00:00, where A_2.mov ends at 10:00:02:00')
  })

  test('are of one make', () => {
    const [one, two] = [part('A_1.mov', '10:00:00:00'), part('A_2.mov', '10:00:01:00', { reel: 'B002' })]
    expect(whyNotOneClip([one, two])).toBe('A_2.mov has another rate, raster, codec, reel or sound than A_1.mov')
  })

  test('of which one cannot be read are not judged', () => {
    expect(whyNotOneClip([part('A_1.mov', '10:00:00:00'), { path: 'A_2.mov', facts: null }])).toBeNull()
  })
})

test('tracks of a recording begin together and are as long', () => {
  const first = track('T_1.wav', 96_000, 480_000)
  expect(whyNotOneClip([first, track('T_2.wav', 96_000, 480_000)])).toBeNull()
  expect(whyNotOneClip([first, track('T_2.wav', 96_000, 480_001)])).toBe('T_2.wav begins 1 sample later than T_1.wav')
  expect(whyNotOneClip([first, track('T_2.wav', 95_000, 480_000)])).toBe(
    'T_2.wav is 1,000 samples shorter than T_1.wav',
  )
})

test('tracks of MXF OP-Atom name one material package', () => {
  const picture = atom('M_V1.mxf', 'one', true)
  expect(whyNotOneClip([picture, atom('M_A1.mxf', 'one', false), atom('M_A2.mxf', 'one', false)])).toBeNull()
  expect(whyNotOneClip([picture, atom('M_A1.mxf', 'one', false), atom('M_A2.mxf', 'two', false)])).toBe(
    'M_A2.mxf names another material package than M_V1.mxf',
  )
  expect(whyNotOneClip([picture, atom('M_A1.mxf', null, false)])).toBeNull()
})
