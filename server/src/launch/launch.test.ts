import { type ChildProcess, spawn } from 'node:child_process'
import { once } from 'node:events'
import { mkdir, mkdtemp, readdir, realpath, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, dirname, join } from 'node:path'
import type { Answer, Job, LedgerCopies, routes } from '@ennick/contract'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { madeFolder } from '../config.ts'
import { markerName } from '../disk/marker.ts'
import { ledgerCopyFolder } from '../ledger/keep-copies.ts'
import { Launched, until } from '../testing/launched.ts'
import { makePicture } from '../testing/media.ts'
import { clusterElsewhere, findBinaries, startPrivateDatabase } from './postgres.ts'

let ennick: Launched
let launcher: ChildProcess
let ledgerCopy: string
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
  expect(ledger?.map((row) => row.pairs.map((pair) => pair.verdict))).toEqual(Array(clips).fill(['proven']))
  const entries = await readdir(madeFolder(ennick.dataFolder), { recursive: true, withFileTypes: true })
  const names = entries.filter((entry) => entry.isFile() && entry.name !== markerName).map((entry) => entry.name)
  expect(names.sort()).toEqual(
    Array.from({ length: clips }, (_, index) => `K${String(index + 1).padStart(2, '0')}_proxy.mov`),
  )
})

test('a database that is killed again and again while it starts is started until it runs', async () => {
  for (let last = 0, kills = 0; kills < 5; kills++) {
    // As soon as the next one is there, mostly before it answers. It may have gone by itself since its number was read.
    await until(async () => {
      const next = await ennick.postgresPid()
      if (next === null || next === last) return false
      last = next
      return true
    })
    try {
      process.kill(last, 'SIGKILL')
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'ESRCH') throw error
    }
  }
  await until(async () => (await health())?.workers === 1 || launcher.exitCode !== null)
  expect(launcher.exitCode).toBeNull()
  expect(await productions()).toEqual(['Killed'])
})

test('a lock whose number another program has by now stops neither that program nor the start', async () => {
  const stranger = spawn('sleep', ['1000'])
  const copy = await Launched.prepare()
  const lock = { pid: stranger.pid, start: 'another boot', dataFolder: copy.dataFolder, url: 'http://127.0.0.1:1' }
  await writeFile(join(copy.dataFolder, 'running.json'), JSON.stringify(lock))
  const stop = spawn(process.execPath, ['server/dist/launch/stop.js'], {
    env: { ...process.env, NODE_OPTIONS: '', ENNICK_DATA: copy.dataFolder },
  })
  await once(stop, 'exit')
  expect([stranger.exitCode, stranger.signalCode]).toEqual([null, null])
  stranger.kill()
  await copy.stop()
})

test('a cluster whose making was killed, or whose lock names another database’s process, is no reason not to start', async () => {
  const folder = await realpath(await mkdtemp(join(tmpdir(), 'ennick-cluster-')))
  const first = await startPrivateDatabase(folder, { throwaway: true })
  await first.stop()
  const cluster = (await stat(join(folder, 'database')).catch(() => null))
    ? join(folder, 'database')
    : clusterElsewhere(folder)
  // The running database of this very test run, as a foreign one: its number stands in our lock.
  const foreign = (await ennick.postgresPid()) as number
  await writeFile(join(cluster, 'postmaster.pid'), `${foreign}\n${cluster}\n0\n`)
  const second = await startPrivateDatabase(folder, { throwaway: true })
  expect(() => process.kill(foreign, 0)).not.toThrow()
  await second.stop()
  // As initdb leaves it when it is killed at its beginning.
  await rm(cluster, { recursive: true })
  await mkdir(cluster, { recursive: true })
  await writeFile(join(cluster, 'PG_VERSION'), '15\n')
  const third = await startPrivateDatabase(folder, { throwaway: true })
  await third.stop()
  expect((await readdir(dirname(cluster))).some((name) => name.startsWith(`${basename(cluster)}.unfinished-`))).toBe(
    true,
  )
  // Beside it another run of the tests may be making its own.
  expect(await readdir(dirname(cluster))).not.toContain(`${basename(cluster)}.making`)
  for (const name of await readdir(dirname(cluster)))
    if (name.startsWith(basename(cluster))) await rm(join(dirname(cluster), name), { recursive: true })
  await rm(folder, { recursive: true })
})

