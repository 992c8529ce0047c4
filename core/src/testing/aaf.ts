import { fromHex, joinBytes, toHex, viewOf } from '../bytes/index.ts'
import { type Storage, writeCompoundFile } from './compound-file.ts'

/** A value of a property: bytes, or objects that are owned. Written apart from how the product reads them. */
type Value =
  | { readonly form: 0x82 | 0x02; readonly bytes: Uint8Array }
  | { readonly form: 0x22; readonly object: AafObjectOfTest }
  | { readonly form: 0x32 | 0x3a; readonly objects: readonly AafObjectOfTest[] }

export interface AafObjectOfTest {
  readonly classPart: string
  readonly properties: readonly (readonly [number, Value])[]
}

const data = (bytes: Uint8Array): Value => ({ form: 0x82, bytes })

function numbers(bytes: number, set: (view: DataView) => void): Uint8Array {
  const written = new Uint8Array(bytes)
  set(viewOf(written))
  return written
}

export const long = (value: number): Value => data(numbers(8, (view) => view.setBigInt64(0, BigInt(value), true)))
export const word = (value: number): Value => data(numbers(4, (view) => view.setUint32(0, value, true)))
export const short = (value: number): Value => data(numbers(2, (view) => view.setUint16(0, value, true)))
export const flag = (value: boolean): Value => data(Uint8Array.of(value ? 1 : 0))

function quotientBytes([numerator, denominator]: readonly [number, number]): Uint8Array {
  return numbers(8, (view) => {
    view.setInt32(0, numerator, true)
    view.setInt32(4, denominator, true)
  })
}
export const quotient = (value: readonly [number, number]): Value => data(quotientBytes(value))

const textBytes = (value: string): Uint8Array =>
  numbers(value.length * 2 + 2, (view) => {
    for (let index = 0; index < value.length; index++) view.setUint16(index * 2, value.charCodeAt(index), true)
  })
export const text = (value: string): Value => data(textBytes(value))

/** An identification as its bytes stand in a file. */
export function auidBytes(auid: string): Uint8Array {
  const [a = '', b = '', c = '', d = '', e = ''] = auid.split('-')
  const swapped = (part: string): string => (part.match(/../g) ?? []).reverse().join('')
  return fromHex([swapped(a), swapped(b), swapped(c), d, e].join(''))
}
export const auid = (value: string): Value => data(auidBytes(value))
const reference = (value: string): Value => ({
  form: 0x02,
  bytes: joinBytes([fromHex('0000011b10'), auidBytes(value)]),
})
export const one = (object: AafObjectOfTest): Value => ({ form: 0x22, object })
export const list = (objects: readonly AafObjectOfTest[]): Value => ({ form: 0x32, objects })
const set = (objects: readonly AafObjectOfTest[]): Value => ({ form: 0x3a, objects })

export const object = (
  classPart: string,
  properties: readonly (readonly [number, Value] | false | null | undefined)[],
): AafObjectOfTest => ({
  classPart,
  properties: properties.filter((each): each is readonly [number, Value] => Boolean(each)),
})

/** A mob's identification of 32 bytes (SMPTE ST 330), by a number; 0 is that of none. */
export const mobId = (number: number): Value =>
  data(
    number === 0
      ? new Uint8Array(32)
      : fromHex(`060a2b340101010501010f1013000000${number.toString(16).padStart(32, '0')}`),
  )

export const kinds = {
  picture: '01030202-0100-0000-060e-2b3404010101',
  sound: '01030202-0200-0000-060e-2b3404010101',
  timecode: '01030201-0100-0000-060e-2b3404010101',
  marker: '01030201-1000-0000-060e-2b3404010101',
} as const
type Kind = keyof typeof kinds

const component = (classPart: string, kind: Kind, length: number, more: Parameters<typeof object>[1] = []) =>
  object(classPart, [[0x0201, reference(kinds[kind])], length >= 0 && [0x0202, long(length)], ...more])

export const sequence = (kind: Kind, parts: readonly AafObjectOfTest[]): AafObjectOfTest =>
  component('0f00', kind, -1, [[0x1001, list(parts)]])

export const filler = (kind: Kind, length: number): AafObjectOfTest => component('0900', kind, length)

/** A clip of a mob: from so many units of its own slot behind the origin of the other's. */
export const sourceClip = (
  kind: Kind,
  length: number,
  {
    mob,
    slot = 1,
    start = 0,
    fades,
  }: { mob: number; slot?: number; start?: number; fades?: readonly [number, number] },
): AafObjectOfTest =>
  component('1100', kind, length, [
    [0x1101, mobId(mob)],
    [0x1102, word(slot)],
    [0x1201, long(start)],
    fades && [0x1202, long(fades[0])],
    fades && [0x1204, long(fades[1])],
  ])

