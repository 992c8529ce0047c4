import { type Fraction, fraction } from '../../../time/index.ts'
import { CutFormatError } from '../../model.ts'
import { childOf, childrenOf, isTrue, lineOf, textAt, type XmlNode } from './xmeml-document.ts'

/** The effect of an item that has an id and is not switched off. */
export function effectOf(item: XmlNode, id: string): XmlNode | undefined {
  return childrenOf(item, 'filter')
    .filter((filter) => textAt(filter, 'enabled') === null || isTrue(textAt(filter, 'enabled')))
    .map((filter) => childOf(filter, 'effect'))
    .find((effect) => effectId(effect) === id)
}

/** The id of an effect, in small letters. */
export const effectId = (effect: XmlNode | undefined): string | undefined => textAt(effect, 'effectid')?.toLowerCase()

export const parameterOf = (effect: XmlNode | undefined, id: string): XmlNode | undefined =>
  childrenOf(effect, 'parameter').find((parameter) => textAt(parameter, 'parameterid')?.toLowerCase() === id)

export const parameterValue = (effect: XmlNode | undefined, id: string): string | null =>
  textAt(parameterOf(effect, id), 'value')

/** A decimal of the document, exactly. @throws CutFormatError for what is none */
export function decimalOf(text: string, node: XmlNode): Fraction {
  const match = /^([+-]?)(\d{1,12})(?:\.(\d{1,15}))?$/.exec(text.trim())
  if (!match) throw new CutFormatError(lineOf(node), `${JSON.stringify(text)} is no number.`)
  const [, sign, whole, decimals = ''] = match as unknown as [string, string, string, string | undefined]
  const size = fraction(BigInt(whole + decimals), 10n ** BigInt(decimals.length))
  return sign === '-' ? { ...size, numerator: -size.numerator } : size
}
