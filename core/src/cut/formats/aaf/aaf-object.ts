import { toHex, viewOf } from '../../../bytes/index.ts'
import { type Fraction, fraction } from '../../../time/index.ts'
import { CutFormatError } from '../../model.ts'
import { classNameOf } from './aaf-model.ts'
import { type CompoundEntry, utf16 } from './compound-file.ts'

/** How a property is stored (AAF Low-Level Container Specification 1.0.1, section 5). */
const strongReference = 0x22
const strongReferenceVector = 0x32
const strongReferenceSet = 0x3a
const weakReference = 0x02
const propertiesHeaderBytes = 4
const propertyEntryBytes = 6
const vectorHeaderBytes = 12
const setHeaderBytes = 15

interface Stored {
  readonly form: number
  readonly value: Uint8Array
}

/** An object of an AAF: a storage, whose stream `properties` holds its values and names the objects that it owns. */
export class AafObject {
  /** Its class by name; null for a class that is not read. */
  readonly className: string | null
  readonly #entry: CompoundEntry
  readonly #at: string
  #properties: ReadonlyMap<number, Stored> | null = null
  readonly #parts = new Map<string, AafObject>()

  constructor(entry: CompoundEntry, at = '') {
    this.#entry = entry
    this.#at = at
    this.className = classNameOf(auidOf(entry.classBytes))
  }

  /** A number in one, two, four or eight bytes, with its sign where it has four or more. */
  integer(property: number): bigint | null {
    const value = this.#value(property)
    if (!value) return null
    const view = viewOf(value)
    if (value.length === 8) return view.getBigInt64(0, true)
    if (value.length === 4) return BigInt(view.getInt32(0, true))
    if (value.length === 2) return BigInt(view.getUint16(0, true))
    if (value.length === 1) return BigInt(view.getUint8(0))
    throw this.#fault(property, 'no number')
  }

  rational(property: number): Fraction | null {
    const value = this.#value(property)
    return value ? this.#rational(property, value) : null
  }

  text(property: number): string | null {
    const value = this.#value(property)
    return value ? utf16(value) || null : null
  }

  /** A number of 32 bytes by which a mob is known, in hexadecimal; null where none, or the one that stands for none. */
  mobId(property: number): string | null {
    const value = this.#value(property)
    if (!value) return null
    if (value.length !== 32) throw this.#fault(property, 'no identification of a mob')
    return value.every((byte) => byte === 0) ? null : toHex(value)
  }

  auid(property: number): string | null {
    const value = this.#value(property)
    if (!value) return null
    if (value.length !== 16) throw this.#fault(property, 'no identification')
    return auidOf(toHex(value))
  }

  /** The identification of a definition that is referred to. */
  definition(property: number): string | null {
    const stored = this.#stored(property)
    if (!stored) return null
    if (stored.form !== weakReference || stored.value.length < 21) throw this.#fault(property, 'no reference')
    return auidOf(toHex(stored.value.subarray(5, 21)))
  }

  /** A value that says its own type: as text, and as a quotient where it is as long as one. */
  indirect(property: number): { readonly text: string; readonly rational: Fraction | null } | null {
    const value = this.#value(property)
    if (!value || value.length < 17) return null
    const held = value.subarray(17)
    return { text: utf16(held), rational: held.length === 8 ? this.#rational(property, held) : null }
  }

  object(property: number): AafObject | null {
    const stored = this.#stored(property)
    if (!stored) return null
    if (stored.form !== strongReference) throw this.#fault(property, 'no object')
    return this.#owned(utf16(stored.value))
  }

  /** Objects in the order of their vector, or in that of a set's index. */
  objects(property: number): AafObject[] {
    const stored = this.#stored(property)
    if (!stored) return []
    const isSet = stored.form === strongReferenceSet
    if (!isSet && stored.form !== strongReferenceVector) throw this.#fault(property, 'no list of objects')
    const name = utf16(stored.value)
    const index = this.#entry.children.get(`${name} index`)?.bytes()
    if (!index || index.length < (isSet ? setHeaderBytes : vectorHeaderBytes))
      throw this.#fault(property, 'a list without its index')
    const view = viewOf(index)
    const count = view.getUint32(0, true)
    const [header, entry] = isSet ? [setHeaderBytes, 8 + view.getUint8(14)] : [vectorHeaderBytes, 4]
    if (header + count * entry > index.length) throw this.#fault(property, 'a list that is longer than its index')
    return Array.from({ length: count }, (_, at) =>
      this.#owned(`${name}{${view.getUint32(header + at * entry, true).toString(16)}}`),
    )
  }

  #owned(name: string): AafObject {
    const known = this.#parts.get(name)
    if (known) return known
    const entry = this.#entry.children.get(name)
    if (!entry || entry.isStream) throw new CutFormatError(this.#place, `its part “${name}” is not in the file.`)
    const part = new AafObject(entry, `${this.#at}/${name}`)
    this.#parts.set(name, part)
    return part
  }

  get #place(): string {
    return this.#at || 'the file'
  }

  #rational(property: number, value: Uint8Array): Fraction {
    const denominator = value.length === 8 ? viewOf(value).getInt32(4, true) : 0
    if (denominator === 0) throw this.#fault(property, 'no quotient')
    return fraction(viewOf(value).getInt32(0, true), denominator)
  }

  #value(property: number): Uint8Array | null {
    return this.#stored(property)?.value ?? null
  }

  #stored(property: number): Stored | undefined {
    this.#properties ??= this.#readProperties()
    return this.#properties.get(property)
  }

  #readProperties(): ReadonlyMap<number, Stored> {
    const bytes = this.#entry.children.get('properties')?.bytes()
    if (!bytes || bytes.length < propertiesHeaderBytes)
      throw new CutFormatError(this.#place, 'an object of it has no properties.')
    const view = viewOf(bytes)
    if (view.getUint8(0) !== 0x4c)
      throw new CutFormatError(this.#place, 'it is written with the highest byte first, which is not read.')
    const count = view.getUint16(2, true)
    const properties = new Map<number, Stored>()
    let from = propertiesHeaderBytes + count * propertyEntryBytes
    for (let index = 0; index < count; index++) {
      const at = propertiesHeaderBytes + index * propertyEntryBytes
      if (at + propertyEntryBytes > bytes.length) throw new CutFormatError(this.#place, 'its properties were cut off.')
      const length = view.getUint16(at + 4, true)
      if (from + length > bytes.length) throw new CutFormatError(this.#place, 'its properties were cut off.')
      properties.set(view.getUint16(at, true), {
        form: view.getUint16(at + 2, true),
        value: bytes.subarray(from, from + length),
      })
      from += length
    }
    return properties
  }

  #fault(property: number, what: string): CutFormatError {
    return new CutFormatError(this.#place, `its property ${property.toString(16).padStart(4, '0')} is ${what}.`)
  }
}

/** Sixteen bytes of a file as an identification is written: its first three numbers have their lowest byte first. */
export function auidOf(hexadecimal: string): string {
  const swapped = (from: number, to: number): string =>
    hexadecimal.slice(from, to).match(/../g)?.reverse().join('') ?? ''
  return [swapped(0, 8), swapped(8, 12), swapped(12, 16), hexadecimal.slice(16, 20), hexadecimal.slice(20)].join('-')
}