/** A group of an operation, with what is in it. */
export const group = (
  kind: Kind,
  length: number,
  operation: string,
  inputs: readonly AafObjectOfTest[],
  parameters: readonly AafObjectOfTest[] = [],
): AafObjectOfTest =>
  component('0a00', kind, length, [
    [0x0b01, reference(operation)],
    inputs.length > 0 && [0x0b02, list(inputs)],
    parameters.length > 0 && [0x0b03, list(parameters)],
  ])

export const transition = (kind: Kind, length: number, operation: string): AafObjectOfTest =>
  component('1700', kind, length, [
    [0x1801, one(group(kind, length, operation, []))],
    [0x1802, long(Math.floor(length / 2))],
  ])

const rationalType = '03010100-0000-0000-060e-2b3404010101'
const stringType = '01100200-0000-0000-060e-2b3401040101'
const indirect = (type: string, bytes: Uint8Array): Value => data(joinBytes([fromHex('4c'), auidBytes(type), bytes]))

/** A parameter that stays as it is: the ratio of a change of speed. */
export const ratio = (value: readonly [number, number]): AafObjectOfTest =>
  object('3d00', [
    [0x4c01, auid('72559a80-24d7-11d3-8a50-0050040ef7d2')],
    [0x4d01, indirect(rationalType, quotientBytes(value))],
  ])

/** A parameter that varies over so many points. */
export const varying = (points: number): AafObjectOfTest =>
  object('3e00', [
    [0x4c01, auid('72559a80-24d7-11d3-8a50-0050040ef7d2')],
    [0x4e02, list(Array.from({ length: points }, (_, index) => object('1900', [[0x1a03, quotient([index, points])]])))],
  ])

export const timecode = (start: number, framesPerSecond: number, isDrop = false): AafObjectOfTest =>
  component('1400', 'timecode', 100_000, [
    [0x1501, long(start)],
    [0x1502, short(framesPerSecond)],
    [0x1503, flag(isDrop)],
  ])

export const slot = (
  id: number,
  rate: readonly [number, number],
  segment: AafObjectOfTest,
  { track, origin = 0 }: { track?: number; origin?: number } = {},
): AafObjectOfTest =>
  object('3b00', [
    [0x4801, word(id)],
    [0x4803, one(segment)],
    track !== undefined && [0x4804, word(track)],
    [0x4b01, quotient(rate)],
    [0x4b02, long(origin)],
  ])

/** Remarks at frames of a composition. */
export const markers = (
  id: number,
  rate: readonly [number, number],
  remarks: readonly (readonly [number, string])[],
): AafObjectOfTest =>
  object('3900', [
    [0x4801, word(id)],
    [0x4901, quotient(rate)],
    [
      0x4803,
      one(
        sequence(
          'marker',
          remarks.map(([position, comment]) =>
            component('4100', 'marker', 1, [
              [0x0601, long(position)],
              [0x0602, text(comment)],
            ]),
          ),
        ),
      ),
    ],
  ])

type Slots = readonly AafObjectOfTest[]
const mob = (classPart: string, id: number, name: string, slots: Slots, more: Parameters<typeof object>[1] = []) =>
  object(classPart, [[0x4401, mobId(id)], [0x4402, text(name)], [0x4403, list(slots)], ...more])

export const usages = { clip: '0500', programme: '0700' } as const

export const composition = (
  id: number,
  name: string,
  slots: Slots,
  usage?: (typeof usages)[keyof typeof usages],
): AafObjectOfTest =>
  mob('3500', id, name, slots, [usage && [0x4408, auid(`0d010102-0101-${usage}-060e-2b3404010101`)]])

export const masterMob = (
  id: number,
  name: string,
  slots: Slots,
  comments: Readonly<Record<string, string>> = {},
): AafObjectOfTest =>
  mob('3600', id, name, slots, [
    Object.keys(comments).length > 0 && [
      0x4406,
      list(
        Object.entries(comments).map(([key, value]) =>
          object('3f00', [
            [0x5001, text(key)],
            [0x5003, indirect(stringType, textBytes(value))],
          ]),
        ),
      ),
    ],
  ])

/** A file: at which rate, how long, where, and how large its picture is. */
export const fileMob = (
  id: number,
  name: string,
  slots: Slots,
  {
    rate,
    length,
    url,
    raster,
  }: {
    readonly rate: readonly [number, number]
    readonly length: number
    readonly url?: string
    readonly raster?: readonly [number, number]
  },
): AafObjectOfTest =>
  mob('3700', id, name, slots, [
    [
      0x4701,
      one(
        object(raster ? '2800' : '4800', [
          [0x3001, quotient(rate)],
          [0x3002, long(length)],
          url !== undefined && [0x2f01, list([object('3200', [[0x4001, text(url)]])])],
          raster && [0x3203, word(raster[0])],
          raster && [0x3202, word(raster[1])],
        ]),
      ),
    ],
  ])

