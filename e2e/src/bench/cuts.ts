import { execFile } from 'node:child_process'
import { mkdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import type { Ennick } from '../ennick.ts'
import { project, type Result, say, secondsOf } from './measure.ts'

const events = 5000
const turns = 3

/** Long cuts, read and kept against reading them alone; and two versions compared. */
export async function benchCuts(ennick: Ennick, folder: string): Promise<Result[]> {
  say(`Cuts of ${events} events`)
  const lists = join(folder, 'cuts')
  await mkdir(lists, { recursive: true })
  const { stdout } = await promisify(execFile)(
    process.execPath,
    ['--import', 'tsx', 'server/src/testing/long-cuts.ts', lists, String(events)],
    { cwd: project },
  )
  const bare = JSON.parse(stdout) as Record<string, number>
  const production = await ennick.call('POST', '/productions', {
    ...{ name: `Long cuts ${Math.random()}`, rate: { numerator: 25, denominator: 1 }, width: 1920, height: 1080 },
  })
  const add = async (fileName: string, nextOf?: string) =>
    ennick.call('POST', `/productions/${production.id}/cuts`, {
      ...{ fileName, text: await readFile(join(lists, fileName), 'utf8'), nextOf },
    })
  let [kept, alone] = [0, 0]
  let last = ''
  for (const [extension, seconds] of Object.entries(bare)) {
    let quickest = Number.POSITIVE_INFINITY
    for (let turn = 0; turn < turns; turn++)
      quickest = Math.min(
        quickest,
        await secondsOf(async () => {
          last = (await add(`long${extension}`)).id
        }),
      )
    say(`  ${extension} read and kept in ${ms(quickest)}, read alone in ${ms(seconds)}`)
    kept += quickest
    alone += seconds
  }
  const next = (await add('next.edl', last)).id
  let compared = Number.POSITIVE_INFINITY
  for (let turn = 0; turn < turns; turn++)
    compared = Math.min(compared, await secondsOf(() => ennick.call('GET', `/cuts/${next}/changes`)))
  say(`  two versions compared in ${ms(compared)}`)
  return [
    {
      id: 'read-cut',
      what: `A cut of ${events} events as EDL, OTIO and timeline XML, read, kept and landed, against reading it alone`,
      ratio: kept / alone,
      limit: 1.5,
    },
    {
      id: 'diff-cut',
      what: `Two versions of ${events} events compared and answered, against half a second`,
      ratio: compared / 0.5,
      limit: 1,
    },
  ]
}

const ms = (seconds: number): string => `${(seconds * 1000).toFixed(0)} ms`
