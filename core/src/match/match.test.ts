import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { sameReel } from '../naming/index.ts'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { proposeAmong } from '../testing/propose-among.ts'
import { exactRange, rate } from '../time/index.ts'
import { type Candidate, type ProposalRow, roleOf, type Wanted } from './index.ts'

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
  pictures: null,
  picture: null,
  uses: [],
  ...change,
})
const file = (path: string, change: Partial<Candidate> = {}): Candidate => ({
  id: path,
  path,
  facts: pictureFacts(),
  reel: null,
  fingerprint: path,
  role: 'original',
  roleReason: null,
  ...change,
})
const plan = (items: Wanted[], files: Candidate[]) => proposeAmong(items, files, ['_proxy'])
const one = (item: Wanted, ...files: Candidate[]) => plan([item], files)[0] as ProposalRow

/** A lost clip of which all is known, as the ledger knows it. */
const lost = (change: Partial<Wanted> = {}): Wanted =>
  wanted('A001C001', {
    path: '/cards/A001/A001C001.mov',
    reel: 'A001',
    startFrame: 900_000,
    frames: 100,
    channels: 2,
    fingerprint: 'aaaa',
    picture: { width: 1920, height: 1080, codec: 'h264', pixelFormat: 'yuv420p' },
    uses: [{ label: 'event 7', rate: rate(25), range: exactRange({ startFrame: 900_010, endFrame: 900_090 }) }],
    ...change,
  })
const found = (change: Partial<Candidate> = {}): Candidate =>
  file('/shelf/A001C001.mov', { reel: 'A001', fingerprint: 'aaaa', ...change })

describe('a match beyond doubt', () => {
  test('is the content, under whatever name and wherever it lies', () => {
    expect(
      one(lost(), found({ path: '/x/other.mov', id: 'x' }), found({ id: 'y', fingerprint: 'bbbb' })),
    ).toMatchObject({
      outcome: 'fits',
      candidateId: 'x',
      rule: 'renamed',
    })
  })

  test('is a name that nothing else has, with reel, start and length, where the content is not known', () => {
    expect(one(lost({ fingerprint: null }), found())).toMatchObject({ outcome: 'fits', rule: '/cards/A001 → /shelf' })
  })

  test('rows of one moved root share a rule', () => {
    const items = ['c1', 'c2'].map((id) => wanted(id, { startFrame: 900_000 }))
    const rows = plan(items, [file('/new/B/A/c1.mov'), file('/new/B/A/c2.mov')])
    expect(rows.map((row) => row.rule)).toEqual(Array(2).fill('/old → /new/B'))
  })

  test('is not a name alone among many, nor facts with another name: those are likely, and never chosen', () => {
    const others = Array.from({ length: 60 }, (_, number) => file(`/new/x${number}.mov`))
    const bare = pictureFacts({ start: null, reel: null })
    expect(plan([wanted('c1')], [file('/new/c1.mov', { facts: bare }), ...others])[0]).toMatchObject({
      outcome: 'likely',
      candidateId: null,
    })
    expect(one(lost({ fingerprint: null }), found({ path: '/shelf/shot 4.mov' }))).toMatchObject({
      outcome: 'likely',
      reason: expect.stringContaining('differs in name'),
    })
  })

  test('is not the right name and length with another content, or with another reel', () => {
    expect(one(lost(), found({ fingerprint: 'bbbb' }))).toMatchObject({
      outcome: 'likely',
      reason: expect.stringContaining('differs in content'),
    })
    expect(one(lost(), found({ fingerprint: 'bbbb', reel: 'B002' }))).toMatchObject({ candidateId: null })
    expect(one(lost({ fingerprint: null }), found({ reel: 'B002' }))).toMatchObject({ candidateId: null })
  })

  test('is not a start of nought, nor a start and length that others have too', () => {
    const atNought = { facts: pictureFacts({ start: '00:00:00:00' }), reel: null }
    const row = one(
      lost({ startFrame: 0, reel: null, uses: [] }),
      file('/new/other.mov', atNought),
      file('/new/third.mov', { ...atNought, facts: pictureFacts({ start: '00:00:00:00', frames: 77 }) }),
    )
    expect(row.candidateId).toBeNull()
    expect(row.outcome).not.toBe('ambiguous')
  })
})

