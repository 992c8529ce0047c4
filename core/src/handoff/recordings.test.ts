import { expect, test } from '@jest/globals'
import { edl, resolveEvents } from '../cut/index.ts'
import { type FindingClip, findTrouble } from '../findings/index.ts'
import type { SoundLink } from '../sync/index.ts'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { fraction, parseTimecode, rate } from '../time/index.ts'
import { eventTable, preflight, pullRows, pullsOf } from './index.ts'

// A camera whose clock was an hour behind: its 09:00:00:00 is 10:00:04:00 of the recorder, whose take runs from
// 10:00:00:00. The cut uses ten frames of picture, and their sound, from 09:00:01:00 on.
const recording: FindingClip = {
  ...clip('LW_12A_T1.wav', null),
  facts: soundFacts(60 * 48_000, parseTimecode('10:00:00:00', rate(25)) * 1920),
  volumeLabel: 'MIX-01',
}
const link: SoundLink = {
  ...{ soundIds: ['LW_12A_T1.wav'], offsetSamples: fraction(4 * 48_000), sampleRate: 48_000 },
  ...{ method: 'waveform', tracks: null, cameraSound: 'muted' },
}
const picture: FindingClip = { ...clip('A001C001.mov', link), facts: pictureFacts({ start: '09:00:00:00' }) }

function clip(name: string, soundLink: SoundLink | null): FindingClip {
  return {
    ...{
      id: name,
      name,
      formerNames: [],
      reel: null,
      facts: pictureFacts(),
      presence: 'here',
      soundLink,
      syncChange: null,
      soundUse: null,
      guidelessTracks: [],
    },
    ...{ originalPaths: [`/bay/${name}`], madePaths: [], parts: [], proxyPlays: false, role: 'original' },
    ...{
      roleReason: null,
      damage: null,
      volumeLabel: 'A001',
      volumeRoot: '/bay',
      volumeHangs: false,
      fingerprint: name,
      volumeIsHere: true,
    },
    ...{ changedFiles: [], notOneClip: null, notices: [], lostFiles: [], pairs: [] },
  }
}

const list = `TITLE: Sound
001  A001 V  C 09:00:01:00 09:00:01:10 01:00:00:00 01:00:00:10
* FROM CLIP NAME: A001C001.mov
002  A001 A  C 09:00:01:00 09:00:01:10 01:00:00:00 01:00:00:10
* FROM CLIP NAME: A001C001.mov
`
const cut = edl.read(list, { rate: rate(25), fileName: 'x.edl' })

function handedOff(clips: readonly FindingClip[]) {
  const resolutions = resolveEvents(cut.events, {
    ...{ clips, mappings: [], suffixes: [], unreadable: [], chosen: new Map(), recordRate: rate(25) },
  })
  const byId = new Map(clips.map((each) => [each.id, each]))
  const context = { rate: rate(25), dropFrame: false, events: cut.events, resolutions, clips: byId }
  return {
    findings: findTrouble(context).filter(({ kind }) => kind === 'guide sound'),
    pulls: pullRows(cut, pullsOf(cut, resolutions, byId)),
    table: eventTable(cut, resolutions, byId),
  }
}

test('a guide is told without a recording too, and what is said to be real is meant', () => {
  const unsynced = { ...picture, soundLink: null }
  expect(handedOff([unsynced, recording]).findings).toEqual([])
  const { findings } = handedOff([{ ...unsynced, soundUse: 'guide' }, recording])
  expect(findings).toMatchObject([{ severity: 'needs a look', events: [1] }])
  expect(findings[0]?.message).toMatch(/said to be a guide, and no recording is synced with it/)
  expect(handedOff([{ ...picture, soundUse: 'guide' }, recording]).findings).toHaveLength(1)
  expect(handedOff([{ ...picture, soundUse: 'real' }, recording]).findings).toEqual([])
})

test('sound of a synced picture is told to be the camera’s own, with the recording’s samples for the mix', () => {
  const { findings } = handedOff([picture, recording])
  expect(findings).toHaveLength(1)
  expect(findings[0]).toMatchObject({ severity: 'needs a look', events: [1], clipId: 'A001C001.mov' })
  expect(findings[0]?.message).toBe(
    'The sound of event 002 lands on A001C001.mov, whose own sound is a guide: it was synced with LW_12A_T1.wav. ' +
      'The pull list names the samples that the mix needs of that.',
  )
  expect(findings[0]?.evidence[0]?.expected).toBe(
    'LW_12A_T1.wav, 10:00:05:00, 19200 samples at 48 kHz from 240000 samples at 48 kHz on',
  )
  const sound = preflight(findings, []).checks.find(({ id }) => id === 'sound')
  expect(sound?.result).toBe('needs a look')
})

test('the pull list has the stretch of the recording under its own timecode, and the events its samples', () => {
  const { pulls, table } = handedOff([picture, recording])
  expect(pulls).toEqual([
    ['A001C001.mov', 'A001', '09:00:01:00', '09:00:01:10', 'A001', '/bay/A001C001.mov'],
    ['LW_12A_T1.wav', '', '10:00:05:00', '10:00:05:10', 'MIX-01', '/bay/LW_12A_T1.wav'],
  ])
  expect(table.split('\r\n')[2]).toContain(`,LW_12A_T1.wav,${5 * 48_000},${5 * 48_000 + 19_200},`)
})

test('of a recording whose tracks are files of their own every file is pulled', () => {
  const tracks = ['/bay/T1_1.wav', '/bay/T1_2.wav']
  const { pulls } = handedOff([picture, { ...recording, originalPaths: tracks, tracks }])
  expect(pulls.slice(1)).toEqual([
    ['T1_1.wav', '', '10:00:05:00', '10:00:05:10', 'MIX-01', '/bay/T1_1.wav'],
    ['T1_2.wav', '', '10:00:05:00', '10:00:05:10', 'MIX-01', '/bay/T1_2.wav'],
  ])
})

test('a recording that is away is said to be; camera sound that is kept, and pictures alone, are no trouble', () => {
  const [away] = handedOff([picture, { ...recording, presence: 'away' }]).findings
  expect(away?.message).toMatch(/of that; it is not here now\.$/)
  const kept = { ...picture, soundLink: { ...link, cameraSound: 'kept' as const } }
  expect(handedOff([kept, recording]).findings).toEqual([])
  expect(handedOff([clip('A001C001.mov', null), recording]).findings).toEqual([])
})
