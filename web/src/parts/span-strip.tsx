import { Box, chakra } from '@chakra-ui/react'
import type { Span, SpanStrip } from '@ennick/contract'
import { type ReactElement, useId } from 'react'
import { axisOf, drawnApart, misfits } from './strip-geometry.ts'
import { frameLabel } from './words.ts'

interface Row {
  readonly id: string
  readonly label: string
  readonly spans: readonly Span[]
  readonly kind: 'original' | 'made' | 'use'
}

const rowsOf = (strip: SpanStrip): Row[] => [
  { id: 'original', label: 'original', spans: [strip.original], kind: 'original' },
  ...strip.made.map((span, index): Row => ({ id: `made ${index}`, label: span.label, spans: [span], kind: 'made' })),
  ...(strip.uses.length ? [{ id: 'uses', label: 'uses', spans: strip.uses, kind: 'use' } as Row] : []),
]

/** In a table row: the shape alone. */
export function TinyStrip({ strip, width = 150 }: { strip: SpanStrip; width?: number }): ReactElement {
  const rows = rowsOf(strip)
  const height = Math.max(16, rows.length * 6 + 4)
  const trouble = rows
    .flatMap((row) => row.spans)
    .filter((span) => span.note)
    .map((span) => `${span.label}: ${span.note}`)
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={trouble.length ? `does not line up: ${trouble.join('; ')}` : 'lines up'}
    >
      <StripDrawing strip={strip} rows={rows} width={width} rowHeight={6} barHeight={4} top={2} />
    </svg>
  )
}

/**
 * In a detail sheet: one timecode axis, every span with its name, and what does not line up with its exact difference.
 */
export function LargeStrip({ strip, width = 560 }: { strip: SpanStrip; width?: number }): ReactElement {
  const rows = rowsOf(strip)
  const x = axisOf(strip, width)
  const rowHeight = 30
  const height = rows.length * rowHeight + 26
  return (
    <Box overflowX="auto">
      <chakra.svg
        style={{ width, height }}
        role="img"
        aria-label="Span strip"
        fontFamily="mono"
        fontSize="11.5px"
        fill="ink"
      >
        <text x={x(strip.original.start)} y={11} fill="currentColor">
          {frameLabel(strip.original.start, strip.rate, strip.dropFrame)}
        </text>
        <text x={x(strip.original.end)} y={11} textAnchor="end" fill="currentColor">
          {frameLabel(strip.original.end, strip.rate, strip.dropFrame)}
        </text>
        {rows.map((row, index) => (
          <text
            key={row.id}
            x={x(strip.original.start)}
            y={26 + index * rowHeight + 8}
            fontSize="11px"
            fill="currentColor"
          >
            {rowLabel(row)}
          </text>
        ))}
        <StripDrawing strip={strip} rows={rows} width={width} rowHeight={rowHeight} barHeight={8} top={39} />
      </chakra.svg>
    </Box>
  )
}

function rowLabel(row: Row): string {
  if (row.kind !== 'use') return row.spans[0]?.note ? `${row.label} — ${row.spans[0].note}` : row.label
  const trouble = row.spans.filter((span) => span.note).map((span) => `${span.label}: ${span.note}`)
  const plain =
    row.spans.length > 4 ? `${row.spans.length} uses` : `uses ${row.spans.map((span) => span.label).join(', ')}`
  return trouble.length ? `${plain} — ${trouble.join('; ')}` : plain
}

function StripDrawing(props: {
  strip: SpanStrip
  rows: readonly Row[]
  width: number
  rowHeight: number
  barHeight: number
  top: number
}): ReactElement {
  const hatch = useId()
  const { strip, rows, rowHeight, barHeight, top } = props
  const x = axisOf(strip, props.width)
  return (
    <>
      <defs>
        <pattern id={hatch} width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <chakra.rect width="4" height="4" fill="page" />
          <chakra.rect width="2" height="4" fill="hatch" />
        </pattern>
      </defs>
      {rows.map((row, index) =>
        drawnApart(row.spans, x).map((span) => {
          const y = top + index * rowHeight
          const left = x(span.start)
          const width = Math.max(2, x(span.end) - left)
          return (
            <g key={`${row.id} ${span.label} ${span.start} ${span.end}`}>
              <chakra.rect
                x={left}
                y={y}
                width={width}
                height={barHeight}
                fill={row.kind === 'use' ? 'tide.solid' : row.kind === 'original' ? 'ink' : 'quiet'}
              />
              {row.kind !== 'original' &&
                misfits(span, strip.original, row.kind).map((part) => {
                  const from = x(part.start)
                  const wide = Math.max(5, x(part.end) - from)
                  const start = part.start < strip.original.start ? from + x(part.end) - from - wide : from
                  return (
                    <chakra.rect
                      key={`${part.start}-${part.end}`}
                      x={Math.max(0, Math.min(start, props.width - wide))}
                      y={y - 1}
                      width={wide}
                      height={barHeight + 2}
                      fill={`url(#${hatch})`}
                      stroke="hatch"
                      strokeWidth="1"
                    />
                  )
                })}
            </g>
          )
        }),
      )}
    </>
  )
}
