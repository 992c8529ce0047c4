import { describePixelAspect, readPixelAspect } from '../media/index.ts'
import { isRealDate } from '../notes/index.ts'
import { parseTimecode, type Rate, TimecodeError } from '../time/index.ts'
import { normalDay } from './group-rule.ts'

export type FieldKind = 'text' | 'number' | 'bytes' | 'rate' | 'timecode' | 'date' | 'flag' | 'choice'

/** Something that is known or said of a clip: a column of the table, a term of a search, a part of a name. */
export interface Field {
  readonly id: string
  readonly title: string
  readonly kind: FieldKind
  /** What people add, what the file says, or what follows from the rest of the production. */
  readonly from: 'described' | 'file' | 'state'
  readonly choices?: readonly string[]
}

const described = (id: string, title: string, kind: FieldKind = 'text', choices?: readonly string[]): Field => ({
  id,
  title,
  kind,
  from: 'described',
  ...(choices ? { choices } : {}),
})
const ofFile = (id: string, title: string, kind: FieldKind = 'text', choices?: readonly string[]): Field => ({
  id,
  title,
  kind,
  from: 'file',
  ...(choices ? { choices } : {}),
})
const ofState = (id: string, title: string, kind: FieldKind = 'text', choices?: readonly string[]): Field => ({
  id,
  title,
  kind,
  from: 'state',
  ...(choices ? { choices } : {}),
})

/** What a person says of the shape of a clip’s pixels, where its file is wrong. */
export const pixelAspectField = 'pixelAspect'

/** What a person says of the sound that a picture's file has: for orientation alone, or meant to be used. */
export const soundUseField = 'soundUse'
export const soundUses = ['guide', 'real'] as const
export type SoundUse = (typeof soundUses)[number]

/** Marks a clip that was taken out of its production, among what is said of it. */
export const takenOutKey = 'takenOut'

/** The fields that every production has, in the order in which a chooser lists them. */
export const builtInFields: readonly Field[] = [
  described('name', 'Name'),
  described('reel', 'Reel'),
  described('scene', 'Scene'),
  described('take', 'Take'),
  described('camera', 'Camera'),
  described('day', 'Shoot day'),
  described('unit', 'Unit'),
  described('cameFrom', 'Came from'),
  described('syncedSound', 'Synced sound'),
  described('soundRoll', 'Sound roll'),
  described('soundTimecode', 'Sound timecode'),
  described('soundOffset', 'Sound offset'),
  described(pixelAspectField, 'Pixel aspect by hand'),
  described(soundUseField, 'Own sound', 'choice', soundUses),
  described('circled', 'Circled', 'flag'),
  described('notes', 'Notes'),
  ofFile('fileName', 'File name'),
  ofFile('folder', 'Folder'),
  ofFile('volume', 'Volume'),
  ofFile('volumeKind', 'Kind of volume'),
  ofFile('kind', 'Kind', 'choice', ['picture', 'sound', 'still']),
  ofFile('codec', 'Codec'),
  ofFile('container', 'Container'),
  ofFile('raster', 'Raster'),
  ofFile('width', 'Width', 'number'),
  ofFile('height', 'Height', 'number'),
  ofFile('rate', 'Rate', 'rate'),
  ofFile('start', 'Start', 'timecode'),
  ofFile('duration', 'Duration', 'timecode'),
  ofFile('frames', 'Frames', 'number'),
  ofFile('channels', 'Channels', 'number'),
  ofFile('layout', 'Sound'),
  ofFile('tracks', 'Track names'),
  ofFile('sampleRate', 'Sample rate', 'number'),
  ofFile('bitDepth', 'Bit depth', 'number'),
  ofFile('squeeze', 'Pixel aspect'),
  ofFile('scan', 'Scan'),
  ofFile('colour', 'Colour', 'choice', ['log', 'display', 'not tagged']),
  ofFile('created', 'Created', 'date'),
  ofFile('originator', 'Originator'),
  ofFile('files', 'Files', 'number'),
  ofFile('size', 'Size', 'bytes'),
  ofFile('dataRate', 'Data rate', 'number'),
  ofState('presence', 'Presence', 'choice', ['here', 'away', 'gone']),
  ofState('proxy', 'Proxy', 'choice', [
    'no proxy',
    'proven',
    'matched',
    'unchecked',
    'stale',
    'mismatched',
    'proxy gone',
    'proxy away',
    'original gone',
    'original away',
    'both gone',
  ]),
  ofState('proxyRaster', 'Proxy raster'),
  ofState('uses', 'Uses', 'number'),
  ofState('notice', 'Notices'),
  ofState('plays', 'Plays at once', 'number'),
]

/** A column that people made: its key stands for it in what is stored, so that a new title loses nothing. */
export interface CustomColumn {
  readonly key: string
  readonly title: string
  readonly kind: 'text' | 'number' | 'timecode' | 'date' | 'flag' | 'choice'
  readonly choices: readonly string[]
}

export const customField = (column: CustomColumn): Field => ({
  id: column.key,
  title: column.title,
  kind: column.kind,
  from: 'described',
  ...(column.kind === 'choice' ? { choices: column.choices } : {}),
})

/** All fields of a production. */
export const allFields = (columns: readonly CustomColumn[]): readonly Field[] => [
  ...builtInFields,
  ...columns.map(customField),
]

/** A value that its field does not take; the message names both and says what would fit. */
export class ValueError extends Error {
  override readonly name = 'ValueError'
}

/** The longest text that a cell holds. */
export const longestValue = 4000

/**
 * Checks what a person typed and brings it into the form in which it is kept. An empty text empties the cell.
 * @param rate the clip's rate, at which a timecode must exist
 * @throws ValueError with a sentence for the person
 */
export function checkValue(field: Field, text: string, rate: Rate): string {
  const value = text.replace(/[\r\n\t]+/g, ' ').trim()
  if (value === '') return ''
  if (value.length > longestValue)
    throw new ValueError(`${field.title} holds up to ${longestValue} characters; this has ${value.length}.`)
  switch (field.kind) {
    case 'number':
    case 'bytes':
      if (!/^-?\d+([.,]\d+)?$/.test(value)) throw new ValueError(`${field.title} is a number; “${value}” is none.`)
      return value.replace(',', '.')
    case 'date':
      if (!isRealDate(value)) throw new ValueError(`${field.title} is a date such as 2026-11-04; “${value}” is none.`)
      return value
    case 'timecode':
      try {
        parseTimecode(value, rate)
      } catch (error) {
        if (error instanceof TimecodeError) throw new ValueError(error.message)
        throw error
      }
      return value
    case 'flag':
      if (/^(yes|y|true|1|x|c|circled|[*✓✔●○◯⊙])$/iu.test(value)) return 'yes'
      if (/^(no|n|false|0)$/i.test(value)) return ''
      throw new ValueError(`${field.title} is yes or no; “${value}” is neither.`)
    case 'choice': {
      const choice = field.choices?.find((candidate) => candidate.toLowerCase() === value.toLowerCase())
      if (choice === undefined)
        throw new ValueError(`${field.title} is one of ${field.choices?.join(', ')}; “${value}” is not.`)
      return choice
    }
    default:
      return field.id === 'day' ? normalDay(value) : field.id === pixelAspectField ? normalPixelAspect(value) : value
  }
}

function normalPixelAspect(text: string): string {
  const aspect = readPixelAspect(text)
  if (aspect) return describePixelAspect(aspect)
  const forms = 'A pixel aspect is written as 2:1, 4:3, 1.33 or square, and is at most 4:1 and at least 1:4'
  throw new ValueError(`${forms}; “${text}” is none.`)
}
