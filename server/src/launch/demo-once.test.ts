import { existsSync } from 'node:fs'
import { mkdir, mkdtemp, readdir, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, jest, test } from '@jest/globals'
import { Launched, until } from '../testing/launched.ts'
import { clearUnfinishedDemo } from './demo-once.ts'

/** A file system of its own on Linux, which the data folder does not lie on. */
const otherDisk = '/dev/shm'

let temporary: string
let ennick: Launched
beforeAll(async () => {
  temporary = await mkdtemp(join(otherDisk, 'ennick-test-'))
  ennick = await Launched.prepare({ TMPDIR: temporary })
})
afterAll(async () => {
  await ennick.stop()
  await rm(temporary, { recursive: true })
})

test('a demo is made whole wherever temporary files lie, or the next start begins anew', async () => {
  const below = (name: string) => join(ennick.dataFolder, name)
  const first = ennick.launchWithDemo()
  // All is drawn by then, and its story is being lived through.
  await until(() => existsSync(below('demo')))
  first.kill('SIGKILL')
  await until(() => first.signalCode !== null)

  const second = ennick.launchWithDemo()
  await until(() => ennick.output.includes('Ennick is ready') || second.exitCode !== null)
  expect(ennick.output).toMatch(/not made to its end .* begins anew\. What there was of it lies in .*before-reset/)
  const [production, ...others] = (await ennick.ask<{ id: string }[]>('/productions')) ?? []
  expect(others).toEqual([])
  const told = async (what: string) => (await ennick.ask<unknown[]>(`/productions/${production?.id}/${what}`))?.length
  // All of its volumes, and the cut that is read last of all.
  expect([await told('volumes'), await told('cuts')]).toEqual([6, 1])
  expect(await readdir(below('before-reset'))).toHaveLength(1)
  expect(existsSync(below('demo-unfinished'))).toBe(false)
  // Four busy processes beside it, and it draws for many minutes.
}, 1_800_000)

test('a demo that cannot be made is told with what was the matter, and nobody is kept from work by it', async () => {
  const programs = join(temporary, 'programs')
  await mkdir(programs)
  await writeFile(join(programs, 'ffmpeg'), '#!/bin/sh\necho words >&2\necho "No such filter" >&2\nexit 1\n', {
    mode: 0o755,
  })
  const without = await Launched.prepare({
    PATH: `${programs}:${process.env.PATH}`,
    ENNICK_CACHE: join(temporary, 'none'),
  })
  const first = without.launchWithDemo()
  await until(() => first.exitCode !== null)
  expect(without.output).toMatch(/The demo could not be made: No such filter\. .* \.\/ennick start --no-demo/)
  without.launch()
  await without.ready()
  expect(await without.ask('/productions')).toEqual([])
  await without.stop()
})

test('half a demo in a ledger elsewhere is told of, and nothing of the data folder is put aside', async () => {
  const data = join(temporary, 'data')
  await mkdir(join(data, 'made'), { recursive: true })
  const told = jest.spyOn(console, 'log').mockImplementation(() => undefined)
  for (const [mark, url] of [
    ['elsewhere', undefined],
    ['own', 'postgres://elsewhere'],
  ] as const) {
    await writeFile(join(data, 'demo-unfinished'), mark)
    if (url) process.env.DATABASE_URL = url
    await clearUnfinishedDemo(data).finally(() => delete process.env.DATABASE_URL)
    expect(await readdir(data)).toEqual(['made'])
  }
  expect(told).toHaveBeenCalledTimes(2)
  told.mockRestore()
})
