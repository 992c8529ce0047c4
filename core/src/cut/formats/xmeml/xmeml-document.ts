import { SaxesParser } from 'saxes'
import { CutFormatError } from '../../model.ts'

/** An element with the line on which it begins. */
export interface XmlNode {
  readonly name: string
  readonly id: string | null
  /** Its own text, trimmed. */
  text: string
  readonly children: XmlNode[]
  readonly line: number
}

/** Elements within elements; with sequences in each other real files have some dozens. */
const deepest = 400
/** More than the longest programme needs, and few enough for the memory of a thread. */
const mostElements = 3_000_000

/**
 * Reads a document as a stream. A bare document type is taken; one that declares anything, or names another file, is
 * not: such a document can be made to grow without end.
 * @throws CutFormatError with the line
 */
export function parseXmeml(text: string): { readonly root: XmlNode; readonly version: string } {
  const parser = new SaxesParser<{ xmlns: false; position: true }>({ xmlns: false, position: true })
  const top: XmlNode = { name: '', id: null, text: '', children: [], line: 1 }
  const open: XmlNode[] = [top]
  let version = ''
  let elements = 0
  const refuse = (reason: string): never => {
    throw new CutFormatError(`line ${parser.line}`, reason)
  }
  parser.on('error', (error) => refuse(error.message.replace(/^\d+:\d+: /, '').replace(/\.?$/, '.')))
  parser.on('doctype', (declared) => {
    if (/[[\]]|\b(SYSTEM|PUBLIC)\b/i.test(declared))
      refuse('it declares a document type of its own, or names another file, which is not read.')
  })
  parser.on('opentag', ({ name, attributes }) => {
    if (++elements > mostElements) refuse(`it has more than ${mostElements} elements.`)
    if (open.length > deepest) refuse(`its elements lie more than ${deepest} deep.`)
    const node: XmlNode = { name, id: attributes.id || null, text: '', children: [], line: parser.line }
    ;(open.at(-1) as XmlNode).children.push(node)
    open.push(node)
    if (name === 'xmeml') version = attributes.version ?? ''
  })
  const addText = (more: string): void => {
    ;(open.at(-1) as XmlNode).text += more
  }
  parser.on('text', addText)
  parser.on('cdata', addText)
  parser.on('closetag', () => {
    const node = open.pop() as XmlNode
    node.text = node.text.trim()
  })
  parser.write(text).close()
  const root = top.children[0]
  if (root?.name !== 'xmeml') throw new CutFormatError('line 1', 'it is no xmeml document.')
  return { root, version }
}

export const childOf = (node: XmlNode | undefined, name: string): XmlNode | undefined =>
  node?.children.find((child) => child.name === name)

export const childrenOf = (node: XmlNode | undefined, name: string): XmlNode[] =>
  node?.children.filter((child) => child.name === name) ?? []

/** The text below a path of names; null where there is none. */
export function textAt(node: XmlNode | undefined, ...names: string[]): string | null {
  let at = node
  for (const name of names) at = childOf(at, name)
  return at?.text ? at.text : null
}

/** A whole number below a path of names; null where there is none. @throws CutFormatError for another text */
export function wholeAt(node: XmlNode | undefined, ...names: string[]): number | null {
  const text = textAt(node, ...names)
  if (text === null) return null
  const value = Number(text)
  if (!Number.isSafeInteger(value) || Math.abs(value) > 1e10)
    throw new CutFormatError(
      lineOf(node),
      `<${names.at(-1)}> is ${JSON.stringify(text)}, which is no number of frames.`,
    )
  return value
}

export const isTrue = (text: string | null): boolean => text !== null && /^(true|1)$/i.test(text)

export const lineOf = (node: XmlNode | undefined): string => `line ${node?.line ?? 1}`