export const tapeMob = (id: number, name: string, slots: Slots): AafObjectOfTest =>
  mob('3700', id, name, slots, [[0x4701, one(object('2e00', []))]])

/** A shot with its master mob, its file and its tape: numbered from `at` on, all of them as long as each other. */
export const shotOnTape = (
  at: number,
  name: string,
  { reel, frames, startFrame }: { readonly reel: string; readonly frames: number; readonly startFrame: number },
): AafObjectOfTest[] => {
  const rate = [25, 1] as const
  return [
    masterMob(at, name, [slot(1, rate, sourceClip('picture', frames, { mob: at + 1 }))]),
    fileMob(at + 1, name, [slot(1, rate, sourceClip('picture', frames, { mob: at + 2 }))], {
      ...{ rate, length: frames, url: `file:///V:/Proxies/${name}`, raster: [640, 360] as const },
    }),
    tapeMob(at + 2, reel, [
      slot(1, rate, sourceClip('picture', frames, { mob: 0 })),
      slot(2, rate, timecode(startFrame, 25)),
    ]),
  ]
}

/** What a dictionary says of an operation. */
export const operationDefinition = (id: string, name: string, isTimeWarp = false): AafObjectOfTest =>
  object('1c00', [[0x1b01, auid(id)], [0x1b02, text(name)], isTimeWarp && [0x1e02, flag(true)]])

/** The bytes of an AAF of these mobs. */
export function writeAaf(
  mobs: readonly AafObjectOfTest[],
  operations: readonly AafObjectOfTest[] = [],
  sectorBytes: 512 | 4096 = 512,
): Uint8Array {
  const header = object('2f00', [
    [0x3b03, one(object('1800', [[0x1901, set(mobs)]]))],
    [0x3b04, one(object('2200', [operations.length > 0 && [0x2603, set(operations)]]))],
  ])
  return writeCompoundFile(storageOf(object('', [[0x0002, one(header)]])), sectorBytes)
}

function storageOf({ classPart, properties }: AafObjectOfTest): Storage {
  const children: Record<string, Storage | Uint8Array> = {}
  const values = properties.map(([property, value]): readonly [number, number, Uint8Array] => {
    if ('bytes' in value) return [property, value.form, value.bytes]
    const name = `part-${property.toString(16)}`
    if ('object' in value) children[name] = storageOf(value.object)
    else {
      children[`${name} index`] = indexOf(value)
      value.objects.forEach((each, index) => {
        children[`${name}{${index.toString(16)}}`] = storageOf(each)
      })
    }
    return [property, value.form, textBytes(name)]
  })
  children.properties = joinBytes([
    numbers(4 + values.length * 6, (view) => {
      view.setUint8(0, 0x4c)
      view.setUint8(1, 0x20)
      view.setUint16(2, values.length, true)
      values.forEach(([property, form, bytes], index) => {
        view.setUint16(4 + index * 6, property, true)
        view.setUint16(6 + index * 6, form, true)
        view.setUint16(8 + index * 6, bytes.length, true)
      })
    }),
    ...values.map(([, , bytes]) => bytes),
  ])
  const classBytes = classPart ? toHex(auidBytes(`0d010101-0101-${classPart}-060e-2b3402060101`)) : ''
  return { children, classBytes }
}

/** The index of a vector names its parts by number; that of a set has the key of each besides. */
function indexOf({ form, objects }: Extract<Value, { objects: unknown }>): Uint8Array {
  if (form === 0x32)
    return numbers(12 + objects.length * 4, (view) => {
      view.setUint32(0, objects.length, true)
      view.setUint32(4, objects.length, true)
      view.setUint32(8, none, true)
      objects.forEach((_, index) => {
        view.setUint32(12 + index * 4, index, true)
      })
    })
  const keys = objects.map(({ properties: [first] }) => (first as readonly [number, { bytes: Uint8Array }])[1].bytes)
  const keyBytes = keys[0]?.length ?? 16
  const entryBytes = 8 + keyBytes
  const index = numbers(15 + objects.length * entryBytes, (view) => {
    view.setUint32(0, objects.length, true)
    view.setUint32(4, objects.length, true)
    view.setUint32(8, none, true)
    view.setUint16(12, keyBytes === 32 ? 0x4401 : 0x1b01, true)
    view.setUint8(14, keyBytes)
    objects.forEach((_, at) => {
      view.setUint32(15 + at * entryBytes, at, true)
      view.setUint32(19 + at * entryBytes, 1, true)
    })
  })
  for (const [at, key] of keys.entries()) index.set(key, 15 + at * entryBytes + 8)
  return index
}

const none = 0xffff_ffff
