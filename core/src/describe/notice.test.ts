import { describe, expect, test } from '@jest/globals'
import { findReelOverlaps, type ReeledClip } from '../media/index.ts'
import { pictureFacts, soundFacts, soundNotes } from '../testing/facts.ts'
import { parseTimecode, rate } from '../time/index.ts'
import { clipNotices, type NoticedClip, overlapNotice } from './index.ts'

const clip = (change: Partial<NoticedClip> = {}): NoticedClip => ({
  id: 'c',
  volumeLabel: 'A001',
  volumeKind: 'drive',
  copyKinds: [],
  presence: 'here',
  isChanged: false,
  notOneClip: null,
  reelFromFile: null,
  notesFromFile: { scene: null, take: null },
  syncChange: null,
  unlikeCopies: [],
  proxyPlays: false,
  sequence: null,
  facts: pictureFacts(),
  ...change,
})
const kinds = (change: Partial<NoticedClip>) => clipNotices(clip(change), '2026-11-25').map((notice) => notice.kind)

describe('what is noteworthy about a clip', () => {
  test('nothing, on a drive', () => expect(kinds({})).toEqual([]))
  test('that what was taken for its copy is none, and where that lies', () => {
    const [notice] = clipNotices(clip({ unlikeCopies: ['day 1/A.mov on “CLONE”'] }), '2026-11-25')
    expect(notice?.kind).toBe('copy differs')
    expect(notice?.message).toContain('day 1/A.mov on “CLONE”')
  })
  test('that it is another than at first, while it is there', () => {
    expect(kinds({ isChanged: true })).toEqual(['original changed'])
    expect(kinds({ isChanged: true, presence: 'gone' })).toEqual([])
  })
  test('that its file says another reel than when it came; what a person or a rule said is not held against it', () => {
    const facts = { ...pictureFacts(), reel: 'B009' }
    expect(clipNotices(clip({ facts, reelFromFile: 'A001' }), '2026-11-25')).toMatchObject([
      {
        kind: 'reel mismatch',
        message:
          'It is of reel A001, as its file said when it came; what lies there now says B009. ' +
          'Set its reel right if that one is meant.',
      },
    ])
    expect(kinds({ facts, reelFromFile: 'b009' })).toEqual([])
    expect(kinds({ facts })).toEqual([])
    expect(kinds({ facts: { ...facts, reel: null }, reelFromFile: 'A001' })).toEqual([])
  })
  test('that its file says another scene or take than when it came', () => {
    const facts = { ...soundFacts(1, 1), soundNotes: soundNotes({ scene: '12A', take: '3' }) }
    const told = (scene: string | null, take: string | null) =>
      clipNotices(clip({ facts, notesFromFile: { scene, take } }), '2026-11-25').map(({ message }) => message)
    expect(told('12A', '2')).toEqual(['It is of take 2, as its file said when it came; what lies there now says 3.'])
    expect(told('12', '3')).toEqual(['It is of scene 12, as its file said when it came; what lies there now says 12A.'])
    expect([told('12A', '3'), told(null, null)]).toEqual([[], []])
  })
  test('that its files do not go together', () => {
    const notOneClip = 'T_2.wav is 2 samples longer than T_1.wav'
    expect(clipNotices(clip({ notOneClip }), '2026-11-25')[0]?.message).toContain(notOneClip)
    expect(kinds({ notOneClip, isChanged: true })).toEqual(['original changed', 'parts mismatch'])
    expect(kinds({ notOneClip, presence: 'gone' })).toEqual([])
  })
  test.each(['card', 'recorder', 'disc', 'shuttle'])('only on a %s', (volumeKind) =>
    expect(kinds({ volumeKind })).toEqual(['only on a card']),
  )
  test('a verified copy on a volume that stays settles it, one on another card does not', () => {
    expect(kinds({ volumeKind: 'card', copyKinds: ['drive'] })).toEqual([])
    expect(kinds({ volumeKind: 'card', copyKinds: ['card'] })).toEqual(['only on a card'])
  })
  test('a proxy that plays while its original is gone or away says so, with the cure', () => {
    const notice = (change: Partial<NoticedClip>) => clipNotices(clip({ proxyPlays: true, ...change }), '2026-11-25')[0]
    expect(notice({ presence: 'here' })).toBeUndefined()
    expect(notice({ presence: 'gone', proxyPlays: false })).toBeUndefined()
    expect(notice({ presence: 'gone' })).toMatchObject({
      kind: 'proxy plays, original lost',
      message: expect.stringContaining('Find it in Mend'),
    })
    expect(notice({ presence: 'away' })?.message).toContain('Put that in')
  })
  test('what is gone from its card is not there to be offloaded', () => {
    expect(kinds({ volumeKind: 'card', presence: 'gone' })).toEqual([])
    expect(kinds({ volumeKind: 'card', presence: 'away' })).toEqual(['only on a card'])
  })
  test('a rate that varies', () => {
    const { picture, ...facts } = pictureFacts()
    expect(kinds({ facts: { ...facts, picture: picture && { ...picture, variableRate: true } } })).toContain(
      'variable rate',
    )
    expect(kinds({ facts: pictureFacts() })).not.toContain('variable rate')
  })

  test('pictures beside the first', () => {
    const message = (furtherPictures: number) =>
      clipNotices(clip({ facts: { ...pictureFacts(), furtherPictures } }), '').map((notice) => notice.message)[0]
    expect(message(1)).toContain('Another picture runs beside the first')
    expect(message(2)).toContain('2 more pictures run beside')
    expect(message(0)).toBeUndefined()
  })

  test('frames that an edit list leaves out', () => {
    const { picture, ...facts } = pictureFacts({ frames: 67 })
    const [notice] = clipNotices(clip({ facts: { ...facts, picture: picture && { ...picture, heldFrames: 100 } } }), '')
    expect(notice).toMatchObject({ kind: 'edit list', message: expect.stringContaining('67 of the 100 frames') })
  })

  test('gaps in stills, with their numbers', () => {
    const sequence = {
      folder: '',
      prefix: 'm_',
      suffix: '.dpx',
      digits: 4,
      ranges: [
        { startFrame: 1, endFrame: 5 },
        { startFrame: 7, endFrame: 9 },
      ],
    }
    const [notice] = clipNotices(clip({ sequence }), '2026-11-25')
    expect(notice?.message).toContain('frames 5 to 6 missing')
  })
  test('a date in the future', () => {
    expect(kinds({ facts: { ...pictureFacts(), createdAt: '2031-01-01T10:00:00Z' } })).toEqual(['odd date'])
    expect(kinds({ facts: { ...pictureFacts(), createdAt: '2026-11-25T10:00:00Z' } })).toEqual([])
  })
  test('what is odd in a recorder’s notes, one by one', () => {
    const notes = soundNotes({ problems: ['one', 'two'] })
    expect(kinds({ facts: { ...soundFacts(1, 1), soundNotes: notes } })).toEqual(['odd notes', 'odd notes'])
  })
})

