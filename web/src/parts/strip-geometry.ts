import type { Span, SpanStrip } from '@ennick/contract'

/** Where a strip's frames lie on its width: the axis spans everything that is drawn on it, with a little air. */
export function axisOf(strip: SpanStrip, width: number): (frame: number) => number {
  const near = [
    strip.original,
    ...strip.made.filter((span) => overlaps(span, strip.original)),
    ...strip.uses.filter((span) => overlaps(span, strip.original)),
  ]
  const start = near.reduce((least, span) => Math.min(least, span.start), Number.POSITIVE_INFINITY)
  const end = near.reduce((most, span) => Math.max(most, span.end), Number.NEGATIVE_INFINITY)
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

/** Of spans that are drawn at the same place, to the pixel, one; those that something is to be said of, all. */
export function drawnApart(spans: readonly Span[], x: (frame: number) => number): Span[] {
  const seen = new Set<string>()
  return spans.filter(({ start, end, note, isWhollyOff }) => {
    if (note !== null || isWhollyOff) return true
    const place = `${Math.round(x(start))} ${Math.round(x(end))}`
    return !seen.has(place) && seen.add(place)
  })
}
