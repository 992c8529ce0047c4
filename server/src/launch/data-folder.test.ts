import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { mkdir, mkdtemp, readdir, readFile, realpath, rm, symlink, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { namedDataFolder } from '../config.ts'
import { Launched, until } from '../testing/launched.ts'
import { openDataFolder } from './data-folder.ts'

let folder: string
beforeAll(async () => {
  folder = await realpath(await mkdtemp(join(tmpdir(), 'ennick-folder-')))
})
afterAll(() => rm(folder, { recursive: true }))

/** One of Ennick's commands, as `./ennick` gives it when all is installed and built. */
const command = ([name, ...words]: readonly string[], dataFolder: string, more: NodeJS.ProcessEnv = {}) =>
  run(process.execPath, [`server/dist/launch/${name}.js`, ...words], dataFolder, more)

async function run(
  program: string,
  words: readonly string[],
  dataFolder: string,
  more: NodeJS.ProcessEnv = {},
): Promise<{ code: number; output: string }> {
  const { DATABASE_URL: _, ...environment } = process.env
  const child = spawn(program, words, {
    cwd: fileURLToPath(new URL('../../..', import.meta.url)),
    env: { ...environment, NODE_OPTIONS: '', ENNICK_DATA: dataFolder, ENNICK_PORT: '1', ...more },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  let output = ''
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (chunk) => {
      output += chunk
    })
  const [code] = await once(child, 'close')
  return { code, output }
}

/** A folder of somebody's, in which things lie by the names that Ennick uses for its own. */
async function somebodys(name: string): Promise<string> {
  const path = join(folder, name)
  for (const below of ['demo', 'made', 'pictures', 'frames/2026', 'scratch', 'database'])
    await mkdir(join(path, below), { recursive: true })
  for (const below of ['demo/reel.mov', 'made/cut.mov', 'pictures/wedding.jpg', 'frames/2026/a.png', 'scratch/notes'])
    await writeFile(join(path, below), below)
  return path
}
const filesOf = async (path: string): Promise<string[]> => (await readdir(path, { recursive: true })).sort()

test('neither a start nor a reset touches a folder that is somebody’s', async () => {
  const path = await somebodys('home')
  const before = await filesOf(path)
  for (const [words, told] of [
    [['start'], /home is no data folder of Ennick and holds other things \(.*demo.*\): nothing was started/],
    [['reset'], /home is no data folder of Ennick: nothing was touched/],
  ] as const) {
    const { code, output } = await command(words, path)
    expect([code, output]).toEqual([1, expect.stringMatching(told)])
    expect(await filesOf(path)).toEqual(before)
  }
})

test('a folder is named by where it really lies, also on the first start', async () => {
  const real = join(folder, 'disk')
  await mkdir(real)
  await symlink(real, join(folder, 'link'))
  process.env.ENNICK_DATA = join(folder, 'link/new')
  try {
    expect([openDataFolder(), namedDataFolder()]).toEqual([join(real, 'new'), join(real, 'new')])
  } finally {
    delete process.env.ENNICK_DATA
  }
})

test('a word that a command does not know ends it before anything is done', async () => {
  const path = join(folder, 'words')
  await mkdir(path)
  await writeFile(join(path, '.ennick-data'), '')
  await mkdir(join(path, 'made'))
  for (const words of [
    ['start', '--no-demos'],
    ['start', 'here'],
    ['reset', '--really'],
    ['stop', '--all'],
    ['start', '--allow'],
  ])
    expect([words, (await command(words, path)).code]).toEqual([words, 2])
  for (const words of [
    ['reset', '--help'],
    ['start', '-h'],
  ]) {
    const { code, output } = await run('./ennick', words, path)
    expect([code, output]).toEqual([0, expect.stringMatching(/^\.\/ennick start/)])
  }
  expect(await filesOf(path)).toEqual(['.ennick-data', 'made'])
})

test('files that a ledger elsewhere knows are not put aside', async () => {
  const path = join(folder, 'served')
  await mkdir(join(path, 'made'), { recursive: true })
  await writeFile(join(path, '.ennick-data'), '')
  const { code, output } = await command(['reset'], path, { DATABASE_URL: 'postgres://elsewhere' })
  expect([code, output]).toEqual([1, expect.stringMatching(/which a reset does not empty.*nothing was touched/)])
  expect(await filesOf(path)).toEqual(['.ennick-data', 'made'])
})

test('a reset keeps the ledger and every file that somebody may want, and the next start begins anew', async () => {
  const ennick = await Launched.prepare()
  await writeFile(join(ennick.dataFolder, 'settings.json'), '{}')
  let launcher = ennick.launch()
  await ennick.ready()
  const names = async () => (await ennick.ask<{ name: string }[]>('/productions'))?.map(({ name }) => name)
  await ennick.ask('/productions', {
    ...{ name: 'Ebb', rate: { numerator: 25, denominator: 1 }, width: 640, height: 360 },
  })
  // A card that was copied into the only folder that is allowed from the first minute.
  await mkdir(join(ennick.dataFolder, 'demo/A001'), { recursive: true })
  await writeFile(join(ennick.dataFolder, 'demo/A001/A001C001.mov'), 'the only copy')
  const { code, output } = await command(['reset'], ennick.dataFolder)
  expect([code, output]).toEqual([0, expect.stringMatching(/Ennick has stopped\.[\s\S]*The next start begins anew/)])
  await until(() => launcher.exitCode !== null)

  const aside = /were moved to (.*): delete/.exec(output)?.[1] ?? ''
  expect(await readFile(join(aside, 'demo/A001/A001C001.mov'), 'utf8')).toBe('the only copy')
  const copy = /kept in (.*): \.\/ennick/.exec(output)?.[1] ?? ''
  const left = await readdir(ennick.dataFolder)
  for (const name of ['database', 'database-secret', 'demo', 'made', 'running.json']) expect(left).not.toContain(name)
  expect(left).toContain('settings.json')

  launcher = ennick.launch()
  await ennick.ready()
  expect(await names()).toEqual([])
  launcher.kill('SIGTERM')
  await until(() => launcher.exitCode !== null)
  launcher = ennick.launch('--ledger', copy)
  await ennick.ready()
  expect(await names()).toEqual(['Ebb'])
  await ennick.stop()
})

test('a ledger of which no copy can be made is put aside whole, with what opens it', async () => {
  const path = join(folder, 'broken')
  // A cluster, as far as can be seen from outside, that no PostgreSQL starts.
  await mkdir(join(path, 'database/global'), { recursive: true })
  for (const name of ['.ennick-data', 'database/PG_VERSION', 'database/global/pg_control', 'database/base'])
    await writeFile(join(path, name), name === 'database/PG_VERSION' ? '3\n' : 'rows')
  await writeFile(join(path, 'database-secret'), 'secret')
  const { code, output } = await command(['reset'], path)
  expect([code, output]).toEqual([0, expect.stringMatching(/No copy of the ledger could be made .* put aside whole/)])
  expect(await readdir(path)).not.toContain('database')
  const [, cluster, secret] = /put aside whole: (.*), with its secret in (.*)/.exec(output) ?? []
  expect(cluster).toMatch(/\.before-reset-/)
  expect(await readFile(join(cluster as string, 'base'), 'utf8')).toBe('rows')
  expect(await readFile(secret as string, 'utf8')).toBe('secret')
  await rm(cluster as string, { recursive: true })
})

test('a demo takes the place of nothing that is there', async () => {
  const ennick = await Launched.prepare()
  await writeFile(join(ennick.dataFolder, '.ennick-data'), '')
  await mkdir(join(ennick.dataFolder, 'demo'))
  await writeFile(join(ennick.dataFolder, 'demo/mine.mov'), 'mine')
  ennick.launchWithDemo()
  await ennick.ready()
  expect(ennick.output).toMatch(/No demo is made: .*demo is there already/)
  expect(await readdir(join(ennick.dataFolder, 'demo'))).toEqual(['mine.mov'])
  await ennick.stop()
})
