import { describe, expect, test } from '@jest/globals'
import { carryOver, describeRelation, type OpenChoice, relationHolds, relationsOf } from './index.ts'

const words = (known: string | null, path: string, rivals: string[] = []): string[] =>
  relationsOf(known, path, rivals).map(describeRelation)

describe('how a file relates to what it is taken for', () => {
  test.each([
    ['/old/day 1/A.mov', '/new/day 1/A.mov', '/old → /new'],
    ['/card/A.mov', '/shelf/card/A.mov', '/ → /shelf'],
    ['P:\\day 1\\A.mov', '/mnt/p/day 1/A.mov', 'P: → /mnt/p'],
    ['/x/A.mov', '/x/A_v2.mov', 'names with “_v2” at the end'],
    ['/x/A_v2.mov', '/x/A.mov', 'names without “_v2” at the end'],
    ['/x/A001.mov', '/y/CAM_A001.mxf', '/x → /y, names with “CAM_” in front, .mxf for .mov'],
    ['/x/A001-C001.mov', '/x/A001_C001.mov', 'names with “_” for “-”'],
    ['/x/A.mov', '/x/A.mxf', '.mxf for .mov'],
    ['/x/A.mov', '/x/A.mov', 'where it was'],
  ])('%s taken for %s', (known, path, rule) => {
    const [relation] = relationsOf(known, path)
    expect(relation && describeRelation(relation)).toBe(rule)
    expect(relation && relationHolds(relation, known, path)).toBe(true)
  })

  test('is no rule when the names have nothing in common, or a number in the middle became another', () => {
    expect(words('/x/A001.mov', '/x/B002.mov')).toEqual([])
    expect(words('/x/A001_cam.mov', '/x/A002_cam.mov')).toEqual([])
    expect(words('/x/A-B-C.mov', '/x/A-B_C.mov')).toEqual([])
    expect(words('/x/B001C002.mov', '/x/wheel close, take 2.mov')).toEqual([])
  })

  test('is the branch that no rival lies in, where only the name is known or nothing', () => {
    expect(words('A.mov', '/d/day 4/A/A.mov', ['/d/day 5/A/A.mov'])).toEqual(['below /d/day 4'])
    expect(words('A', '/d/day 4/A.mov', ['/d/day 5/A.mov'])).toEqual(['below /d/day 4'])
    expect(words('A', '/d/CAM_A.mov')).toEqual(['below /d, names with “CAM_” in front'])
    expect(words(null, '/d/day 4/A.mov', ['/d/A.mov'])).toEqual(['below /d/day 4'])
    expect(words(null, '/d/A.mov', ['/d/again/A.mov'])).toEqual(['in /d'])
    expect(words(null, '/d/A.mov', ['/d/B.mov'])).toEqual([])
  })

  test('does not hold where one of its parts does not', () => {
    const [moved] = relationsOf('/old/day 1/A.mov', '/new/day 1/A.mov')
    if (!moved) throw new Error('There is a relation.')
    expect(relationHolds(moved, '/old/day 2/B.mov', '/new/day 2/B.mov')).toBe(true)
    expect(relationHolds(moved, '/OLD/day 2/b.mov', '/new/day 2/B.mov')).toBe(true)
    expect(relationHolds(moved, '/older/day 2/B.mov', '/new/day 2/B.mov')).toBe(false)
    expect(relationHolds(moved, '/old/day 2/B.mov', '/new/day 3/B.mov')).toBe(false)
    expect(relationHolds(moved, '/old/day 2/B.mov', '/new/day 2/C.mov')).toBe(false)
    expect(relationHolds(moved, 'B.mov', '/new/B.mov')).toBe(false)
  })
})

describe('one choice', () => {
  const open = (id: string, known: string | null, ...paths: string[]): OpenChoice => ({
    ...{ id, known },
    options: paths.map((path) => ({ id: path, path })),
  })
  const carried = (chosen: OpenChoice, path: string, others: OpenChoice[], isShared = false) => {
    const said = carryOver(chosen, path, others, isShared)
    return said && [said.rule, Object.fromEntries(said.choices.map(({ id, option }) => [id, option.id]))]
  }

  test('carries over to its neighbours by the same root, and to no other', () => {
    const others = [
      open('b', '/old/2/B.mov', '/copy/2/B.mov', '/new/2/B.mov'),
      open('elsewhere', '/other/2/C.mov', '/copy/2/C.mov', '/new/2/C.mov'),
      open('nothing there', '/old/2/D.mov', '/copy/2/D.mov'),
    ]
    const chosen = open('a', '/old/1/A.mov', '/copy/1/A.mov', '/new/1/A.mov')
    expect(carried(chosen, '/new/1/A.mov', others)).toEqual(['/old → /new', { b: '/new/2/B.mov' }])
  })

  test('carries over by the rule that changed the names', () => {
    const others = [
      open('b', '/x/B.mov', '/x/B_v2.mov', '/x/B_v3.mov'),
      open('named otherwise', '/x/C.mov', '/x/C_v3.mov'),
    ]
    const chosen = open('a', '/x/A.mov', '/x/A_v2.mov', '/x/A_v3.mov')
    expect(carried(chosen, '/x/A_v2.mov', others)).toEqual(['names with “_v2” at the end', { b: '/x/B_v2.mov' }])
  })

  test('carries over to what lies in the same of the folders between which there was a doubt', () => {
    const both = (name: string): OpenChoice => open(name, null, `/d/4/${name}/x.mov`, `/d/5/${name}/x.mov`)
    const others = [both('b'), open('two there', null, '/d/4/c/1.mov', '/d/4/c/2.mov')]
    expect(carried(both('a'), '/d/4/a/x.mov', others)).toEqual(['below /d/4', { b: '/d/4/b/x.mov' }])
  })

  test('carries over to what lies in a folder itself, where its copies lie below that', () => {
    const both = (name: string): OpenChoice => open(name, `${name}.mov`, `/d/${name}.mov`, `/d/again/${name}.mov`)
    expect(carried(both('a'), '/d/a.mov', [both('b')])).toEqual(['in /d', { b: '/d/b.mov' }])
    expect(carried(both('a'), '/d/again/a.mov', [both('b')])).toEqual(['below /d/again', { b: '/d/again/b.mov' }])
  })

  test('falls back to the folder, when what was moved was put into one', () => {
    const others = [open('b', '/old/2/B.mov', '/flat/B.mov', '/copy/B.mov')]
    const chosen = open('a', '/old/1/A.mov', '/flat/A.mov', '/copy/A.mov')
    expect(carried(chosen, '/flat/A.mov', others)).toEqual(['below /flat', { b: '/flat/B.mov' }])
  })

  test('gives no file to two, unless it may go to several', () => {
    const others = [open('b', 'A.mov', '/4/A.mov', '/5/A.mov'), open('c', 'A.mov', '/4/A.mov', '/5/A.mov')]
    const chosen = open('a', 'X.mov', '/4/X.mov', '/5/X.mov')
    expect(carried(chosen, '/4/X.mov', others)).toBeNull()
    expect(carried(chosen, '/4/X.mov', others, true)).toEqual(['below /4', { b: '/4/A.mov', c: '/4/A.mov' }])
    expect(carried(chosen, '/4/X.mov', [open('b', 'X.mov', '/4/X.mov')])).toBeNull()
  })

  test('says nothing alone', () => {
    expect(carried(open('a', '/old/A.mov', '/new/A.mov'), '/new/A.mov', [])).toBeNull()
  })
})