describe('gates', () => {
  test.each<[string, Partial<Candidate>, Partial<Wanted>, string]>([
    ['another kind', { facts: soundFacts(480_000, 0) }, {}, 'it is sound, and picture is wanted'],
    ['another rate', { facts: pictureFacts({ rate: rate(24) }) }, {}, 'its rate is 24, not 25'],
    ['too short', { facts: pictureFacts({ frames: 85 }) }, {}, 'too short: event 7 needs 5 frames at the tail more'],
    ['starts late', { facts: pictureFacts({ start: '10:00:00:12' }) }, {}, 'event 7 needs 2 frames at the head more'],
    [
      'elsewhere',
      { facts: pictureFacts({ start: '02:36:31:05' }) },
      {},
      'its timecode is elsewhere: event 7 needs 10:00:00:10 to 10:00:03:15, and it runs from 02:36:31:05 to 02:36:35:05',
    ],
    ['a proxy', { role: 'proxy', roleReason: 'it lies where proxies come in' }, {}, 'it is no original: it lies where'],
    [
      'a smaller re-export',
      { facts: pictureFacts({ width: 960, height: 540 }) },
      {},
      'it is 960 × 540, and the lost original is 1920 × 1080',
    ],
    [
      'a codec of lower grade',
      {},
      { picture: { width: 1920, height: 1080, codec: 'prores', pixelFormat: 'yuv422p10le' } },
      'it is H.264, and the lost original is ProRes: a re-export of lower grade',
    ],
    [
      'fewer bits',
      { facts: pictureFacts({ codec: 'prores', pixelFormat: 'yuv420p' }) },
      { picture: { width: 1920, height: 1080, codec: 'prores', pixelFormat: 'yuv422p10le' } },
      'it has 8 bits a sample, and the lost original 10',
    ],
  ])('%s is refused, and says why', (_, change, item, reason) => {
    const row = one(lost(item), found({ fingerprint: 'bbbb', ...change }))
    expect(row).toMatchObject({ outcome: 'refused', candidateId: null })
    expect(row.reason).toContain(reason)
    expect(row.rated).toHaveLength(1)
  })

  test('the very content is neither a proxy nor a re-export', () => {
    expect(one(lost(), found({ role: 'proxy' })).outcome).toBe('fits')
  })

  test('every use counts, whichever cut it is in', () => {
    const uses = [
      ...lost().uses,
      { label: 'event 2 of “B”', rate: rate(25), range: exactRange({ startFrame: 900_050, endFrame: 900_130 }) },
    ]
    expect(one(lost({ uses }), found({ fingerprint: 'bbbb' })).reason).toContain('event 2 of “B” needs 30 frames')
  })

  test('where the content that is wanted lies at hand, the same name with other content is refused', () => {
    const row = one(lost(), found({ id: 'a', path: '/x/moved.mov' }), found({ id: 'b', fingerprint: 'bbbb' }))
    expect(row.rated.map(({ candidateId, rating }) => [candidateId, rating.gates.map(({ gate }) => gate)])).toEqual([
      ['a', []],
      ['b', ['content']],
    ])
  })

  test('an event on a picture track shows pictures and stills, one on a sound track anything that sounds', () => {
    const asked = (kind: Wanted['kind'], facts: Candidate['facts']) =>
      one(wanted('c1', { kind, rate: null }), file('/new/c1.mov', { facts })).outcome
    const still = { ...pictureFacts({ channels: 0 }), kind: 'still' as const }
    expect(asked('picture or still', still)).toBe('likely')
    expect(asked('picture or still', soundFacts(480_000, 0))).toBe('refused')
    expect(asked('with sound', pictureFacts())).toBe('likely')
    expect(asked('with sound', still)).toBe('refused')
  })
})

describe('equal twins', () => {
  const twins = (count: number, content: (number: number) => string) =>
    Array.from({ length: count }, (_, number) => file(`/new/${number}/same.mov`, { fingerprint: content(number) }))
  const rows = (count: number) =>
    Array.from({ length: count }, (_, number) =>
      wanted(`w${number}`, { names: ['same.mov'], path: null, startFrame: 900_000 }),
    )

  test('of different content make every one of their rows ambiguous, however many they are', () => {
    for (const count of [1, 2, 12])
      for (const row of plan(rows(count), twins(Math.max(2, count), String)))
        expect(row).toMatchObject({
          outcome: 'ambiguous',
          candidateId: null,
          reason: expect.stringMatching(/^(Two|12) files/),
        })
    expect(plan(rows(12), twins(12, String))[0]?.rated).toHaveLength(12)
  })

  test('of one content serve any, one each', () => {
    const given = plan(
      rows(12),
      twins(12, () => 'f'),
    ).map((row) => row.candidateId)
    expect(new Set(given).size).toBe(12)
    expect(given).not.toContain(null)
  })

  test('one file that two lost ones fit is given to neither; where one fits better it gets it', () => {
    const both = plan(
      [wanted('c1', { names: ['same.mov'] }), wanted('c2', { names: ['same.mov'] })],
      [file('/new/same.mov')],
    )
    expect(both.map((row) => [row.outcome, row.reason])).toEqual(
      Array(2).fill(['ambiguous', 'One file fits this and another lost one equally well: choose who gets it.']),
    )
    const [first, second] = plan([lost(), wanted('c2', { names: ['A001C001.mov'] })], [found()])
    expect(first?.outcome).toBe('fits')
    expect(second).toMatchObject({ outcome: 'refused', reason: 'The only file that fits belongs to another clip.' })
  })

  test('a reel that one of two does not say makes no tie with the one that agrees', () => {
    const row = one(
      lost({ fingerprint: null }),
      found({ id: 'true', fingerprint: 'a' }),
      found({
        id: 'bare',
        path: '/y/A001C001.mov',
        reel: null,
        fingerprint: 'b',
        facts: pictureFacts({ start: null, reel: null }),
      }),
    )
    expect(row).toMatchObject({ outcome: 'fits', candidateId: 'true' })
  })
})