test('settings that cannot be used are told at once', async () => {
  const odd = await Launched.prepare()
  await writeFile(join(odd.dataFolder, 'settings.json'), '{ "hosts": [')
  const started = odd.launchBeside()
  await until(() => started.child.exitCode !== null)
  expect([started.child.exitCode, started.output.trim()]).toEqual([
    1,
    expect.stringMatching(/settings\.json cannot be used: it is no JSON/),
  ])
  expect(started.output.split('\n')).toHaveLength(2)
  await odd.stop()
})

test('a killed launcher leaves nothing running, the next start finds the data, and a stop stops everything', async () => {
  launcher.kill('SIGKILL')
  await until(async () => (await health()) === null && (await ennick.postgresPid()) === null)
  await writeFile(join(ennick.dataFolder, 'running.json'), JSON.stringify({ pid: process.pid, url: 'stale' }))
  launcher = ennick.launch()
  await ennick.ready()
  expect(await productions()).toEqual(['Killed'])
  await ennick.ask('/ledger/copies', {})
  const copies = async () => (await ennick.ask<LedgerCopies>('/ledger'))?.copies ?? []
  await until(async () => (await copies()).length === 1)
  ledgerCopy = join(ledgerCopyFolder(ennick.dataFolder), (await copies())[0]?.name ?? '')
  const last = await ennick.postgresPid()
  launcher.kill('SIGTERM')
  await until(() => launcher.exitCode !== null)
  expect(launcher.exitCode).toBe(0)
  expect(await health()).toBeNull()
  expect(() => process.kill(last as number, 0)).toThrow()
})

test('another machine begins with a copy of the ledger; one that is none is told, and changes nothing', async () => {
  const other = await Launched.prepare()
  const wrong = other.launch('--ledger', join(other.dataFolder, 'nothing.zip'))
  await until(() => wrong.exitCode !== null)
  expect(wrong.exitCode).toBe(1)
  const started = other.launch('--ledger', ledgerCopy)
  await other.ready()
  expect((await other.ask<{ name: string }[]>('/productions'))?.map(({ name }) => name)).toEqual(['Killed'])
  const second = other.launchBeside('--ledger', ledgerCopy)
  await until(() => second.child.exitCode !== null)
  expect([second.child.exitCode, second.output]).toEqual([1, expect.stringMatching(/Ennick is running at .*: stop it/)])
  expect(started.exitCode).toBeNull()
  await other.stop()
})

test('a cluster is started by the PostgreSQL that made it, whichever others are installed', async () => {
  const installed = await mkdtemp(join(tmpdir(), 'ennick-installed-'))
  for (const version of ['9', '15', '17']) {
    await mkdir(join(installed, version, 'bin'), { recursive: true })
    const program = `#!/bin/sh\necho 'initdb (PostgreSQL) ${version}.4 (Debian ${version}.4-1)'\n`
    await writeFile(join(installed, version, 'bin/initdb'), program, { mode: 0o755 })
  }
  expect(await findBinaries(null, installed)).toBe(join(installed, '17/bin'))
  const made = (version: string) => ({ version, cluster: '/var/lib/ennick/0a1b', folder: installed })
  expect(await findBinaries(made('9'), installed)).toBe(join(installed, '9/bin'))
  await expect(findBinaries(made('3'), installed)).rejects.toThrow(
    /made by PostgreSQL 3, .*version 17 and 15 and 9.* is installed.*Install PostgreSQL 3 beside it.*start --ledger FILE/,
  )
  // The place of the cluster is named as it is: with root it may lie outside of the data folder.
  await mkdir(join(installed, 'ledger-copies'))
  for (const name of ['ennick-ledger-20261130-235900.zip', 'ennick-ledger-20261201-054155.zip', 'notes.txt'])
    await writeFile(join(installed, 'ledger-copies', name), '')
  await expect(findBinaries(made('3'), installed)).rejects.toThrow(
    /move the folder \/var\/lib\/ennick\/0a1b away.*--ledger '\S+\/ennick-ledger-20261201-054155\.zip'$/,
  )
  await rm(installed, { recursive: true })
})
