import { describe, expect, test } from '@jest/globals'
import { assertApplicable, invert, type LinkChange, MendConflict } from './index.ts'

describe('taking back', () => {
  const changes: LinkChange[] = [
    { link: { kind: 'clip file', clipId: 'a', ordinal: 0 }, before: 'f1', after: 'f2', label: 'a' },
    { link: { kind: 'event', cutId: 'c', position: 3 }, before: null, after: 'b', label: 'b' },
  ]
  const apply = (links: Map<string, string | null>, list: readonly LinkChange[]): void => {
    assertApplicable(list, (link) => links.get(JSON.stringify(link)) ?? null)
    for (const change of list) links.set(JSON.stringify(change.link), change.after)
  }

  test('done and taken back leaves every link as it was', () => {
    const links = new Map<string, string | null>([[JSON.stringify(changes[0]?.link), 'f1']])
    apply(links, changes)
    apply(links, invert(changes))
    expect([...links.values()]).toEqual(['f1', null])
    expect(invert(invert(changes)).map(({ label: _, ...rest }) => rest)).toEqual(
      changes.map(({ label: _, ...rest }) => rest),
    )
  })

  test('a link that was changed since stops the whole', () => {
    const links = new Map<string, string | null>([[JSON.stringify(changes[0]?.link), 'elsewhere']])
    expect(() => apply(links, changes)).toThrow(MendConflict)
    expect([...links.values()]).toEqual(['elsewhere'])
  })

  test('a link that would be changed twice at once stops the whole', () => {
    const twice = [changes[1], { ...(changes[1] as LinkChange), after: 'c' }] as LinkChange[]
    expect(() => assertApplicable(twice, () => null)).toThrow('changed twice')
  })
})
