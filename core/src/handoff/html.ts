/** Text made safe to stand inside HTML. */
export const html = (text: string): string => text.replace(/[&<>"']/g, (character) => `&#${character.charCodeAt(0)};`)

export const code = (text: string): string => `<span class="code">${html(text)}</span>`

/** Cells are HTML already. */
export function table(head: readonly string[], rows: readonly (readonly string[])[]): string {
  const heads = head.map((cell) => `<th>${html(cell)}</th>`).join('')
  const lines = rows.map((row) => `<tr>${row.map((cell) => `<td>${cell}</td>`).join('')}</tr>`).join('\n')
  return `<table><thead><tr>${heads}</tr></thead><tbody>${lines}</tbody></table>`
}

/** A page that needs nothing else, on the screen and on paper. */
export const page = (title: string, body: string): string => `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${html(title)}</title>
<style>
body{font:15px/1.5 Georgia,serif;color:#25211b;background:#faf7f0;max-width:70rem;margin:2rem auto;padding:0 1.5rem}
h1{font-size:1.6rem;margin:0}h2{font-size:1.1rem;margin:2rem 0 .5rem}
table{border-collapse:collapse;width:100%}
th,td{text-align:left;padding:.3rem .6rem .3rem 0;border-bottom:1px solid #d9d0bd;vertical-align:top}
.code{font-family:ui-monospace,Menlo,Consolas,monospace;font-size:.85rem;overflow-wrap:anywhere}
@page{size:A4 landscape;margin:12mm}
@media print{body{background:#fff;max-width:none;margin:0;padding:0;font-size:10px}
thead{display:table-header-group}tr{break-inside:avoid}}
</style></head><body>
${body}
</body></html>
`
