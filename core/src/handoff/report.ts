import type { Cut, Resolution, ResolvableClip } from '../cut/index.ts'
import type { Finding } from '../findings/index.ts'
import { formatRate, formatTimecode, sameRate } from '../time/index.ts'
import type { Decision, Preflight } from './preflight.ts'

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
  readonly handedOffAt: string
}

/**
 * The report that goes with a handoff, as one HTML page that needs nothing else: what, from where, what was mended,
 * what is open.
 */
export function handoffReport(input: ReportInput): string {
  const { cut } = input
  const open = input.findings.filter((finding) => finding.severity !== 'note')
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${html(cut.name)} — handoff report</title>
<style>
body{font:15px/1.5 Georgia,serif;color:#25211b;background:#faf7f0;max-width:70rem;margin:2rem auto;padding:0 1.5rem}
h1{font-size:1.6rem;margin:0}h2{font-size:1.1rem;margin:2rem 0 .5rem}
table{border-collapse:collapse;width:100%}th,td{text-align:left;padding:.3rem .6rem .3rem 0;border-bottom:1px solid #d9d0bd;vertical-align:top}
.code{font-family:ui-monospace,Menlo,Consolas,monospace;font-size:.85rem;overflow-wrap:anywhere}
</style></head><body>
<h1>${html(cut.name)}</h1>
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
</body></html>
`
}

function eventRow(input: ReportInput, event: Cut['events'][number], position: number): string[] {
  const resolution = input.resolutions[position] as Resolution
  const clip = resolution.clipId === null ? undefined : input.clips.get(resolution.clipId)
  const sourceDrop =
    clip?.facts.dropFrame === true && clip.facts.picture !== null && sameRate(clip.facts.picture.rate, event.sourceRate)
  const record = (frame: number): string => formatTimecode(frame, input.cut.rate, input.cut.dropFrame)
  const source = (frame: number): string => formatTimecode(frame, event.sourceRate, sourceDrop)
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

const code = (text: string): string => `<span class="code">${html(text)}</span>`

/** Cells are HTML already. */
function table(head: readonly string[], rows: readonly (readonly string[])[]): string {
  return `<table><thead><tr>${head.map((cell) => `<th>${html(cell)}</th>`).join('')}</tr></thead><tbody>${rows.map((row) => `<tr>${row.map((cell) => `<td>${cell}</td>`).join('')}</tr>`).join('\n')}</tbody></table>`
}

const html = (text: string): string => text.replace(/[&<>"']/g, (character) => `&#${character.charCodeAt(0)};`)