describe('reels that overlap', () => {
  const on = (id: string, start: string | null, frames = 100, change: Partial<ReeledClip> = {}): ReeledClip => ({
    id,
    name: `${id}.mov`,
    reel: 'B002',
    startFrame: start === null ? null : parseTimecode(start, rate(25)),
    frames,
    rate: rate(25),
    dropFrame: false,
    look: '1920×1080 H.264',
    ...change,
  })
  test('one take in two sizes is told as that, to each with its own', () => {
    const large = on('large', '11:00:00:00', 100, { look: '3840×2160 ProRes 422' })
    const [overlap] = findReelOverlaps([on('a', '11:00:00:00'), large])
    expect(overlap && overlapNotice(overlap, 'large')).toEqual({
      kind: 'variant',
      message: expect.stringContaining('this one is 3840×2160 ProRes 422, that one 1920×1080 H.264.'),
    })
    const [longer] = findReelOverlaps([on('a', '11:00:00:00', 99), large])
    expect(longer && overlapNotice(longer, 'a').kind).toBe('reel overlap')
  })
  test('two originals of one reel that claim the same timecode', () => {
    const [overlap, ...rest] = findReelOverlaps([on('b', '11:00:02:00', 150), on('a', '11:00:00:00', 150)])
    expect(rest).toEqual([])
    expect(overlap).toMatchObject({
      first: { id: 'a' },
      second: { id: 'b' },
      frames: 100,
      from: '11:00:02:00',
      to: '11:00:06:00',
    })
    expect(overlap && overlapNotice(overlap, 'b').message).toContain('It and a.mov are both reel B002 from 11:00:02:00')
  })
  test.each([
    ['they only touch', [on('a', '11:00:00:00'), on('b', '11:00:04:00')]],
    ['their reels differ', [on('a', '11:00:00:00'), on('b', '11:00:00:00', 100, { reel: 'B003' })]],
    ['one has no reel', [on('a', '11:00:00:00'), on('b', '11:00:00:00', 100, { reel: null })]],
    ['one has no timecode', [on('a', '11:00:00:00'), on('b', null)]],
    ['they count at other rates', [on('a', '11:00:00:00'), on('b', '11:00:00:00', 100, { rate: rate(30) })]],
  ])('none when %s', (_, clips) => expect(findReelOverlaps(clips)).toEqual([]))
  test('the case of a reel’s name does not matter', () => {
    expect(findReelOverlaps([on('a', '11:00:00:00'), on('b', '11:00:00:00', 5, { reel: 'b002' })])).toHaveLength(1)
  })
  test('a pile of clips is told in reasonable measure', () => {
    const pile = Array.from({ length: 200 }, (_, index) => on(`c${index}`, '11:00:00:00'))
    expect(findReelOverlaps(pile).length).toBeLessThan(600)
  })
})
