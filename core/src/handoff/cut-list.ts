import type { Cut, Resolution } from '../cut/index.ts'
import { formatRate, formatTimecode, rangeLength } from '../time/index.ts'
import {
  type ListedClip,
  pullColumns,
  pullRows,
  pullsOf,
  sourceLabels,
  speedInPercent,
  transitionWords,
} from './event-table.ts'
import { code, html, page, table } from './html.ts'

export interface CutListInput {
  readonly production: string
  readonly cut: Cut
  readonly resolutions: readonly Resolution[]
  readonly clips: ReadonlyMap<string, ListedClip>
}

/** A part of something to read: a table under a title. */
export interface PrintedTable {
  readonly title: string
  readonly columns: readonly { readonly name: string; readonly isCode: boolean; readonly share: number }[]
  readonly rows: readonly (readonly string[])[]
}

/** Something to read on the screen and on paper. */
export interface Printed {
  readonly title: string
  readonly about: string
  readonly tables: readonly PrintedTable[]
}

const column = (name: string, share: number, isCode = false) => ({ name, share, isCode })

const eventColumns = [
  ...[column('Event', 4, true), column('Clip', 14), column('Reel', 6, true), column('Source', 15, true)],
  ...[column('Record', 15, true), column('Frames', 4, true), column('Remarks', 18), column('State', 8)],
]

/** A cut for a person to read: its tracks with their events, its markers, and what it needs from which volume. */
export function cutList({ production, cut, resolutions, clips }: CutListInput): Printed {
  const record = (frame: number): string => formatTimecode(frame, cut.rate, cut.dropFrame)
  const tracks = cut.tracks.map((track): PrintedTable => {
    const rows = cut.events.flatMap((event, position) => {
      if (event.track !== track.name) return []
      const { clipId, state } = resolutions[position] as Resolution
      const clip = clipId === null ? undefined : clips.get(clipId)
      const source = sourceLabels(event, cut, clip)
      const remarks = [
        ...[speedInPercent(event), transitionWords(event.transition)],
        event.fadeOut ? `to black: ${transitionWords(event.fadeOut)}` : '',
        event.isDisabled ? 'switched off' : '',
        ...event.notes.map((note) => note.replace(/^\*\s*/, '')),
      ].filter(Boolean)
      return [
        [
          event.number,
          clip?.name ?? event.clipName ?? event.path ?? 'no name',
          clip?.reel ?? event.reel ?? '—',
          `${source(event.source.startFrame)} – ${source(event.source.endFrame)}`,
          `${record(event.record.startFrame)} – ${record(event.record.endFrame)}`,
          String(rangeLength(event.record)),
          remarks.join(' · '),
          state,
        ],
      ]
    })
    return { title: track.name, columns: eventColumns, rows }
  })
  const markers = (cut.markers ?? []).map(({ recordFrame, name, note }) => [record(recordFrame), name, note])
  const format = [
    `${cut.events.length} events at ${formatRate(cut.rate)}${cut.dropFrame ? ' drop-frame' : ''}`,
    ...(cut.raster ? [`${cut.raster.width} × ${cut.raster.height}`] : []),
  ]
  const markerColumns = [column('Record', 8, true), column('Marker', 20), column('', 40)]
  return {
    title: cut.name,
    about: [production, ...format].join(' · '),
    tables: [
      ...tracks,
      ...(markers.length ? [{ title: 'Markers', columns: markerColumns, rows: markers }] : []),
      {
        title: 'Originals that are needed, by volume',
        columns: pullColumns.map((name, index) => column(name, index === 5 ? 34 : 10, index !== 4)),
        rows: pullRows(cut, pullsOf(cut, resolutions, clips)),
      },
    ],
  }
}

/** The same as a page that needs nothing else. */
export const printedPage = ({ title, about, tables }: Printed): string =>
  page(
    title,
    [
      `<h1>${html(title)}</h1>`,
      `<p>${html(about)}</p>`,
      ...tables.map((each) => {
        const cells = each.rows.map((row) =>
          row.map((cell, index) => (each.columns[index]?.isCode ? code(cell) : html(cell))),
        )
        const names = each.columns.map(({ name }) => name)
        return `<h2>${html(each.title)}</h2>\n${cells.length ? table(names, cells) : '<p>Nothing.</p>'}`
      }),
    ].join('\n'),
  )
