import { execFile } from 'node:child_process'
import { promisify } from 'node:util'
import { project, type Result, say } from './measure.ts'

const files = 100_000
const lost = 10_000

/** Proposals for very many lost links at once, on a made-up catalogue of which it is known what is right. */
export async function benchRelink(): Promise<Result[]> {
  say(`${lost} lost links among ${files} files`)
  const { stdout } = await promisify(execFile)(
    process.execPath,
    ['--max-old-space-size=1024', '--import', 'tsx', 'server/src/testing/relink.ts', String(files), String(lost)],
    { cwd: project },
  )
  const { seconds, wrong, missed } = JSON.parse(stdout) as { seconds: number; wrong: number; missed: number }
  return [
    {
      id: 'relink',
      what: `Proposals for ${lost} lost links among ${files} files, against 10 seconds`,
      ratio: seconds / 10,
      limit: 1,
    },
    {
      id: 'relink-wrong',
      what: 'Lost links decided wrongly, or not decided though they could be',
      ratio: wrong + missed,
      limit: 0,
    },
  ]
}
