/** Text out of a file, with the name of the encoding that it was written in. */
export interface DecodedText {
  readonly text: string
  readonly encoding: 'UTF-8' | 'UTF-16' | 'Latin-1'
}

/**
 * Reads text as logs come: UTF-8, UTF-16 of either order with or without its mark, or Latin-1 (as Windows writes it),
 * with any line ending. Line endings come back as "\n".
 */
export function decodeText(bytes: Uint8Array): DecodedText {
  const decoded = decode(bytes)
  return { ...decoded, text: decoded.text.replace(/^\uFEFF/, '').replace(/\r\n?/g, '\n') }
}

function decode(bytes: Uint8Array): DecodedText {
  const [first, second] = bytes
  if (first === 0xff && second === 0xfe) return { text: new TextDecoder('utf-16le').decode(bytes), encoding: 'UTF-16' }
  if (first === 0xfe && second === 0xff) return { text: new TextDecoder('utf-16be').decode(bytes), encoding: 'UTF-16' }
  const order = unmarkedOrder(bytes)
  if (order) return { text: new TextDecoder(order).decode(bytes), encoding: 'UTF-16' }
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(bytes), encoding: 'UTF-8' }
  } catch {
    return { text: new TextDecoder('windows-1252').decode(bytes), encoding: 'Latin-1' }
  }
}

/** UTF-16 without its mark shows as a zero in nearly every other byte of plain text. */
function unmarkedOrder(bytes: Uint8Array): 'utf-16le' | 'utf-16be' | null {
  const looked = Math.min(bytes.length, 512) & ~1
  if (looked < 4) return null
  let even = 0
  let odd = 0
  for (let index = 0; index < looked; index += 2) {
    if (bytes[index] === 0) even++
    if (bytes[index + 1] === 0) odd++
  }
  const pairs = looked / 2
  if (odd > pairs * 0.7 && even < pairs * 0.1) return 'utf-16le'
  if (even > pairs * 0.7 && odd < pairs * 0.1) return 'utf-16be'
  return null
}
