import { open } from 'node:fs/promises'
import {
  commonRates,
  type MediaFacts,
  type MediaKind,
  nominalFramesPerSecond,
  type PictureFacts,
  parseRate,
  type Rate,
  rate,
  readableFormats,
  readStillTime,
  type SoundFacts,
  type StoredFrames,
  sameRate,
  stillFormat,
  stillHeaderBytes,
  storedPictures,
} from '@ennick/core'
import { readAt } from '../disk/fingerprint.ts'
import { type FromBytes, readFromBytes } from './from-bytes.ts'
import { isPicture, isStill, type ProbeOutput, type Stream } from './probe-output.ts'
import { EndedFromOutside, run } from './process.ts'
import { labelShown, labelsOf, readTimecode } from './timecode-label.ts'
import { findTruncation } from './truncation.ts'

/** A file that is no readable media; the message says why in plain words. */
export class UnreadableMedia extends Error {
  override readonly name = 'UnreadableMedia'
}

/**
 * Asks the probe for everything that a file says of itself.
 * @param countPackets counts the packets instead of believing the container: slower, and proof
 * @throws UnreadableMedia with a plain reason; the signal's reason when cancelled.
 */
export async function probe(
  path: string,
  sizeBytes: number,
  options: { countPackets?: boolean; signal?: AbortSignal } = {},
): Promise<MediaFacts> {
  if (sizeBytes === 0) throw new UnreadableMedia('It is empty: zero bytes.')
  const truncation = await findTruncation(path, sizeBytes)
  if (truncation) throw new UnreadableMedia(truncation)
  const { countPackets = false, signal } = options
  const isSmall = sizeBytes <= smallBytes
  let output = await ask(
    path,
    countPackets ? 'count' : isSmall && !stillFormat(path) ? 'first packets' : 'header',
    signal,
  )
  const moving = isStill(output) ? [] : (output.streams ?? []).filter(isPicture)
  if (!countPackets && moving.some((stream) => knownFrames(stream) === null))
    output = { ...output, ...(await ask(path, 'count', signal)) }
  // Of a large file the first packets are many bytes: they are read only where nothing else says what is to be known.
  if (!countPackets && !isSmall && moving.some(({ codec_name: codec, profile }) => onlyPacketsTell(codec, profile)))
    output = { ...output, packets: (await ask(path, 'first packets', signal)).packets ?? [] }
  return readFacts(output, countPackets, await readFromBytes(path, output, signal))
}

/** As far as this all of a file's first packets may be read without a thought. */
export const smallBytes = 64_000_000

/** Whether only its packets say of a picture whether it is all-intra, or of which data rate. */
export const onlyPacketsTell = (codec: string | undefined, profile: string | null | undefined): boolean =>
  codec === 'h264' || codec === 'hevc' || codec === 'mjpeg' || (codec === 'dnxhd' && profile === 'DNXHD')

