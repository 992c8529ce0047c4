import { execFile } from 'node:child_process'
import { promisify } from 'node:util'
import { project, type Result, say } from './measure.ts'

const lost = 10_000

/** Proposals for very many lost links at once, on a made-up catalogue of which it is known what is right. */
export async function benchRelink(): Promise<Result[]> {
  const { seconds, wrong, missed } = await proposals(100_000, 1024)
  return [
    {
      id: 'relink',
      what: `Proposals for ${lost} lost links among 100000 files, against 10 seconds`,
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

/** The same lost links in a catalogue of ten times the size. */
export async function benchRelinkGrowth(): Promise<Result[]> {
  const few = await proposals(100_000, 4096)
  const many = await proposals(1_000_000, 4096)
  return [
    {
      id: 'relink-growth',
      what: `Proposals for ${lost} lost links among 1000000 files, against the time among 100000`,
      ratio: many.seconds / few.seconds,
      limit: 1.5,
    },
  ]
}

async function proposals(
  files: number,
  megabytes: number,
): Promise<{ seconds: number; wrong: number; missed: number }> {
  say(`${lost} lost links among ${files} files`)
  const { stdout } = await promisify(execFile)(
    process.execPath,
    [
      `--max-old-space-size=${megabytes}`,
      '--import',
      'tsx',
      'server/src/testing/relink.ts',
      String(files),
      String(lost),
    ],
    { cwd: project },
  )
  return JSON.parse(stdout)
}
