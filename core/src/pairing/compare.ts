import {
  channelCount,
  describeChannels,
  displayAspect,
  type MediaFacts,
  type PictureFacts,
  type ShapeOfPicture,
  type SoundFacts,
} from '../media/index.ts'
import { compareNames, normalName, reelKey, stem } from '../naming/index.ts'
import { formatRate, formatTimecode, sameRate } from '../time/index.ts'

export type Aspect =
  | 'name'
  | 'kind'
  | 'rate'
  | 'timecode'
  | 'drop flag'
  | 'length'
  | 'reel'
  | 'channels'
  | 'sound length'
  | 'shape'
  | 'raster'
  | 'coverage'
  | 'content'
  | 'pictures'
  | 'decode'
  | 'colour'
  | 'place'
  | 'role'
  | 'recipe'
  | 'look'
  | 'scale'
  | 'sound'
  | 'sound sync'
  | 'set'

/** One line of an evidence list: what was expected, what is there, and how far apart they are. */
export interface EvidenceRow {
  readonly aspect: Aspect
  readonly expected: string
  readonly found: string
  readonly agrees: boolean
  /** The exact difference in words, when there is one; of a row that agrees, what keeps that from being certain. */
  readonly difference: string | null
}

/** One side of a comparison. A clip's reel may come from a rule, so it stands beside the facts. */
export interface Identity {
  readonly name: string
  /** What it was called before: a twin may keep the name that its original has lost. */
  readonly formerNames?: readonly string[]
  /** What its recipe calls a twin, where that is not the original's own name. */
  readonly plannedName?: string
  /** Whether its recipe lets pictures lose their shape to fill a raster. */
  readonly isStretched?: boolean
  readonly facts: MediaFacts
  readonly reel: string | null
}

/** A file of a made item and the part that it plays. */
export interface MadePart {
  readonly part: 'whole' | 'picture' | 'sound'
  readonly name: string
  /** What the file itself calls its clip: that is a name as well as its own is. */
  readonly clipName?: string | null
  readonly facts: MediaFacts
}

/** The part of the made raster that holds the picture, when the rest is padding. */
export interface ContentRaster {
  readonly width: number
  readonly height: number
}

/**
 * Compares a made item with its original in everything a twin must share. Differing rows come first.
 * Rows: name, rate, timecode, drop flag, length, reel, channels, sound length, shape.
 */
export function compareTwin(
  original: Identity,
  parts: readonly MadePart[],
  suffixes: readonly string[],
  content: ContentRaster | null,
): EvidenceRow[] {
  const made = combine(parts)
  const rows: EvidenceRow[] = []
  const add = (
    aspect: Aspect,
    expected: string,
    found: string,
    agrees: boolean,
    difference: string | null = null,
  ): void => {
    rows.push({ aspect, expected, found, agrees, difference: agrees ? null : difference })
  }
  const planned = original.plannedName
  const namesake = made.names.find((own) =>
    [original.name, ...(original.formerNames ?? [])].some(
      (name) => compareNames(name, own, suffixes).kind !== 'different',
    ),
  )
  const isAsPlanned = planned !== undefined && normalName(planned) === normalName(stem(made.names[0]))
  add(
    'name',
    planned ?? stem(original.name),
    stem(namesake ?? made.names[0]),
    planned === undefined ? namesake !== undefined : isAsPlanned,
    'the names differ beyond a declared suffix',
  )
  const doubt: AddDoubt = (aspect, expected, found, difference) =>
    rows.push({ aspect, expected, found, agrees: true, difference })
  if (original.facts.picture && made.picture) comparePictures(original, made, content, add, doubt)
  else
    add('kind', original.facts.kind, made.picture ? 'picture' : 'sound', false, 'one has a picture, the other has none')
  const expectedReel = original.reel ?? 'none'
  add(
    'reel',
    expectedReel,
    made.reel ?? 'none',
    reelKey(original.reel ?? '') === reelKey(made.reel ?? ''),
    'the reels differ',
  )
  const isSplit = parts.some((part) => part.part === 'sound')
  compareSound(original.facts, made, { isSplit, add, doubt })
  return rows.sort((a, b) => Number(a.agrees) - Number(b.agrees))
}

