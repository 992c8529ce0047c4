import { describeOffset, samplesNeeded, soundLabelAt } from '../../sync/index.ts'
import { subtract } from '../../time/index.ts'
import {
  type Check,
  eventNumbers,
  type Finding,
  type FindingClip,
  type FindingContext,
  fact,
  keyedOn,
  usedClips,
} from '../finding.ts'

/**
 * Sound of a cut that is the camera's own, while the picture was synced with a recording and the camera's sound is not
 * meant to be kept, or somebody said that it is a guide: the mix needs the recording. What is said to be real is meant.
 */
export const guideSound: Check = (context) =>
  usedClips(context).flatMap(({ clip, events }): Finding[] => {
    if (!clip.facts.picture || clip.soundUse === 'real') return []
    const heard = events.filter((position) => context.events[position]?.kind === 'sound')
    if (heard.length === 0) return []
    const link = clip.soundLink
    if (!link) return clip.soundUse === 'guide' ? [withoutRecording(context, clip, heard)] : []
    if (link.cameraSound === 'kept') return []
    const recordings = link.soundIds.flatMap((id) => context.clips.get(id) ?? [])
    const [first] = recordings
    const name = recordings.map((recording) => recording.name).join(', ') || 'a recording that is no clip here any more'
    const counting = { rate: context.rate, dropFrame: context.dropFrame }
    const evidence = heard.flatMap((position) => {
      const [event, resolution] = [context.events[position], context.resolutions[position]]
      if (!event || !resolution) return []
      const { start, end } = samplesNeeded(link, clip.facts, resolution.exactNeed, event.sourceRate)
      const at = first && soundLabelAt({ offsetSamples: start, sampleRate: link.sampleRate }, first.facts, counting)
      const [length, from] = [subtract(end, start), start].map((samples) => describeOffset(samples, link.sampleRate))
      return [
        fact(
          'sound',
          `${name}, ${at ? `${at}, ` : ''}${length} from ${from} on`,
          `event ${event.number}: ${clip.name}`,
          'the camera’s own sound is a guide',
        ),
      ]
    })
    const whole = recordings.length === link.soundIds.length && recordings.every(({ presence }) => presence === 'here')
    return [
      {
        ...keyedOn(`guide sound:${clip.id}`, link.soundIds.join(' ')),
        kind: 'guide sound',
        severity: 'needs a look',
        message:
          `The sound of ${eventNumbers(context, heard)} lands on ${clip.name}, whose own sound is a guide: ` +
          `it was synced with ${name}. The pull list names the samples that the mix needs of that` +
          `${whole ? '' : '; it is not here now'}.`,
        clipId: clip.id,
        pairIds: [],
        events: heard,
        evidence,
        mends: [],
      },
    ]
  })

/** A guide of which nobody knows the recording. */
const withoutRecording = (context: FindingContext, clip: FindingClip, heard: readonly number[]): Finding => ({
  ...keyedOn(`guide sound:${clip.id}`, 'no recording'),
  kind: 'guide sound',
  severity: 'needs a look',
  message:
    `The sound of ${eventNumbers(context, heard)} lands on ${clip.name}, whose own sound is said to be a guide, ` +
    'and no recording is synced with it. Sync it, or say that its sound is real.',
  clipId: clip.id,
  pairIds: [],
  events: heard,
  evidence: [fact('sound', 'a recording', `${clip.name} itself`, 'a guide is no sound for the mix')],
  mends: [],
})
