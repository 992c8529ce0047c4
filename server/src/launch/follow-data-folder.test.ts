import { chmod, mkdir, mkdtemp, readFile, realpath, rename, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { Launched, until } from '../testing/launched.ts'
import { makePicture } from '../testing/media.ts'
import { clusterElsewhere } from './postgres.ts'

let folder: string
const started: Launched[] = []
beforeAll(async () => {
  folder = await realpath(await mkdtemp(join(tmpdir(), 'ennick-moved-')))
})
afterAll(async () => {
  for (const ennick of started) await ennick.stop()
  for (const name of ['one', 'two', 'three'])
    await rm(clusterElsewhere(join(folder, name)), { recursive: true, force: true })
  await rm(folder, { recursive: true })
})

/** An Ennick with its data in a folder of this test, that uses what lies there and nothing else. */
async function startIn(name: string): Promise<Launched> {
  const data = join(folder, name)
  const ennick = await Launched.prepare({ ENNICK_DATA: data, ENNICK_ROOTS: join(data, 'cards') })
  started.push(ennick)
  ennick.launch()
  await ennick.ready()
  return ennick
}

async function end(ennick: Launched): Promise<void> {
  await ennick.stop()
  started.splice(started.indexOf(ennick), 1)
}

interface Place {
  readonly path: string
  readonly isHere: boolean
}
interface ListedJob {
  readonly state: string
}

test('a data folder that was moved, or copied, knows what lies in it, and touches nothing of another', async () => {
  await makePicture(join(folder, 'one/cards/A001/A001C001.mov'), { frames: 10, channels: 0 })
  // A data folder begins empty: the card is put into it once it is one.
  await rename(join(folder, 'one/cards'), join(folder, 'cards'))
  let ennick = await startIn('one')
  await rename(join(folder, 'cards'), join(folder, 'one/cards'))
  const ask = async <T>(path: string, body?: object): Promise<T> => {
    const answer = await ennick.ask<T>(path, body)
    if (answer === null) throw new Error(`${path} was not answered.`)
    return answer
  }
  const rate = { numerator: 25, denominator: 1 }
  const { id } = await ask<{ id: string }>('/productions', { name: 'Moved', rate, width: 640, height: 360 })
  const settled = () =>
    until(async () => (await ask<ListedJob[]>(`/productions/${id}/jobs`)).every(({ state }) => state === 'done'))
  const volume = await ask<{ id: string }>(`/productions/${id}/volumes`, {
    ...{ label: 'A001', kind: 'drive', rootPath: join(folder, 'one/cards/A001') },
  })
  await ask(`/volumes/${volume.id}/scan`, {})
  await settled()
  const clips = await ask<{ rows: { id: string }[] }>(`/productions/${id}/clips/search`, {})
  await ask(`/productions/${id}/make`, { clipIds: clips.rows.map((clip) => clip.id), recipeId: 'half-h264-intra' })
  await settled()
  const verdict = async () =>
    (await ask<{ pairs: { verdict: string }[] }[]>(`/productions/${id}/pairs`)).flatMap(({ pairs }) =>
      pairs.map((pair) => pair.verdict),
    )
  const places = async () => [
    ...(await ask<{ rootPath: string; isHere: boolean }[]>(`/productions/${id}/volumes`)).map(
      ({ rootPath: path, isHere }) => ({ path, isHere }),
    ),
    ...(await ask<Place[]>(`/productions/${id}/made-places`)).map(({ path, isHere }) => ({ path, isHere })),
  ]
  const before = await places()
  expect(await verdict()).toEqual(['proven'])
  await end(ennick)

  const isIn = (name: string) => before.map(({ path }) => ({ path: path.replace('/one/', `/${name}/`), isHere: true }))
  // One card stays behind.
  const stays = join(folder, 'one/cards/B001')
  await makePicture(join(stays, 'B001C001.mov'), { frames: 10, channels: 0 })
  ennick = await startIn('one')
  const left = await ask<{ id: string }>(`/productions/${id}/volumes`, {
    ...{ label: 'B001', kind: 'drive', rootPath: stays },
  })
  await end(ennick)
  await rename(join(folder, 'one'), join(folder, 'two'))
  await mkdir(join(folder, 'one/cards'), { recursive: true })
  await rename(join(folder, 'two/cards/B001'), stays)
  ennick = await startIn('two')
  expect(ennick.output).toMatch(/The data folder lay in .*one before: 2 places in it followed\./)
  const [first, stayed, ...others] = await places()
  expect(stayed?.path).toBe(stays)
  expect([[first, ...others], await verdict()]).toEqual([isIn('two'), ['proven']])
  await ask(`/volumes/${left.id}/remove`, { apply: true })
  await end(ennick)

  // Others may enter it now, so that its cluster comes into it, and goes along with a copy.
  await chmod(folder, 0o755)
  ennick = await startIn('two')
  expect(await verdict()).toEqual(['proven'])
  await end(ennick)
  await run('cp', ['-a', join(folder, 'two'), join(folder, 'three')])
  ennick = await startIn('three')
  expect([await places(), await verdict()]).toEqual([isIn('three'), ['proven']])
  // What is asked of the copy is asked of its own files, which nobody but the copying put there.
  const made = (await places()).at(-1)?.path as string
  const proxy = 'half-h264-intra/A001/A001C001_proxy.mov'
  const pairs = await ask<{ pairs: { id: string }[] }[]>(`/productions/${id}/pairs`)
  const pairIds = pairs.flatMap((clip) => clip.pairs.map((pair) => pair.id))
  const { kept } = await ask<{ kept: { reason: string }[] }>(`/productions/${id}/release`, { pairIds, apply: true })
  expect(kept).toEqual([
    expect.objectContaining({ reason: expect.stringContaining(`${made}/${proxy} is another file`) }),
  ])
  for (const name of ['two', 'three'])
    expect((await readFile(join(made.replace('/three/', `/${name}/`), proxy))).length).toBeGreaterThan(0)
})