/** A row that is neither wrong nor certain. */
type AddDoubt = (aspect: Aspect, expected: string, found: string, doubt: string) => void
type AddRow = (aspect: Aspect, expected: string, found: string, agrees: boolean, difference?: string | null) => void

interface Made {
  readonly names: readonly [string, ...string[]]
  readonly picture: PictureFacts | null
  readonly sound: readonly SoundFacts[]
  readonly startFrame: number | null
  readonly dropFrame: boolean
  readonly reel: string | null
  readonly container: string
}

/** Essence files end in _V1, _A1, _A2 …; the item's name is what stands before. */
const essenceEnding = /_[VA]\d+(?=\.mxf$)/i

function combine(parts: readonly MadePart[]): Made {
  const main = parts.find((part) => part.part !== 'sound') ?? parts[0]
  if (!main) throw new Error('A made item has at least one file.')
  return {
    names: [
      main.part === 'whole' ? main.name : main.name.replace(essenceEnding, ''),
      // An ending keeps points in a name from being taken for one.
      ...(main.clipName ? [`${main.clipName}.mxf`] : []),
    ],
    picture: main.facts.picture,
    sound: parts.flatMap((part) => part.facts.sound),
    startFrame: main.facts.startFrame,
    dropFrame: main.facts.dropFrame,
    reel: main.facts.reel,
    container: main.facts.container,
  }
}

function comparePictures(
  original: Identity,
  made: Made,
  content: ContentRaster | null,
  add: AddRow,
  doubt: AddDoubt,
): void {
  const source = original.facts.picture as PictureFacts
  const twin = made.picture as PictureFacts
  add(
    'rate',
    formatRate(source.rate),
    formatRate(twin.rate),
    sameRate(source.rate, twin.rate),
    'the rates differ, so every timecode drifts',
  )
  const label = (startFrame: number | null, picture: PictureFacts, drop: boolean): string =>
    startFrame === null ? 'none' : formatTimecode(startFrame, picture.rate, drop)
  // MXF cannot say "no timecode" (SMPTE ST 377-1: a timecode component has a start): one without reads as midnight.
  const absentAsZero = made.container === 'mxf' && original.facts.startFrame === null && made.startFrame === 0
  const expectedStart = label(original.facts.startFrame, source, original.facts.dropFrame)
  const foundStart = label(made.startFrame, twin, made.dropFrame)
  // Frame numbers of two rates cannot be told apart by subtraction: there the labels must be equal.
  const sameStart = sameRate(source.rate, twin.rate)
    ? made.startFrame === original.facts.startFrame
    : expectedStart === foundStart
  if (absentAsZero)
    doubt(
      'timecode',
      expectedStart,
      foundStart,
      'MXF has no way to say “none”: midnight stands for it, and tells nothing',
    )
  else
    add(
      'timecode',
      expectedStart,
      foundStart,
      sameStart,
      startDifference(original.facts.startFrame, made.startFrame, sameRate(source.rate, twin.rate)),
    )
  if (original.facts.dropFrame || made.dropFrame) {
    const flag = (drop: boolean): string => (drop ? 'drop-frame' : 'non-drop')
    add(
      'drop flag',
      flag(original.facts.dropFrame),
      flag(made.dropFrame),
      original.facts.dropFrame === made.dropFrame,
      'the counting differs',
    )
  }
  const longer = twin.frames - source.frames
  add(
    'length',
    frames(source.frames),
    frames(twin.frames),
    longer === 0,
    `${frames(Math.abs(longer))} ${longer < 0 ? 'short' : 'long'}`,
  )
  const shown = content ? { ...twin, width: content.width, height: content.height } : twin
  if (original.isStretched && content) {
    const [wanted, made] = [content, twin].map(({ width, height }) => `${width}×${height}, stretched`) as [
      string,
      string,
    ]
    add('shape', wanted, made, wanted === made, 'it is not the raster that its recipe fills')
  } else
    add('shape', shape(source), shape(shown), sameShape(source, shown), 'the picture would look stretched or squeezed')
}

function startDifference(expected: number | null, found: number | null, isComparable: boolean): string {
  if (expected === null || found === null) return 'one has a timecode, the other has none'
  if (!isComparable) return 'it starts at another label'
  return `${frames(found - expected)} ${found > expected ? 'later' : 'earlier'}`
}

