import type { ChildProcess } from 'node:child_process'
import { readdir, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Answer, Job, routes } from '@ennick/contract'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { madeFolder } from '../config.ts'
import { Launched, until } from '../testing/launched.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Launched
let launcher: ChildProcess
beforeAll(async () => {
  ennick = await Launched.prepare()
})
afterAll(() => ennick.stop())

const health = () => ennick.ask<{ status: string; workers: number }>('/health')
const productions = async () => (await ennick.ask<{ name: string }[]>('/productions'))?.map(({ name }) => name)

test('starts, keeps its secret, and is not started twice', async () => {
  launcher = ennick.launch()
  await ennick.ready()
  await until(async () => (await health())?.workers === 1)
  expect((await stat(join(ennick.dataFolder, 'database-secret'))).mode & 0o777).toBe(0o600)
  expect((await stat(join(ennick.dataFolder, 'database-url'))).mode & 0o777).toBe(0o600)
  const second = ennick.launchBeside()
  await until(() => second.output.includes('is running already'))
  await until(() => second.child.exitCode !== null)
  expect(second.child.exitCode).toBe(0)
})

const clips = 20
test('worker, server and database killed during a batch: every item is made exactly once, proven, and nothing unfinished lies about', async () => {
  const folder = join(ennick.dataFolder, 'card')
  for (let number = 1; number <= clips; number += 2)
    await Promise.all(
      [number, number + 1].map((seed) =>
        makePicture(join(folder, `K${String(seed).padStart(2, '0')}.mov`), { frames: 20, channels: 1, seed }),
      ),
    )
  const production = await ennick.ask<{ id: string }>('/productions', {
    ...{ name: 'Killed', rate: { numerator: 25, denominator: 1 }, width: 640, height: 360 },
  })
  const of = `/productions/${production?.id}`
  const volume = await ennick.ask<{ id: string }>(`${of}/volumes`, { label: 'card', kind: 'drive', rootPath: folder })
  await ennick.ask(`/volumes/${volume?.id}/scan`, {})
  const jobs = async () => (await ennick.ask<Job[]>(`${of}/jobs`)) ?? []
  await until(async () => (await jobs()).some((job) => job.kind === 'scan' && job.state === 'done'))
  const clipIds = (await ennick.ask<{ ids: string[] }>(`${of}/clips/ids`, {}))?.ids
  expect(clipIds).toHaveLength(clips)
  await ennick.ask(`${of}/make`, { clipIds, recipeId: 'half-h264-intra' })

  const made = async () => (await jobs()).filter((job) => job.kind === 'make' && job.state === 'done').length
  for (const [after, pid] of [
    [3, () => ennick.pidOf('worker')],
    [7, async () => (await ennick.postgresPid()) as number],
    // The last, as the worker goes on without it.
    [11, () => ennick.pidOf('server')],
  ] as const) {
    await until(async () => (await made()) >= after)
    expect(await made()).toBeLessThan(clips)
    process.kill(await pid(), 'SIGKILL')
  }
  await until(async () => (await made()) === clips)

  const making = (await jobs()).filter((job) => job.kind === 'make')
  expect(making.map((job) => job.state)).toEqual(Array(clips).fill('done'))
  expect(making.filter((job) => job.attempts > 1).length).toBeGreaterThan(0)
  const ledger = await ennick.ask<Answer<(typeof routes)['listPairs']>>(`${of}/pairs`)
  expect(ledger?.map((row) => row.pairs.map((pair) => pair.verdict))).toEqual(Array(clips).fill(['sound']))
  const entries = await readdir(madeFolder(ennick.dataFolder), { recursive: true, withFileTypes: true })
  const names = entries.filter((entry) => entry.isFile()).map((entry) => entry.name)
  expect(names.sort()).toEqual(Array.from({ length: clips }, (_, index) => `K${String(index + 1).padStart(2, '0')}_proxy.mov`))
})

test('a killed launcher leaves nothing running, the next start finds the data, and a stop stops everything', async () => {
  launcher.kill('SIGKILL')
  await until(async () => (await health()) === null && (await ennick.postgresPid()) === null)
  await writeFile(join(ennick.dataFolder, 'running.json'), JSON.stringify({ pid: process.pid, url: 'stale' }))
  launcher = ennick.launch()
  await ennick.ready()
  expect(await productions()).toEqual(['Killed'])
  const last = await ennick.postgresPid()
  launcher.kill('SIGTERM')
  await until(() => launcher.exitCode !== null)
  expect(launcher.exitCode).toBe(0)
  expect(await health()).toBeNull()
  expect(() => process.kill(last as number, 0)).toThrow()
})
