import { basename } from 'node:path'
import type { Clip, ClipDetail } from '@ennick/contract'
import {
  describeChannels,
  describePictureCodec,
  describeSoundCodec,
  floor,
  formatFrameCount,
  formatRate,
  formatTimecode,
  isLogPicture,
  type MediaFacts,
  type Rate,
  samplesAsFrames,
  toDecimal,
  toNumber,
} from '@ennick/core'
import type { CutState } from '../cutting/cut-state.ts'
import type { Queryable } from '../store/database.ts'
import { readHistory } from '../store/history.ts'
import { productionRate, type World, type WorldClip } from '../store/world.ts'
import { stripOf } from './strip.ts'

/** How many events of the cuts use each clip. */
export function countUses(states: readonly CutState[]): Map<string, number> {
  const uses = new Map<string, number>()
  for (const state of states) for (const { clipId } of state.resolutions) if (clipId) uses.set(clipId, (uses.get(clipId) ?? 0) + 1)
  return uses
}

/** A clip as a row of the table. */
export function presentClip(clip: WorldClip, uses: ReadonlyMap<string, number>, fallback: Rate): Clip {
  const facts = clip.main.facts
  const picture = facts?.picture ?? null
  return {
    id: clip.id,
    name: basename(clip.main.path),
    kind: facts?.kind ?? 'picture',
    codec: facts ? codecOf(facts) : 'not readable',
    width: picture?.width ?? null,
    height: picture?.height ?? null,
    rate: picture && facts?.kind === 'picture' ? picture.rate : null,
    startTimecode: facts ? startOf(facts, fallback) : null,
    frames: facts ? lengthOf(facts, fallback) : null,
    channels: facts ? describeChannels(facts.sound) : 'none',
    reel: clip.reel,
    reelFrom: clip.reelFrom,
    volumeLabel: clip.main.volume.label,
    path: clip.main.path,
    sizeBytes: clip.files.reduce((sum, file) => sum + file.sizeBytes, 0),
    presence: clip.presence,
    proxies: clip.pairs.map((pair) => pair.verdict),
    uses: uses.get(clip.id) ?? 0,
  }
}

const codecOf = (facts: MediaFacts): string =>
  facts.picture ? describePictureCodec(facts.picture) : facts.sound[0] ? describeSoundCodec(facts.sound[0]) : 'unknown'

function startOf(facts: MediaFacts, fallback: Rate): string | null {
  if (facts.startFrame !== null && facts.picture) return formatTimecode(facts.startFrame, facts.picture.rate, facts.dropFrame)
  const first = facts.sound[0]
  if (facts.timeReferenceSamples === null || !first) return null
  const { start } = samplesAsFrames(facts.timeReferenceSamples, 0, first.sampleRate, fallback)
  return formatTimecode(Number(floor(start)), fallback)
}

function lengthOf(facts: MediaFacts, fallback: Rate): number | null {
  if (facts.kind === 'still') return null
  if (facts.picture) return facts.picture.frames
  const first = facts.sound[0]
  if (!first || first.samples === null) return null
  return Math.floor(toNumber(samplesAsFrames(0, first.samples, first.sampleRate, fallback).end))
}

export async function presentClipDetail(
  database: Queryable,
  world: World,
  clip: WorldClip,
  states: readonly CutState[],
): Promise<ClipDetail> {
  const rate = productionRate(world.production)
  const facts = clip.main.facts
  return {
    clip: presentClip(clip, countUses(states), rate),
    factGroups: facts ? factGroups(clip, facts, rate) : [],
    files: clip.files.map((file) => ({ path: file.fullPath, sizeBytes: file.sizeBytes, presence: file.presence })),
    strip: stripOf(clip, rate, states),
    pairs: clip.pairs.map((pair) => ({ id: pair.id, name: pair.name, verdict: pair.verdict, comparison: pair.comparison })),
    uses: states.flatMap((state) =>
      state.resolutions.flatMap((resolution, position) => {
        const event = state.cut.events[position]
        return resolution.clipId === clip.id && event
          ? [{ cutId: state.row.id, cutName: state.row.name, event: event.number, track: event.track, state: resolution.state }]
          : []
      }),
    ),
    history: await readHistory(database, world.production.id, [clip.id, ...clip.pairs.map((pair) => pair.id)], 50),
  }
}

