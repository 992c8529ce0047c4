import type { Span, SpanStrip } from '@ennick/contract'

/** Where a strip's frames lie on its width: the axis spans everything that is drawn on it, with a little air. */
export function axisOf(strip: SpanStrip, width: number): (frame: number) => number {
  const near = [
    strip.original,
    ...strip.made.filter((span) => overlaps(span, strip.original)),
    ...strip.uses.filter((span) => overlaps(span, strip.original)),
  ]
  const start = Math.min(...near.map((span) => span.start))
  const end = Math.max(...near.map((span) => span.end))
  const air = Math.max(1, (end - start) * 0.02)
  const scale = width / (end - start + 2 * air)
  return (frame) => Math.max(0, Math.min(width, (frame - start + air) * scale))
}

/** A span that lies far off would press the original to nothing; it is drawn at the edge and told in words. */
function overlaps(span: Span, original: Span): boolean {
  const length = original.end - original.start
  return span.end > original.start - length && span.start < original.end + length
}

/** The parts of a span that do not line up with the original, each at least wide enough to see. */
export function misfits(span: Span, original: Span, kind: 'made' | 'use'): { start: number; end: number }[] {
  if (span.isWhollyOff) return [{ start: span.start, end: span.end }]
  const parts: { start: number; end: number }[] = []
  if (span.start < original.start) parts.push({ start: span.start, end: Math.min(span.end, original.start) })
  if (span.end > original.end) parts.push({ start: Math.max(span.start, original.end), end: span.end })
  if (kind === 'made') {
    if (span.start > original.start) parts.push({ start: original.start, end: span.start })
    if (span.end < original.end) parts.push({ start: span.end, end: original.end })
  }
  return parts
}
