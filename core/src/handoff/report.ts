import type { Cut, Loss, Replaced, Resolution, ResolvableClip } from '../cut/index.ts'
import type { Decision, Finding } from '../findings/index.ts'
import { formatRate, formatTimecode } from '../time/index.ts'
import { sourceLabels } from './event-table.ts'
import { code, html, page, table } from './html.ts'
import type { Preflight } from './preflight.ts'

export interface ReportInput {
  readonly production: string
  readonly cut: Cut
  readonly resolutions: readonly Resolution[]
  readonly clips: ReadonlyMap<string, ResolvableClip & { readonly volumeLabel: string }>
  readonly findings: readonly Finding[]
  readonly decisions: readonly Decision[]
  readonly preflight: Preflight
  /** Mends that were done for this cut, oldest first. */
  readonly mends: readonly { readonly at: string; readonly title: string; readonly undone: boolean }[]
  readonly files: readonly { readonly name: string; readonly bytes: number; readonly xxh64: string }[]
  /** Formats that could not say this cut, with the reason. */
  readonly leftOut: readonly { readonly name: string; readonly reason: string }[]
  /** What each format that was written carries only as a remark, or not at all. */
  readonly losses: readonly { readonly format: string; readonly list: readonly Loss[] }[]
  /** What stands under another name in a format. */
  readonly replaced: readonly (Replaced & { readonly format: string })[]
  readonly handedOffAt: string
}

/**
 * The report that goes with a handoff, as one HTML page that needs nothing else: what, from where, what was mended,
 * what is open.
 */
export function handoffReport(input: ReportInput): string {
  const { cut } = input
  const open = input.findings.filter((finding) => finding.severity !== 'note')
  return page(
    `${cut.name} — handoff report`,
    `<h1>${html(cut.name)}</h1>
<p>${html(input.production)} · ${cut.events.length} events at ${formatRate(cut.rate)}${cut.dropFrame ? ' drop-frame' : ''} · handed off ${html(input.handedOffAt)}</p>
<h2>Preflight</h2>
${table(
  ['Check', 'Result', ''],
  input.preflight.checks.map((check) => [html(check.question), check.result, html(check.answer)]),
)}
<h2>What is open</h2>
${
  open.length === 0
    ? '<p>Nothing. Every event is on its original.</p>'
    : table(
        ['Finding', 'Weight', 'What', 'Decision'],
        open.map((finding) => [
          finding.kind,
          finding.severity,
          html(finding.message),
          html(decisionOn(finding, input.decisions)),
        ]),
      )
}
<h2>What was mended</h2>
${
  input.mends.length === 0
    ? '<p>Nothing had to be mended.</p>'
    : table(
        ['When', 'Mend', ''],
        input.mends.map((mend) => [html(mend.at), html(mend.title), mend.undone ? 'taken back' : '']),
      )
}
<h2>Events and their originals</h2>
${table(
  ['Event', 'Track', 'Record', 'Source', 'Reel', 'Original', 'Volume', 'State', 'Found by'],
  cut.events.map((event, position) => eventRow(input, event, position)),
)}
<h2>Files of this handoff</h2>
${table(
  ['File', 'Bytes', 'xxHash64'],
  input.files.map((file) => [html(file.name), String(file.bytes), code(file.xxh64)]),
)}
${input.leftOut.map((format) => `<p>${html(format.name)} was left out: ${html(format.reason)}</p>`).join('\n')}
${lossesOfFormats(input)}`,
  )
}

/** What each format carries only as a remark, or not at all, with the events that it concerns. */
function lossesOfFormats({ losses, replaced, cut }: ReportInput): string {
  if (losses.length === 0 && replaced.length === 0) return ''
  const rows = losses.flatMap(({ format, list }) =>
    list.map(({ name, carried, becomes, events }) => [
      html(format),
      html(name),
      carried === 'no' ? 'not carried' : carried,
      html(becomes),
      html(events.map((position) => cut.events[position]?.number ?? '').join(', ')),
    ]),
  )
  const renamed = replaced.map(({ format, what, from, to }) => [html(format), what, code(from), code(to)])
  return [
    '<h2>What the formats do not say as it is</h2>',
    rows.length ? table(['Format', 'What', 'Carried', 'Becomes', 'Events'], rows) : '',
    renamed.length ? table(['Format', 'What', 'In the cut', 'In the list'], renamed) : '',
  ].join('\n')
}

function eventRow(input: ReportInput, event: Cut['events'][number], position: number): string[] {
  const resolution = input.resolutions[position] as Resolution
  const clip = resolution.clipId === null ? undefined : input.clips.get(resolution.clipId)
  const record = (frame: number): string => formatTimecode(frame, input.cut.rate, input.cut.dropFrame)
  const source = sourceLabels(event, input.cut, clip)
  return [
    html(event.number),
    event.track,
    code(`${record(event.record.startFrame)} – ${record(event.record.endFrame)}`),
    code(`${source(event.source.startFrame)} – ${source(event.source.endFrame)}`),
    code(clip?.reel ?? event.reel ?? '—'),
    clip ? code(clip.originalPaths.join(', ')) : `none (${html(event.clipName ?? event.path ?? 'no name')})`,
    html(clip?.volumeLabel ?? '—'),
    resolution.state,
    resolution.by ?? '—',
  ]
}

function decisionOn(finding: Finding, decisions: readonly Decision[]): string {
  const decision = decisions.find((candidate) => candidate.findingKey === finding.key)
  return decision
    ? `Left open on ${decision.decidedAt}: ${decision.reason}`
    : finding.severity === 'blocks handoff'
      ? 'none'
      : 'not needed'
}