type Facts = { label: string; value: string }[]

function factGroups(clip: WorldClip, facts: MediaFacts, rate: Rate): ClipDetail['factGroups'] {
  const groups = [
    { title: 'Picture', facts: facts.picture ? pictureFacts(facts) : [] },
    { title: 'Timecode and reel', facts: timeFacts(clip, facts, rate) },
    {
      title: 'Sound',
      facts: facts.sound.map((stream, index) => ({
        label: `Stream ${index + 1}`,
        value: `${describeChannels([stream])}, ${describeSoundCodec(stream)}${stream.samples === null ? '' : `, ${stream.samples} samples`}`,
      })),
    },
    { title: 'File', facts: fileFacts(clip, facts) },
  ]
  if (facts.kind === 'picture' && facts.sound.length === 0) groups[2]?.facts.push({ label: 'Streams', value: 'none: silent' })
  return groups.filter((group) => group.facts.length > 0)
}

function pictureFacts(facts: MediaFacts): Facts {
  const picture = facts.picture as NonNullable<MediaFacts['picture']>
  const { colour, pixelAspect } = picture
  const list: Facts = [
    { label: 'Codec', value: describePictureCodec(picture) },
    ...(picture.profile ? [{ label: 'Profile', value: picture.profile }] : []),
    { label: 'Raster', value: `${picture.width} × ${picture.height}` },
    {
      label: 'Pixel aspect',
      value: pixelAspect.numerator === pixelAspect.denominator ? 'square' : `${pixelAspect.numerator}:${pixelAspect.denominator}, squeezed`,
    },
  ]
  if (facts.kind === 'picture') {
    list.push(
      { label: 'Rate', value: `${formatRate(picture.rate)}${picture.variableRate ? ', varies' : ''}` },
      { label: 'Length', value: formatFrameCount(picture.frames, picture.rate) },
    )
  }
  if (picture.rotation) list.push({ label: 'Turned by', value: `${picture.rotation}°` })
  if (picture.scan) list.push({ label: 'Scan', value: picture.scan })
  list.push({
    label: 'Colour',
    value: `${isLogPicture(picture) ? 'log' : 'display'}: ${[colour.primaries, colour.transfer, colour.matrix].map((tag) => tag ?? 'not tagged').join(' / ')}${colour.range ? `, ${colour.range} range` : ''}`,
  })
  if (picture.pixelFormat) list.push({ label: 'Samples', value: picture.pixelFormat })
  return list
}

function timeFacts(clip: WorldClip, facts: MediaFacts, rate: Rate): Facts {
  const list: Facts = []
  if (facts.kind === 'picture') {
    list.push(
      { label: 'Start timecode', value: startOf(facts, rate) ?? 'none' },
      { label: 'Counting', value: facts.dropFrame ? 'drop-frame' : 'non-drop' },
    )
  } else if (facts.timeReferenceSamples !== null) {
    const start = samplesAsFrames(facts.timeReferenceSamples, 0, facts.sound[0]?.sampleRate ?? 48_000, rate).start
    list.push(
      { label: 'Start', value: `${startOf(facts, rate)} at ${formatRate(rate)} (frame ${toDecimal(start, 3)})` },
      { label: 'Time reference', value: `${facts.timeReferenceSamples} samples since midnight` },
    )
  }
  const from = { file: 'from the file', rule: 'by a rule', person: 'set by a person' }
  list.push({ label: 'Reel', value: clip.reel === null ? 'none' : `${clip.reel} (${from[clip.reelFrom ?? 'person']})` })
  return list
}

function fileFacts(clip: WorldClip, facts: MediaFacts): Facts {
  const list: Facts = [
    { label: 'Container', value: facts.container.toUpperCase() },
    { label: 'Changed', value: new Date(clip.main.mtimeMicros / 1000).toISOString().replace('T', ' ').slice(0, 19) },
    { label: 'Fingerprint', value: clip.main.fingerprint },
  ]
  if (facts.createdAt) list.push({ label: 'Created', value: facts.createdAt })
  if (facts.originator) list.push({ label: 'Originator', value: facts.originator })
  if (facts.description) list.push({ label: 'Description', value: facts.description })
  return list
}
