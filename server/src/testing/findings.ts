import { type CutEvent, EventResolver, type FindingClip, findTrouble, normalSpeed, rate } from '@ennick/core'
import { pictureFacts } from '../../../core/src/testing/facts.ts'

// Lands a long cut with many faults among very many clips, for the bench, and prints how long landing and finding take:
// node --import tsx server/src/testing/findings.ts 100000 5000 2000
const [clipCount = 100_000, eventCount = 5000, faultCount = 2000] = process.argv.slice(2).map(Number)
const facts = pictureFacts({ frames: 250 })
const start = facts.startFrame as number

/** Every fifth kind of fault in turn: away, gone while its proxy plays, damaged, changed, another proxy. */
function clip(index: number): FindingClip {
  const name = `C${String(index).padStart(6, '0')}.mov`
  const fault = index < faultCount ? index % 5 : -1
  const pair = {
    ...{ id: `p${index}`, name, kind: 'proxy' as const, recipe: null, viewingLut: null },
    ...{
      verdict: fault === 4 ? ('mismatched' as const) : ('proven' as const),
      originalChanged: fault === 4,
      soundChange: null,
      isCuredByCopy: false,
      nameToday: null,
    },
    comparison: [
      { aspect: 'length' as const, expected: '250 frames', found: '249 frames', agrees: false, difference: '1 frame' },
    ],
  }
  return {
    ...{ id: name, name, formerNames: [name], reel: `R${index % 900}`, facts, firstStill: undefined, parts: [] },
    presence: fault === 0 ? 'away' : fault === 1 ? 'gone' : 'here',
    ...{ originalPaths: [`/reach/${index % 900}/${name}`], madePaths: [`/made/${name}`], proxyPlays: true },
    ...{ role: 'original', roleReason: null, damage: fault === 2 ? 'damaged from frame 12' : null },
    ...{
      volumeLabel: 'REACH-1',
      volumeRoot: '/reach',
      volumeHangs: false,
      fingerprint: String(index),
      notices: [],
      volumeIsHere: fault !== 0,
      soundLink: null,
      syncChange: null,
      soundUse: null,
      guidelessTracks: [],
    },
    changedFiles: fault === 3 ? [{ path: `/reach/${name}`, fingerprint: 'other' }] : [],
    notOneClip: null,
    lostFiles: [],
    pairs: [pair],
  }
}
const clips = new Map(Array.from({ length: clipCount }, (_, index) => clip(index)).map((each) => [each.id, each]))
const events = Array.from({ length: eventCount }, (_, index): CutEvent => {
  const record = { startFrame: index * 50, endFrame: index * 50 + 50 }
  const at = start + 10 + (index % 100)
  return {
    ...{ number: String(index + 1).padStart(6, '0'), track: 'V1', kind: 'picture', path: null, reel: null },
    ...{ clipName: `C${String(index).padStart(6, '0')}.mov`, source: { startFrame: at, endFrame: at + 50 } },
    ...{ sourceRate: rate(25), mediumStartFrame: null, record, transition: null, speed: normalSpeed, notes: [] },
    location: '',
  }
})
const resolver = new EventResolver({ clips: [...clips.values()], mappings: [], suffixes: ['_proxy'], unreadable: [] })
const seconds: number[] = []
let findings = 0
for (let turn = 0; turn < 3; turn++) {
  const began = process.hrtime.bigint()
  const resolutions = resolver.resolve(events, { chosen: new Map() }, rate(25))
  findings = findTrouble({ rate: rate(25), dropFrame: false, events, resolutions, clips }).length
  seconds.push(Number(process.hrtime.bigint() - began) / 1e9)
}
console.log(JSON.stringify({ seconds: Math.max(...seconds), findings }))
