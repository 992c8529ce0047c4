import { expect, test } from '@jest/globals'
import { plainEvent } from '../testing/cuts.ts'
import { logOfCut } from './log-of-cut.ts'

test('a cut names each of its sources once, at the line where it does so first', () => {
  const clip = { clipName: 'A001C001', reel: 'A001', path: null, location: 'line 4' }
  const events = [
    plainEvent(clip),
    plainEvent({ ...clip, track: 'A1', kind: 'sound', location: 'line 6' }),
    plainEvent({ clipName: null, reel: null, path: 'X:\\media\\B002.mxf', location: '/tracks/0' }),
    plainEvent({ clipName: null, reel: null, path: null }),
    plainEvent({ ...clip, reel: 'B001', location: 'line 9' }),
  ]
  expect(logOfCut({ events })).toEqual({
    columns: ['Name', 'Tape', 'Source File'],
    rows: [
      { line: 4, cells: ['A001C001', 'A001', 'A001C001'] },
      { line: 3, cells: ['', '', 'B002.mxf'] },
      { line: 9, cells: ['A001C001', 'B001', 'A001C001'] },
    ],
    problems: [],
  })
})
