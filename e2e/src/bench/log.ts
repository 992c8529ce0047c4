import { execFile } from 'node:child_process'
import { stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { project, type Result, say } from './measure.ts'

const rows = 20_000

/** The memory that reading a long ALE takes, in a process that does nothing else. */
export async function benchLog(folder: string): Promise<Result> {
  say(`Reading an ALE of ${rows} rows`)
  const path = join(folder, 'long.ale')
  const columns = [
    'Name',
    'Tape',
    'Start',
    'End',
    'Scene',
    'Take',
    'Camera',
    'Circled',
    'Comments',
    'Lens',
    'Filter',
    'Weather',
  ]
  const line = (row: number): string =>
    [
      `A001C${row}`,
      `A${row % 300}`,
      '10:00:00:00',
      '10:00:10:00',
      `${row % 90}A`,
      String(row % 9),
      'A',
      '',
      `note on clip ${row}`,
      '35 mm',
      'ND 6',
      'calm',
    ].join('\t')
  const lines = Array.from({ length: rows }, (_, row) => line(row))
  await writeFile(
    path,
    ['Heading', 'FIELD_DELIM\tTABS', 'FPS\t25', '', 'Column', columns.join('\t'), '', 'Data', ...lines, ''].join('\n'),
  )
  const script = `
    import { readFileSync } from 'node:fs'
    import { decodeText, parseAle } from '@ennick/core'
    globalThis.gc()
    const before = process.memoryUsage()
    const log = parseAle(decodeText(readFileSync(${JSON.stringify(path)})).text)
    const after = process.memoryUsage()
    if (log.rows.length !== ${rows}) throw new Error('rows are missing')
    console.log(after.heapUsed + after.external - before.heapUsed - before.external)`
  const { stdout } = await promisify(execFile)(
    process.execPath,
    ['--expose-gc', '--import', 'tsx', '--input-type=module', '--eval', script],
    {
      cwd: join(project, 'server'),
    },
  )
  return {
    id: 'log',
    what: `Memory that reading an ALE of ${rows} rows takes, against ten times the file`,
    ratio: Number(stdout) / (10 * (await stat(path)).size),
    limit: 1,
  }
}
