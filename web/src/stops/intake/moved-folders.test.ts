import { describe, expect, test } from '@jest/globals'
import { movedFolders } from './moved-folders.ts'

const original = (clipId: string, was: string, is: string, [from, to] = ['R-1', 'R-1']) => ({
  ...{ clipId, name: clipId },
  was: { path: was, volumeLabel: from },
  is: { path: is, volumeLabel: to },
})

describe('where originals were moved to', () => {
  test('is told by the folders that differ, of the most first', () => {
    expect(
      movedFolders([
        original('one', 'day 2/x.mov', 'day 2/y.mov'),
        original('two', 'day 1/A001/x.mov', 'D01/A001/x.mov'),
        original('three', 'day 1/A002/x.mov', 'D01/A002/x.mov'),
        original('three', 'day 1/A002/x.wav', 'D01/A002/x.wav'),
      ]),
    ).toEqual([
      { was: 'R-1/day 1', is: 'R-1/D01', originals: 2 },
      { was: 'R-1/day 2/x.mov', is: 'R-1/day 2/y.mov', originals: 1 },
    ])
  })

  test('is the volume alone where nothing else differs, and the folder that was put in between', () => {
    expect(movedFolders([original('one', 'day 1/x.mov', 'day 1/x.mov', ['R-1', 'R-2'])])).toEqual([
      { was: 'R-1', is: 'R-2', originals: 1 },
    ])
    expect(movedFolders([original('one', 'x.mov', 'day 1/x.mov')])).toEqual([
      { was: 'R-1', is: 'R-1/day 1', originals: 1 },
    ])
  })
})