const frames = (count: number): string => `${Math.abs(count)} ${Math.abs(count) === 1 ? 'frame' : 'frames'}`

/** A display aspect as people write it: "1.78:1". */
function shape(picture: PictureFacts): string {
  const aspect = displayAspect(picture)
  return `${(aspect.numerator / aspect.denominator).toFixed(2)}:1 (${picture.width}×${picture.height})`
}

/** Equal display aspect, allowing for one pixel of rounding to even dimensions on the smaller raster. */
export function sameShape(a: ShapeOfPicture, b: ShapeOfPicture): boolean {
  const left = displayAspect(a)
  const right = displayAspect(b)
  const difference = Math.abs(left.numerator * right.denominator - right.numerator * left.denominator)
  const smallest = Math.min(a.width, a.height, b.width, b.height)
  return difference * smallest <= left.numerator * right.denominator
}

/** Compressed sound is decoded in whole packets, so its length may be off by less than one packet. */
const packetSamples = 2048

function compareSound(
  original: MediaFacts,
  { sound, picture, container }: Made,
  { isSplit, add, doubt }: { isSplit: boolean; add: AddRow; doubt: AddDoubt },
): void {
  const expected = channelCount(original)
  const found = sound.reduce((sum, stream) => sum + stream.channels, 0)
  // One essence per file splits every stream into single channels by design: then only the count can agree.
  const sameLayout = isSplit ? expected === found : describeChannels(original.sound) === describeChannels(sound)
  const missing = expected - found
  const difference =
    missing > 0
      ? `${missing} channel${missing === 1 ? '' : 's'} missing`
      : missing < 0
        ? `${-missing} channel${missing === -1 ? '' : 's'} too many`
        : 'grouped otherwise'
  add('channels', describeChannels(original.sound), describeChannels(sound), sameLayout, difference)
  const source = original.sound[0]
  const twin = sound[0]
  if (!source || !twin || source.samples === null || twin.samples === null) return
  const lengths = [`${source.samples} samples`, `${twin.samples} samples`] as const
  // Compared at the made rate by cross products; a resampled stream may round by one sample.
  const longerBy = (twin.samples * source.sampleRate - source.samples * twin.sampleRate) / source.sampleRate
  const offBySamples = Math.abs(longerBy)
  const isResampled = source.sampleRate !== twin.sampleRate
  const decoded = source.codec.startsWith('pcm_')
    ? Number(isResampled)
    : Math.ceil((packetSamples * twin.sampleRate) / source.sampleRate)
  const unit = editUnitSamples(original, twin.sampleRate)
  const isOne = !isSplit && container === 'mxf' && picture !== null
  const allowed = decoded + (isSplit || isOne ? unit : 0)
  const isAsPicture = isOne && Math.abs(twin.samples - picturesAsSamples(picture, twin.sampleRate)) <= unit
  if (isAsPicture && offBySamples > allowed)
    doubt(
      'sound length',
      ...lengths,
      longerBy > 0
        ? `its last ${Math.round(longerBy)} samples are silence: in one MXF file sound is as long as its picture`
        : `the original’s last ${Math.round(-longerBy)} samples run on behind its picture, and are not in it`,
    )
  else if (isCompressed(twin) && offBySamples > allowed && offBySamples < packetSamples)
    doubt('sound length', ...lengths, `${Math.round(offBySamples)} samples apart, less than a packet of its sound`)
  else add('sound length', ...lengths, offBySamples <= allowed, `${Math.round(offBySamples)} samples apart`)
}

const isCompressed = ({ codec }: SoundFacts): boolean => !/^pcm_|^(flac|alac|wavpack)$/.test(codec)

const picturesAsSamples = ({ frames, rate }: PictureFacts, sampleRate: number): number =>
  (frames * sampleRate * rate.denominator) / rate.numerator

/**
 * A sound essence of its own is written in whole edit units of the picture, the last filled with silence (SMPTE ST
 * 390).
 */
function editUnitSamples(original: MediaFacts, sampleRate: number): number {
  const rate = original.picture?.rate
  return rate ? Math.ceil((sampleRate * rate.denominator) / rate.numerator) : 0
}
