import { describe, expect, test } from '@jest/globals'
import { pictureFacts } from '../testing/facts.ts'
import { clip, event, frame, look } from '../testing/trouble.ts'
import type { FindingClip } from './finding.ts'

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

  test('what an archive lacks is not what else is called so, until a person says it is', () => {
    const was = { name: 'A001C001', volumeLabel: 'TIDE-1', content: 'first' }
    const other = clip({ id: 'x', content: 'other' })
    const { resolutions, findings } = look([event()], [other], { awaited: [[0, was]] })
    expect(resolutions[0]).toMatchObject({ state: 'unresolved', clipId: null, rivals: ['x'] })
    expect(findings).toHaveLength(1)
    expect(findings[0]).toMatchObject({
      ...{ kind: 'another original', severity: 'blocks handoff', choices: [{ clipId: 'x' }] },
      message:
        'A001C001.mov: the archive lacks A001C001 of “TIDE-1”, which event 001 used. A001C001.mov fits, and holds ' +
        'something else. Choose it if it is the same shot.',
    })
    const state = (clips: FindingClip[], change: Parameters<typeof look>[2]) =>
      look([event()], clips, change).resolutions[0]?.state
    expect(state([other], { awaited: [[0, was]], chosen: [[0, 'x']] })).toBe('on original')
    expect(state([clip({ content: 'first' })], { awaited: [[0, was]] })).toBe('on original')
    // What several claimed is on none of them because one alone came back.
    expect(state([other], { awaited: [[0, { ...was, content: null }]] })).toBe('unresolved')
    expect(look([event()], [], { awaited: [[0, was]] }).findings[0]).toMatchObject({
      ...{ kind: 'unresolved', choices: [] },
      message: 'A001C001.mov: no known original fits event 001; the archive lacks A001C001 of “TIDE-1”.',
    })
    // What it held is it, whatever it is called, and whatever else is called so.
    const back = clip({ id: 'y', name: 'back.mov', content: 'first' })
    const twin = clip({ id: 'z', content: 'first' })
    for (const clips of [[back], [other, twin]])
      expect(look([event()], clips, { awaited: [[0, was]] }).resolutions[0]).toMatchObject({
        ...{ state: 'on original', by: 'content', clipId: clips.at(-1)?.id },
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
