import type { ClipDetail } from '@ennick/contract'
import {
  describeChannels,
  describePictureCodec,
  describePixelAspect,
  describeScan,
  describeSoundCodec,
  formatFrameCount,
  formatRate,
  hasAlpha,
  isForDisplay,
  isLogPicture,
  type MediaFacts,
  type PictureFacts,
  type Rate,
  samplesAsFrames,
  sequenceFrames,
  sequenceStills,
  startLabel,
  toDecimal,
} from '@ennick/core'
import type { KnownClip } from '../store/known-material.ts'

type Facts = { label: string; value: string }[]

/** Everything that a clip's file says of itself, in groups. */
export function factGroups(clip: KnownClip, facts: MediaFacts, rate: Rate): ClipDetail['factGroups'] {
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
    { title: 'Recorder’s notes', facts: noteFacts(facts) },
    { title: 'File', facts: fileFacts(clip, facts) },
  ]
  if (facts.kind === 'picture' && facts.sound.length === 0)
    groups[2]?.facts.push({ label: 'Streams', value: 'none: silent' })
  return groups.filter((group) => group.facts.length > 0)
}

function pictureFacts(facts: MediaFacts): Facts {
  const picture = facts.picture as NonNullable<MediaFacts['picture']>
  const { pixelAspect, toldPixelAspect } = picture
  const list: Facts = [
    { label: 'Codec', value: describePictureCodec(picture) },
    ...(picture.profile ? [{ label: 'Profile', value: picture.profile }] : []),
    { label: 'Raster', value: `${picture.width} × ${picture.height}` },
    {
      label: 'Pixel aspect',
      value: [
        describePixelAspect(pixelAspect),
        ...(pixelAspect.numerator === pixelAspect.denominator ? [] : ['anamorphic']),
        ...(toldPixelAspect ? [`set by hand: the file says ${describePixelAspect(toldPixelAspect)}`] : []),
      ].join(', '),
    },
  ]
  if (facts.kind === 'picture') {
    list.push(
      { label: 'Rate', value: `${formatRate(picture.rate)}${picture.variableRate ? ', varies' : ''}` },
      { label: 'Length', value: formatFrameCount(picture.frames, picture.rate) },
    )
  }
  if (picture.rotation) list.push({ label: 'Turned by', value: `${picture.rotation}°` })
  if (picture.scan) list.push({ label: 'Scan', value: describeScan(picture.scan) })
  list.push({
    label: 'Colour',
    value: describeColour(picture),
  })
  if (picture.pixelFormat) list.push({ label: 'Samples', value: picture.pixelFormat })
  if (hasAlpha(picture.pixelFormat))
    list.push({ label: 'Alpha', value: 'has an alpha channel: what is made with a codec that holds none is opaque' })
  return list
}

/** Its tags, and whether it is log or made for a display where they say so. */
function describeColour(picture: PictureFacts): string {
  const { colour } = picture
  const tags = [colour.primaries, colour.transfer, colour.matrix]
  const kind = isLogPicture(picture) ? 'log: ' : isForDisplay(picture) ? 'display: ' : ''
  const said = tags.every((tag) => tag === null) ? 'not tagged' : tags.map((tag) => tag ?? 'not tagged').join(' / ')
  return `${kind}${said}${colour.range ? `, ${colour.range} range` : ''}`
}

function timeFacts(clip: KnownClip, facts: MediaFacts, rate: Rate): Facts {
  const list: Facts = []
  if (facts.kind === 'picture') {
    list.push(
      { label: 'Start timecode', value: startLabel(facts, rate) ?? 'none' },
      { label: 'Counting', value: facts.dropFrame ? 'drop-frame' : 'non-drop' },
    )
  } else if (facts.timeReferenceSamples !== null) {
    const own = facts.soundNotes?.timecodeRate ?? rate
    const start = samplesAsFrames(facts.timeReferenceSamples, 0, facts.sound[0]?.sampleRate ?? 48_000, own).start
    list.push(
      { label: 'Start', value: `${startLabel(facts, rate)} at ${formatRate(own)} (frame ${toDecimal(start, 3)})` },
      { label: 'Time reference', value: `${facts.timeReferenceSamples} samples since midnight` },
    )
  }
  const from = { file: 'from the file', sidecar: 'from a log', rule: 'by a rule', person: 'set by a person' }
  list.push({ label: 'Reel', value: clip.reel === null ? 'none' : `${clip.reel} (${from[clip.reelFrom ?? 'person']})` })
  return list
}

function noteFacts(facts: MediaFacts): Facts {
  const notes = facts.soundNotes
  if (!notes) return []
  const list: [string, string | null][] = [
    ['Project', notes.project],
    ['Scene', notes.scene],
    ['Take', notes.take],
    ['Circled', notes.circled === null ? null : notes.circled ? 'yes' : 'no'],
    ['Tape', notes.tape],
    ['Note', notes.note],
    ['Timecode', notes.timecodeRate && `${formatRate(notes.timecodeRate)}${notes.dropFrame ? ', drop-frame' : ''}`],
    ['Speed', notes.speedNote],
    ['Recorded', [notes.originationDate, notes.originationTime].filter(Boolean).join(' ') || null],
    ['Originator', notes.originator],
    ['Description', notes.description],
  ]
  return list.flatMap(([label, value]) => (value ? [{ label, value }] : []))
}

function fileFacts(clip: KnownClip, facts: MediaFacts): Facts {
  const list: Facts = [
    { label: 'Container', value: facts.container.toUpperCase() },
    { label: 'Changed', value: new Date(clip.main.mtimeMicros / 1000).toISOString().replace('T', ' ').slice(0, 19) },
    { label: 'Fingerprint', value: clip.main.fingerprint },
  ]
  const { sequence } = clip.main
  if (sequence)
    list.push({
      label: 'Stills',
      value: `${sequenceStills(sequence)} of ${sequenceFrames(sequence)}, from number ${sequence.ranges[0]?.startFrame}`,
    })
  if (facts.createdAt) list.push({ label: 'Created', value: facts.createdAt })
  if (facts.originator && !facts.soundNotes) list.push({ label: 'Originator', value: facts.originator })
  if (facts.description && !facts.soundNotes) list.push({ label: 'Description', value: facts.description })
  return list
}