describe('pictures', () => {
  const small = (distances: Record<string, number>, change: Partial<Wanted> = {}): Wanted =>
    wanted('take', { names: ['select 4.mov'], frames: 100, pictures: new Map(Object.entries(distances)), ...change })
  const clip = (name: string, start = '10:00:00:00'): Candidate =>
    file(`/cards/${name}.mov`, { id: name, reel: 'A001', facts: pictureFacts({ start }) })
  const clips = [clip('A001C001'), clip('A001C002', '11:00:00:00'), clip('A001C003', '12:00:00:00')]
  const among = (item: Wanted) => proposeAmong([item], clips, ['_proxy'], true)[0] as ProposalRow

  test('that no other clip shows find it alone, whatever it is called', () => {
    expect(among(small({ A001C002: 0.004, A001C001: 0.5 }))).toMatchObject({ outcome: 'fits', candidateId: 'A001C002' })
  })

  test('that two clips show choose neither; of look-alikes the one that is clearly nearer is it', () => {
    expect(among(small({ A001C001: 0.012, A001C002: 0.01 })).outcome).toBe('ambiguous')
    expect(among(small({ A001C001: 0.09, A001C002: 0.004 }))).toMatchObject({
      outcome: 'fits',
      candidateId: 'A001C002',
    })
  })

  test('outweigh one wrong word, and never two', () => {
    const named = { names: ['A001C001_proxy.mov'], rate: rate(25), reel: 'A001' }
    const late = small({ A001C001: 0.003 }, { ...named, startFrame: 900_050 })
    expect(among(late)).toMatchObject({ outcome: 'fits', candidateId: 'A001C001' })
    // Name and timecode are the first's, the pictures the second's: nobody is chosen.
    const swapped = small({ A001C001: 0.6, A001C002: 0.003 }, { ...named, startFrame: 900_000 })
    expect(among(swapped).outcome).not.toBe('fits')
    expect(among(swapped).rated.map(({ candidateId }) => candidateId)).toEqual(
      expect.arrayContaining(['A001C001', 'A001C002']),
    )
  })

  test('that are neither alike nor clearly others say nothing', () => {
    const facts = { names: ['A001C001_proxy.mov'], rate: rate(25), reel: 'A001', startFrame: 900_000 }
    const unsure = among(small({ A001C001: 0.14 }, facts))
    expect(unsure).toMatchObject({ outcome: 'fits', candidateId: 'A001C001' })
    expect(unsure.rated[0]?.rating.evidence.map(({ aspect }) => aspect)).not.toContain('pictures')
  })
})