/** @param depth what is asked besides what streams and container say in their headers */
async function ask(
  path: string,
  depth: 'header' | 'first packets' | 'count',
  signal: AbortSignal | undefined,
): Promise<ProbeOutput> {
  const args = ['-v', 'error', '-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats]
  const still = stillFormat(path)
  if (still) args.push('-f', still)
  const shown = ['-show_format', '-show_streams']
  if (depth === 'count') args.push('-count_packets')
  if (depth === 'first packets') {
    args.push('-read_intervals', `%+#${firstPackets}`, '-show_packets')
    shown.push('-show_entries', 'packet=stream_index,flags,size')
  }
  const look = () =>
    run('ffprobe', [...args, '-of', 'json', ...shown, '-i', `file:${path}`], { signal, timeoutMilliseconds: 120_000 })
  // One among thousands that a system ends keeps no scan from going on.
  const result = await look().catch((error) => {
    if (error instanceof EndedFromOutside) return look()
    throw error
  })
  if (result.exitCode !== 0) throw new UnreadableMedia(await explain(path, result.stderr))
  const output = JSON.parse(result.stdout) as ProbeOutput
  // What was shown of the packets is not all of them.
  if (depth !== 'count') for (const stream of output.streams ?? []) delete stream.nb_read_packets
  return output
}

async function explain(path: string, stderr: string): Promise<string> {
  const file = await open(path, 'r')
  const head = await readAt(file, 0, 512).finally(() => file.close())
  const printable = [...head].filter(
    (byte) => byte === 9 || byte === 10 || byte === 13 || (byte >= 32 && byte < 127),
  ).length
  if (printable > head.length * 0.95) return 'It is a text file under the name of a media file.'
  if (/moov atom not found/.test(stderr))
    return 'It is cut off or was never finished: its index is missing. Copy it again from where it came.'
  if (/Invalid data found/.test(stderr)) return 'It is no media that can be read here, or it is damaged at its start.'
  if (/not on whitelist|not allowed/i.test(stderr))
    return 'It refers to other files or addresses: those are never opened.'
  if (/did not finish in time/.test(stderr)) return 'It took longer than two minutes to look into, and was given up.'
  if (/end of file/i.test(stderr)) return 'It ends before its content does: copy it again from where it came.'
  return 'It is no media that can be read here.'
}

/** Of picture and sound together. */
export const firstPackets = 60

function readStored(output: ProbeOutput, stream: Stream, frames: number): StoredFrames | null {
  const packets = (output.packets ?? []).filter(({ stream_index: index }) => index === stream.index)
  return storedPictures(
    packets.map(({ size }) => Number(size)),
    frames,
    packets.every(({ flags }) => flags?.startsWith('K') ?? false),
  )
}

function knownFrames(stream: Stream): number | null {
  if (stream.nb_read_packets) return Number(stream.nb_read_packets)
  if (stream.nb_frames) return Number(stream.nb_frames)
  const streamRate = parseRate(stream.r_frame_rate ?? '')
  const timeBase = parseRate(stream.time_base ?? '')
  // In MXF the time base is one frame, so the duration counts frames.
  if (
    streamRate &&
    timeBase &&
    stream.duration_ts &&
    sameRate(streamRate, rate(timeBase.denominator, timeBase.numerator))
  )
    return stream.duration_ts
  return null
}

/** Turns the probe's words into facts. */
export function readFacts(output: ProbeOutput, counted: boolean, fromBytes: FromBytes | null = null): MediaFacts {
  const streams = output.streams ?? []
  const [pictureStream, ...further] = streams.filter(isPicture)
  const still = isStill(output)
  const described = pictureStream ? readPicture(pictureStream, still, output) : null
  const stored = pictureStream && described && !still ? readStored(output, pictureStream, described.frames) : null
  const picture = described && {
    ...{ ...described, stored },
    ...(fromBytes?.shownFrames && { frames: fromBytes.shownFrames, heldFrames: described.frames }),
    ...(still ? {} : beginOf(pictureStream as Stream, output)),
  }
  const sound = streams
    .filter((stream) => stream.codec_type === 'audio')
    .map((stream) => readSound(stream, output, still ? undefined : pictureStream))
  if (!picture && sound.length === 0) throw new UnreadableMedia('It holds neither a picture nor sound.')
  const kind: MediaKind = still ? 'still' : picture ? 'picture' : 'sound'
  const tag = (name: string): string | null => {
    for (const tags of [output.format?.tags, ...streams.map((stream) => stream.tags)]) {
      for (const [key, value] of Object.entries(tags ?? {}))
        if (key.toLowerCase() === name && value.trim() !== '') return value.trim()
    }
    return null
  }
  const labels = fromBytes?.labelsPerSecond ?? labelsOf(streams, tag('timecode'))
  const start = picture && !still ? readTimecode(tag('timecode'), picture.rate, labels) : null
  const reference = tag('time_reference')
  const packageId = tag('material_package_umid')
  if (picture && !still && !counted && picture.frames === 0)
    throw new UnreadableMedia('Its picture stream has no frames.')
  return {
    kind,
    container: containerName(output),
    picture,
    ...(further.length && !still ? { furtherPictures: further.length } : {}),
    sound,
    startFrame: start && picture ? labelShown(start, picture.rate, fromBytes) : null,
    dropFrame: start?.drop ?? false,
    ...(start && labels && picture && labels !== nominalFramesPerSecond(picture.rate) && { labelsPerSecond: labels }),
    reel: tag('reel_name'),
    timeReferenceSamples: reference !== null && /^\d+$/.test(reference) ? Number(reference) : null,
    createdAt: tag('creation_time') ?? tag('date'),
    originator: tag('encoded_by'),
    description: tag('comment') ?? tag('description'),
    madeBy: tag('comment_recipe'),
    ...(packageId === null ? {} : { materialPackage: { id: packageId, name: tag('material_package_name') } }),
  }
}

/** Sound that begins before the picture, by the file's own clock, makes it begin later. */
function beginOf({ start_time: start }: Stream, { format }: ProbeOutput): Pick<PictureFacts, 'beginsMicroseconds'> {
  const [picture, file] = [start, format?.start_time].map((text) => Math.round(Number(text) * 1_000_000))
  const begins = (picture as number) - (file as number)
  return begins > 0 ? { beginsMicroseconds: begins } : {}
}

function containerName(output: ProbeOutput): string {
  const name = output.format?.format_name ?? 'unknown'
  if (name.startsWith('mov,')) return (output.format?.tags?.major_brand ?? '').startsWith('qt') ? 'mov' : 'mp4'
  if (name.startsWith('matroska')) return 'mkv'
  return name.replace(/_pipe$/, '')
}

/** A frame that is rounded to a nanosecond is off by less than this part of itself, at any common rate. */
const roundedPart = 2e-7

/** Matroska has the length of a frame in nanoseconds: at 59.94 no quotient of it is exact (RFC 9559, 5.1.4.1.13). */
function rateSaid(text: string | undefined, { format }: ProbeOutput): Rate | undefined {
  const said = parseRate(text ?? '')
  if (!said || !format?.format_name?.startsWith('matroska')) return said
  const framesPerSecond = said.numerator / said.denominator
  const isMeant = ({ numerator, denominator }: Rate): boolean =>
    Math.abs(numerator / denominator / framesPerSecond - 1) < roundedPart
  return commonRates.find(isMeant) ?? said
}

const quotient = (a: Rate, b: Rate): number => a.numerator / a.denominator / (b.numerator / b.denominator)

/** Streams of interlaced pictures may be counted by their fields, of which there are two in a picture. */
const countsFields = ({ field_order: order = '' }: Stream, nominal: Rate, average: Rate): boolean =>
  /^[tb][tb]$/.test(order) && quotient(nominal, average) === 2

function readPicture(stream: Stream, still: boolean, output: ProbeOutput): PictureFacts {
  const nominal = rateSaid(stream.r_frame_rate, output)
  const average = rateSaid(stream.avg_frame_rate, output)
  const frameRate = nominal && average && countsFields(stream, nominal, average) ? average : (nominal ?? average)
  if (!frameRate && !still) throw new UnreadableMedia('Its picture has no frame rate.')
  const varies = frameRate && average ? Math.abs(quotient(frameRate, average) - 1) > 0.001 : false
  const aspect = /^(\d+):(\d+)$/.exec(stream.sample_aspect_ratio ?? '')
  const known = (value: string | undefined): string | null =>
    value && value !== 'unknown' && value !== 'reserved' ? value : null
  return {
    codec: stream.codec_name ?? 'unknown',
    profile: known(stream.profile),
    width: stream.width ?? 0,
    height: stream.height ?? 0,
    pixelAspect:
      aspect && aspect[1] !== '0' && aspect[2] !== '0'
        ? { numerator: Number(aspect[1]), denominator: Number(aspect[2]) }
        : { numerator: 1, denominator: 1 },
    rotation: stream.side_data_list?.find((data) => data.rotation !== undefined)?.rotation ?? 0,
    pixelFormat: known(stream.pix_fmt),
    rate: frameRate ?? rate(25),
    variableRate: varies,
    frames: still ? 1 : (knownFrames(stream) ?? 0),
    scan: known(stream.field_order),
    colour: {
      primaries: known(stream.color_primaries),
      transfer: known(stream.color_transfer),
      // One codec writes 0 for what it does not say, and 0 means RGB elsewhere: samples of colour difference are no
      // RGB.
      matrix: stream.color_space === 'gbr' && stream.pix_fmt?.startsWith('yuv') ? null : known(stream.color_space),
      range: known(stream.color_range),
    },
  }
}

/**
 * Containers that do not say how long sound is to the sample: AVI counts packets of compressed sound, of which a decoder
 * may give nothing for the first; streams say when some of them are due.
 */
const doesNotSay = ({ codec_name: codec }: Stream, { format }: ProbeOutput): boolean =>
  /^(mpegts|mpeg)$/.test(format?.format_name ?? '') || (format?.format_name === 'avi' && !codec?.startsWith('pcm_'))

/** @param picture the picture that it runs with; what lies before its first frame does not count */
function readSound(stream: Stream, output: ProbeOutput, picture: Stream | undefined): SoundFacts {
  const sampleRate = Number(stream.sample_rate ?? 0)
  const timeBase = parseRate(stream.time_base ?? '')
  const samples =
    timeBase && stream.duration_ts !== undefined && !doesNotSay(stream, output)
      ? (stream.duration_ts * timeBase.numerator * sampleRate) / timeBase.denominator
      : null
  const lead = Number(picture?.start_time ?? Number.NaN) - Number(stream.start_time ?? Number.NaN)
  const before = lead > 0 ? Math.round(lead * sampleRate) : 0
  const depth = Number(stream.bits_per_raw_sample ?? stream.bits_per_sample ?? 0)
  return {
    codec: stream.codec_name ?? 'unknown',
    channels: stream.channels ?? 0,
    layout: stream.channel_layout ?? null,
    sampleRate,
    bitDepth: depth > 0 ? depth : stream.bits_per_sample || null,
    samples: samples !== null && Number.isInteger(samples) ? Math.max(0, samples - before) : null,
  }
}

/**
 * The rate that stills run at by the first one's own header, and where that one stands; a rate that it does not say is
 * the one that is given.
 */
export async function readStillPlace(
  path: string,
  fallback: Rate,
): Promise<{ readonly rate: Rate; readonly startFrame: number | null; readonly dropFrame: boolean }> {
  const file = await open(path, 'r')
  const head = await readAt(file, 0, stillHeaderBytes).finally(() => file.close())
  const time = readStillTime(head)
  const frameRate = time.rate ?? fallback
  const start = readTimecode(time.timecode, frameRate, null)
  return { rate: frameRate, startFrame: start?.frame ?? null, dropFrame: start?.drop ?? false }
}
