import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import type { Candidate, Wanted } from '../pairing/index.ts'
import { pictureFacts } from '../testing/facts.ts'
import { rate } from '../time/index.ts'
import { assertApplicable, invert, type LinkChange, MendConflict, planRepoint } from './index.ts'

const wanted = (id: string, change: Partial<Wanted> = {}): Wanted => ({
  id,
  names: [`${id}.mov`],
  path: `/old/A/${id}.mov`,
  kind: 'picture',
  reel: null,
  rate: rate(25),
  startFrame: null,
  dropFrame: false,
  frames: null,
  channels: null,
  fingerprint: null,
  uses: [],
  ...change,
})
const file = (path: string, change: Partial<Candidate> = {}): Candidate => ({
  id: path,
  path,
  facts: pictureFacts(),
  reel: null,
  fingerprint: path,
  ...change,
})
const plan = (items: Wanted[], files: Candidate[]) => planRepoint(items, files, ['_proxy'])

describe('planning a repoint', () => {
  test('rows of one moved root share a rule', () => {
    const rows = plan([wanted('c1'), wanted('c2')], [file('/new/B/A/c1.mov'), file('/new/B/A/c2.mov')])
    expect(rows.map((row) => row.rule)).toEqual(['/old → /new/B', '/old → /new/B'])
  })

  test('one file is never given to two, and the counts add up', () => {
    const rows = plan([wanted('c1', { names: ['same.mov'] }), wanted('c2', { names: ['same.mov'] }), wanted('c3')], [file('/new/same.mov')])
    expect(rows.filter((row) => row.candidateId === '/new/same.mov')).toHaveLength(1)
    expect(rows.map((row) => row.outcome).sort()).toEqual(['fits', 'not found', 'refused'])
    expect(rows.find((row) => row.outcome === 'refused')?.reason).toContain('belongs to another')
  })

  test('a tie between different contents chooses neither; between equal contents either will do', () => {
    expect(plan([wanted('c1')], [file('/x/c1.mov'), file('/y/c1.mov')])[0]).toMatchObject({ outcome: 'ambiguous', candidateId: null })
    expect(plan([wanted('c1')], [file('/x/c1.mov', { fingerprint: 'f' }), file('/y/c1.mov', { fingerprint: 'f' })])[0]?.outcome).toBe(
      'fits',
    )
  })

  test('a refused candidate is listed with its reason and not taken', () => {
    const [row] = plan([wanted('c1')], [file('/x/c1.mov', { facts: pictureFacts({ rate: rate(24) }) })])
    expect(row).toMatchObject({ outcome: 'refused', candidateId: null })
    expect(row?.reason).toContain('its rate is 24')
    expect(row?.rated).toHaveLength(1)
  })

  test('the same content under another name is found as renamed', () => {
    const [row] = plan([wanted('c1', { fingerprint: 'f' })], [file('/x/other.mov', { fingerprint: 'f' }), file('/x/c1.mov')])
    expect(row).toMatchObject({ outcome: 'fits', candidateId: '/x/other.mov', rule: 'renamed' })
  })
})

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
    expect(invert(invert(changes)).map(({ label: _, ...rest }) => rest)).toEqual(changes.map(({ label: _, ...rest }) => rest))
  })

  test('a link that was changed since stops the whole', () => {
    const links = new Map<string, string | null>([[JSON.stringify(changes[0]?.link), 'elsewhere']])
    expect(() => apply(links, changes)).toThrow(MendConflict)
    expect([...links.values()]).toEqual(['elsewhere'])
  })
})

describe('a batch of any size', () => {
  const name = fc.constantFrom('c1', 'c2', 'c3', 'c4')
  const wantedList = fc.uniqueArray(name, { maxLength: 4 })
  const fileList = fc.uniqueArray(
    fc.record({ folder: fc.constantFrom('/x', '/y', '/z'), name, fingerprint: fc.constantFrom('f', 'g', 'h'), isOtherRate: fc.boolean() }),
    {
      selector: (item) => `${item.folder}/${item.name}`,
      maxLength: 8,
    },
  )

  test('asked is the sum of what came of it, no file goes to two, and nothing refused is chosen', () => {
    fc.assert(
      fc.property(wantedList, fileList, (names, files) => {
        const rows = plan(
          names.map((id) => wanted(id)),
          files.map((item) =>
            file(`${item.folder}/${item.name}.mov`, {
              fingerprint: item.fingerprint,
              facts: item.isOtherRate ? pictureFacts({ rate: rate(24) }) : pictureFacts(),
            }),
          ),
        )
        expect(rows.map((row) => row.wantedId)).toEqual(names)
        const chosen = rows.flatMap((row) => (row.candidateId === null ? [] : [row.candidateId]))
        expect(new Set(chosen).size).toBe(chosen.length)
        for (const row of rows) {
          expect(row.candidateId === null).toBe(row.outcome !== 'fits')
          const rating = row.rated.find((entry) => entry.candidateId === row.candidateId)?.rating
          if (row.outcome === 'fits') expect(rating?.refusal).toBeNull()
          expect(row.reason).not.toBe('')
        }
      }),
    )
  })
})