describe('a batch of any size', () => {
  const name = fc.constantFrom('c1', 'c2', 'c3', 'c4')
  const wantedList = fc.uniqueArray(name, { maxLength: 4 })
  const fileList = fc.uniqueArray(
    fc.record({
      folder: fc.constantFrom('/x', '/y', '/z'),
      name,
      fingerprint: fc.constantFrom('f', 'g', 'h'),
      isOtherRate: fc.boolean(),
    }),
    { selector: (item) => `${item.folder}/${item.name}`, maxLength: 8 },
  )
  const filesOf = (list: { folder: string; name: string; fingerprint: string; isOtherRate: boolean }[]) =>
    list.map((item) =>
      file(`${item.folder}/${item.name}.mov`, {
        fingerprint: item.fingerprint,
        facts: item.isOtherRate ? pictureFacts({ rate: rate(24) }) : pictureFacts(),
      }),
    )

  test('asked is the sum of what came of it, no file goes to two, and nothing refused is chosen', () => {
    fc.assert(
      fc.property(wantedList, fileList, (names, files) => {
        const rows = plan(
          names.map((id) => wanted(id)),
          filesOf(files),
        )
        expect(rows.map((row) => row.wantedId)).toEqual(names)
        const chosen = rows.flatMap((row) => (row.candidateId === null ? [] : [row.candidateId]))
        expect(new Set(chosen).size).toBe(chosen.length)
        for (const row of rows) {
          expect(row.candidateId === null).toBe(row.outcome !== 'fits')
          const rating = row.rated.find((entry) => entry.candidateId === row.candidateId)?.rating
          if (row.outcome === 'fits') expect(rating?.gates).toEqual([])
          expect(row.reason).not.toBe('')
        }
      }),
    )
  })

  test('the order of what is given does not matter', () => {
    fc.assert(
      fc.property(wantedList, fileList, fc.infiniteStream(fc.nat()), (names, list, chance) => {
        const shuffled = <T>(items: readonly T[]): T[] =>
          items
            .map((item) => ({ item, key: chance.next().value as number }))
            .sort((a, b) => a.key - b.key)
            .map(({ item }) => item)
        const items = names.map((id) => wanted(id, { names: ['c1.mov', `${id}.mov`] }))
        const files = filesOf(list)
        const byId = (rows: readonly ProposalRow[]) => [...rows].sort((a, b) => (a.wantedId < b.wantedId ? -1 : 1))
        expect(byId(plan(shuffled(items), shuffled(files)))).toEqual(byId(plan(items, files)))
      }),
    )
  })
})

test('a list may keep eight characters of a reel, and Unicode forms of one name are one', () => {
  expect(sameReel('A001C001', 'a001c001_1104')).toBe(true)
  expect(sameReel('A001', 'A0012')).toBe(false)
  expect(sameReel('CAFÉ', 'cafe\u0301')).toBe(true)
})

test('a role is what a person said, else what the ledger, the file, its place or a larger twin say', () => {
  const none = { declared: null, tied: null, madeBy: null, isAmongProxies: false, twinOf: null }
  expect(roleOf(none)).toEqual({ role: 'original', reason: null })
  expect(roleOf({ ...none, twinOf: 'A.mov' })).toEqual({ role: 'proxy', reason: 'it is a smaller twin of A.mov' })
  const all = {
    declared: null,
    tied: { role: 'optimized' as const, name: 'A_opt.mov' },
    madeBy: 'Half',
    isAmongProxies: true,
    twinOf: 'A.mov',
  }
  expect(roleOf(all).reason).toContain('an optimized transcode')
  expect(roleOf({ ...all, declared: { role: 'original', where: 'DAILIES' } })).toEqual({
    role: 'original',
    reason: null,
  })
})

test('where one may go to several, as an original to its proxies, each is judged by itself', () => {
  const items = ['a', 'b'].map((id) => wanted(id, { names: [`same_${id}.mov`, 'same.mov'], startFrame: 900_000 }))
  const rows = proposeAmong(items, [file('/new/same.mov')], ['_proxy'], true)
  expect(rows.map((row) => row.candidateId)).toEqual(['/new/same.mov', '/new/same.mov'])
  const two = proposeAmong(items, [file('/new/same.mov'), file('/new/x/same.mov')], ['_proxy'], true)
  expect(two.map((row) => row.outcome)).toEqual(['ambiguous', 'ambiguous'])
})

describe('of equal files one that stays', () => {
  const onCard = (id: string) => found({ id: `/cards/A001/${id}`, path: '/cards/A001/A001C001.mov', leaves: true })
  const stays = (id: string, change: Partial<Candidate> = {}) => found({ id, path: `/x/${id}.mov`, ...change })

  test('is chosen before one on a card, which agrees in more', () => {
    expect(one(lost(), onCard('c'))).toMatchObject({ outcome: 'fits', candidateId: '/cards/A001/c' })
    expect(one(lost(), onCard('c'), stays('s'))).toMatchObject({ outcome: 'fits', candidateId: 's' })
    expect(one(lost(), stays('s'), onCard('c'))).toMatchObject({ outcome: 'fits', candidateId: 's' })
  })
  test('is not, where it is of other content', () => {
    const differs = stays('s', { fingerprint: 'bbbb' })
    expect(one(lost(), onCard('c'), differs)).toMatchObject({ candidateId: '/cards/A001/c' })
  })
  test('goes to one alone', () => {
    const rows = plan([lost({ id: 'a' }), lost({ id: 'b' })], [onCard('c'), stays('s')])
    expect(rows.map(({ candidateId }) => candidateId).filter((id) => id === 's').length).toBeLessThanOrEqual(1)
  })
})
