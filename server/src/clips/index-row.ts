import { createHash } from 'node:crypto'
import { basename } from 'node:path'
import {
  channelCount,
  dataRate,
  describeChannels,
  describePictureCodec,
  describePixelAspect,
  describeScan,
  describeSoundCodec,
  durationLabel,
  isForDisplay,
  isLogPicture,
  isWell,
  lengthFrames,
  type MediaFacts,
  type Notice,
  type Rate,
  soundLinkKey,
  startLabel,
} from '@ennick/core'
import type { clipIndex } from '../store/catalogue-schema.ts'
import type { KnownClip } from '../store/known-material.ts'
import { noticesOf } from './notices.ts'

export type IndexRow = typeof clipIndex.$inferSelect

/** What a clip's row holds that does not follow from the clip alone. */
export interface IndexContext {
  readonly rate: Rate
  readonly uses: number
  readonly overlaps: readonly Notice[]
  readonly plays: number | null
  /** ISO date. */
  readonly today: string
}

/** The name under which a clip is shown: the one that was given to it, else the one that it came with. */
export const displayName = (clip: Pick<KnownClip, 'described' | 'name'>): string =>
  clip.described.name?.value || clip.name

/** A clip as a row of the index. */
export function indexRow(clip: KnownClip, context: IndexContext): IndexRow {
  const { main } = clip
  const { facts } = main
  const picture = facts?.picture ?? null
  const isMoving = facts?.kind === 'picture'
  const described = Object.fromEntries(
    Object.entries(clip.described).flatMap(([field, { value }]) =>
      field === 'name' || field === soundLinkKey ? [] : [[field, value]],
    ),
  )
  const notices = [...noticesOf(clip, context.today), ...context.overlaps]
  const size = clip.files.reduce((sum, file) => sum + file.sizeBytes, 0)
  const slash = main.path.lastIndexOf('/')
  const row = {
    clipId: clip.id,
    productionId: clip.productionId,
    name: displayName(clip),
    reel: clip.reel ?? '',
    described,
    fileName: basename(main.path),
    folder: slash === -1 ? '' : main.path.slice(0, slash),
    volumeId: main.volumeId,
    volume: main.volume.label,
    volumeKind: main.volume.kind,
    kind: facts?.kind ?? 'picture',
    codec: facts ? codecOf(facts) : 'not readable',
    container: facts?.container ?? '',
    raster: picture ? `${picture.width}×${picture.height}` : '',
    width: picture?.width ?? null,
    height: picture?.height ?? null,
    rate: isMoving && picture ? picture.rate.numerator / picture.rate.denominator : null,
    rateNumerator: isMoving && picture ? picture.rate.numerator : null,
    rateDenominator: isMoving && picture ? picture.rate.denominator : null,
    start: (facts && startLabel(facts, context.rate)) ?? '',
    duration: (facts && durationLabel(facts, context.rate)) ?? '',
    frames: facts ? lengthFrames(facts, context.rate) : null,
    channels: facts ? channelCount(facts) : 0,
    layout: facts ? describeChannels(facts.sound) : 'none',
    tracks: (facts?.soundNotes?.trackNames ?? []).filter((name) => name !== '').join(', '),
    sampleRate: facts?.sound[0]?.sampleRate ?? null,
    bitDepth: facts?.sound[0]?.bitDepth ?? null,
    squeeze: picture ? describePixelAspect(picture.pixelAspect) : '',
    scan: describeScan(picture?.scan ?? null),
    colour: !picture ? '' : isLogPicture(picture) ? 'log' : isForDisplay(picture) ? 'display' : 'not tagged',
    created: facts?.createdAt ?? facts?.soundNotes?.originationDate ?? '',
    originator: facts?.originator ?? facts?.soundNotes?.originator ?? '',
    files: main.sequence
      ? main.sequence.ranges.reduce((sum, range) => sum + range.endFrame - range.startFrame, 0)
      : clip.files.length,
    size,
    dataRate: facts ? dataRate(facts, size) : null,
    presence: clip.presence,
    proxy: proxyWord(clip, facts),
    proxies: clip.pairs.map((pair) => pair.verdict),
    proxyRaster: proxyRaster(clip),
    uses: context.uses,
    notice: [...new Set(notices.map(({ kind }) => kind))].join(', '),
    plays: context.plays,
  }
  const words = [
    row.name,
    clip.name,
    row.fileName,
    row.folder,
    row.volume,
    row.reel,
    row.codec,
    row.start,
    row.tracks,
    row.notice,
    ...Object.values(described),
  ]
  const full = {
    ...normalised(row),
    described: normalised(described),
    words: words.join('\n').normalize('NFC').toLowerCase(),
  }
  return { ...full, mark: createHash('md5').update(JSON.stringify(full)).digest('hex') }
}

/** The trade's name of what a file is in. */
export const codecOf = (facts: MediaFacts): string =>
  facts.picture ? describePictureCodec(facts.picture) : facts.sound[0] ? describeSoundCodec(facts.sound[0]) : 'unknown'

/** The word for the worst of a clip's made items; sound and stills need none. */
function proxyWord(clip: KnownClip, facts: MediaFacts | null): string {
  if (facts?.kind !== 'picture') return ''
  // Copies for people to look at are no proxies.
  const proxies = clip.pairs.filter((pair) => pair.kind === 'proxy' || pair.kind === 'optimized')
  return proxies.find((pair) => !isWell(pair.verdict))?.verdict ?? proxies[0]?.verdict ?? 'no proxy'
}

function proxyRaster(clip: KnownClip): string {
  for (const pair of clip.pairs) {
    const picture = pair.files.find(({ file }) => file.facts?.picture)?.file.facts?.picture
    if (picture) return `${picture.width}×${picture.height}`
  }
  return ''
}

/** Text in one Unicode form, so that a search need not bring every row into it. */
function normalised<T extends object>(values: T): T {
  const result = { ...values } as Record<string, unknown>
  for (const key in result) {
    const value = result[key]
    // What is ASCII has one form: most text is, and there are tens of thousands of rows.
    if (typeof value === 'string' && beyondAscii.test(value)) result[key] = value.normalize('NFC')
  }
  return result as T
}
const beyondAscii = /[\u0080-\uffff]/
