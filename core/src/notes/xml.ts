import { XMLParser, XMLValidator } from 'fast-xml-parser'

/** A document that is no XML, or XML that is not read here; the message says why, with the line. */
export class XmlError extends Error {
  override readonly name = 'XmlError'
}

/** An element: its text, its attributes and its children by name, in order. */
export interface XmlElement {
  readonly text: string
  readonly attributes: Readonly<Record<string, string>>
  readonly children: readonly { readonly name: string; readonly element: XmlElement }[]
}

const parser = new XMLParser({
  preserveOrder: true,
  ignoreAttributes: false,
  attributeNamePrefix: '',
  parseTagValue: false,
  parseAttributeValue: false,
  trimValues: true,
  processEntities: { enabled: true, maxTotalExpansions: 1_000_000, maxExpandedLength: 64_000_000 },
  ignoreDeclaration: true,
  ignorePiTags: true,
})

/**
 * Reads a whole document.
 * @throws XmlError for what is not well-formed, and for any document that declares a type or entities of its own:
 * such a document can be made to grow without end or to name other files.
 */
export function parseXml(text: string): { readonly name: string; readonly element: XmlElement } {
  const declared = /<!(DOCTYPE|ENTITY)/i.exec(text)
  if (declared)
    throw new XmlError(
      `line ${lineOf(text, declared.index)} declares ${declared[1] === 'ENTITY' ? 'entities' : 'a document type'} of its own, which is not read.`,
    )
  const valid = XMLValidator.validate(text)
  if (valid !== true) throw new XmlError(`line ${valid.err.line} is not well-formed: ${valid.err.msg}`)
  const root = toChildren(parse(text), 1)[0]
  if (!root) throw new XmlError('it has no element.')
  return root
}

type RawNode = Record<string, unknown>

/** What the check lets pass and the parser does not is refused as well. */
function parse(text: string): RawNode[] {
  try {
    return parser.parse(text)
  } catch (error) {
    throw new XmlError(`it is not well-formed: ${(error as Error).message}`)
  }
}

/** Elements within elements; real documents here have a dozen. */
const deepest = 100

function toChildren(nodes: readonly RawNode[], depth: number): { name: string; element: XmlElement }[] {
  if (depth > deepest) throw new XmlError(`its elements lie more than ${deepest} deep.`)
  return nodes.flatMap((node) => {
    const name = Object.keys(node).find((key) => key !== ':@' && key !== '#text')
    if (name === undefined) return []
    const inner = node[name] as RawNode[]
    const text = inner.map((child) => ('#text' in child ? String(child['#text']) : '')).join('')
    return [
      {
        name,
        element: {
          text,
          attributes: (node[':@'] as Record<string, string> | undefined) ?? {},
          children: toChildren(inner, depth + 1),
        },
      },
    ]
  })
}

const lineOf = (text: string, index: number): number => text.slice(0, index).split('\n').length

/** Children of a name, whatever its case. */
export const childrenOf = (element: XmlElement, name: string): XmlElement[] =>
  element.children.filter((child) => child.name.toLowerCase() === name.toLowerCase()).map((child) => child.element)

/** The text of the first child of a name; null when there is none or it is blank. */
export function textOf(element: XmlElement, name: string): string | null {
  const text = childrenOf(element, name)[0]?.text.trim()
  return text ? text : null
}

/** Text made safe to stand inside an element or an attribute; characters that XML cannot hold are left out. */
export function escapeXml(text: string): string {
  return [...text]
    .filter((character) => {
      const code = character.codePointAt(0) as number
      return code >= 0x20
        ? code !== 0xfffe && code !== 0xffff && !(code >= 0xd800 && code <= 0xdfff)
        : code === 9 || code === 10 || code === 13
    })
    .join('')
    .replace(/[&<>"]/g, (character) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[character] as string)
}
