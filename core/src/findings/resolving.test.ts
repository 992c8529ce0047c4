import { describe, expect, test } from '@jest/globals'
import { pictureFacts } from '../testing/facts.ts'
import { clip, event, frame, look } from '../testing/trouble.ts'

describe('resolving', () => {
  test('by name, with a declared suffix taken off', () => {
    const { resolutions, findings } = look([event({ clipName: 'A001C001_proxy.mov' })], [clip()])
    expect(resolutions[0]).toMatchObject({ state: 'on original', by: 'name', clipId: 'A001C001.mov' })
    expect(findings).toEqual([])
  })

  test('by the path of another system, and by the path of its proxy: always to the original', () => {
    const mappings = [{ from: 'P:/LW', to: '/bay' }]
    const known = clip({ id: 'x', madePaths: ['/bay/proxies/y.mov'] })
    expect(
      look([event({ clipName: null, path: 'file:///P:/LW/A001/A001C001.mov' })], [known], { mappings }).resolutions[0],
    ).toMatchObject({
      by: 'path',
      clipId: 'x',
    })
    expect(
      look([event({ clipName: null, path: 'file:///P:/LW/proxies/y.mov' })], [known], { mappings }).resolutions[0],
    ).toMatchObject({
      by: 'path of its proxy',
      state: 'on original',
    })
  })

  test('a renamed original answers to its former name', () => {
    const renamed = clip({ name: 'wheel close.mov', formerNames: ['A001C001'] })
    expect(look([event()], [renamed]).resolutions[0]).toMatchObject({
      by: 'name',
      state: 'on original',
      evidence: [expect.objectContaining({ agrees: true }), expect.anything(), expect.anything()],
    })
  })

  test('by reel and timecode when the name is not known', () => {
    expect(look([event({ clipName: null })], [clip()]).resolutions[0]).toMatchObject({
      by: 'reel and timecode',
      state: 'on original',
    })
    const { findings } = look([event({ clipName: 'renamed in the cut' })], [clip()])
    expect(findings[0]).toMatchObject({
      kind: 'another name',
      severity: 'blocks handoff',
      message:
        'renamed in the cut: A001C001.mov fits event 001 by reel and timecode, and is called otherwise. ' +
        'Choose it if it is the same shot.',
    })
  })

  test('a clip of the same name on another reel, or elsewhere in time, is another twin', () => {
    const wrongReel = look([event({ reel: 'A002' })], [clip()])
    expect(wrongReel.resolutions[0]?.state).toBe('unresolved')
    expect(wrongReel.findings[0]?.evidence.some((row) => row.difference === 'another reel')).toBe(true)
    const elsewhere = look([event({ start: '12:00:00:00', reel: null })], [clip()])
    expect(elsewhere.resolutions[0]?.state).toBe('short')
    expect(elsewhere.findings[0]?.message).toBe(
      'A001C001.mov does not hold what event 001 on V1 needs: source 12:00:00:00 to 12:00:01:00, ' +
        'and it runs from 10:00:00:00 to 10:00:04:00.',
    )
  })

  test('a use after midnight belongs to the clip that runs across it', () => {
    const across = clip({ facts: pictureFacts({ start: '23:59:58:00' }) })
    expect(look([event({ start: '00:00:00:10' })], [across]).resolutions[0]?.state).toBe('on original')
  })

  test('a list that counts the source from zero is shifted to its start', () => {
    const { resolutions } = look(
      [event({ start: '00:00:01:00', mediumStartFrame: 0, reel: null, path: '/bay/A001/A001C001.mov' })],
      [clip()],
    )
    expect(resolutions[0]).toMatchObject({
      state: 'on original',
      needed: { startFrame: frame('10:00:01:00'), endFrame: frame('10:00:02:00') },
    })
  })

  test('a choice by a person comes before everything', () => {
    expect(
      look([event()], [clip(), clip({ name: 'B.mov', facts: pictureFacts({ reel: 'B' }) })], { chosen: [[0, 'B.mov']] })
        .resolutions[0],
    ).toMatchObject({ by: 'choice', clipId: 'B.mov' })
  })
})
