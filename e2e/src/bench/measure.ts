import { spawn } from 'node:child_process'
import { resolve } from 'node:path'

/** Speed, as ratios measured in one run, each against a bare command that does the same work. */
export interface Result {
  readonly id: string
  readonly what: string
  readonly ratio: number
  readonly limit: number
}

export const project = resolve(import.meta.dirname, '../../..')
export const isJson = process.argv.includes('--json')
export const say = (text: string): void => {
  if (!isJson) console.log(text)
}
export const pause = (milliseconds: number) => new Promise((done) => setTimeout(done, milliseconds))

export function run(command: string, args: readonly string[]): Promise<number> {
  return new Promise((done, fail) => {
    const child = spawn(command, args, { stdio: 'ignore' })
    child.on('error', fail)
    child.on('exit', (code) => done(code ?? 1))
  })
}

export async function secondsOf(work: () => Promise<unknown>): Promise<number> {
  const start = process.hrtime.bigint()
  await work()
  return Number(process.hrtime.bigint() - start) / 1e9
}

/** Runs two things by turns, so that a busy machine slows both alike, and compares the quickest of each. */
export async function compare(
  times: number,
  ours: () => Promise<number>,
  bare: () => Promise<number>,
): Promise<number> {
  const quickest = { ours: Number.POSITIVE_INFINITY, bare: Number.POSITIVE_INFINITY }
  for (let turn = 0; turn < times; turn++) {
    quickest.ours = Math.min(quickest.ours, await ours())
    quickest.bare = Math.min(quickest.bare, await bare())
    say(`  turn ${turn + 1}: Ennick ${quickest.ours.toFixed(2)} s, bare ${quickest.bare.toFixed(2)} s at best`)
  }
  return quickest.ours / quickest.bare
}
