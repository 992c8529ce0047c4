import { createHash, randomBytes } from 'node:crypto'
import { mkdir, readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { kill, spawnPart } from '../testing/spawned.ts'
import { openStore, type StandInStore } from '../testing/stand-in-store.ts'

let ennick: Harness
let store: StandInStore
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
  store = await openStore()
})
afterAll(async () => {
  await store.close()
  await ennick.stop()
})

test('a worker that dies in the middle of a fetch leaves nothing behind, and the next one goes on', async () => {
  const productionId = await ennick.addProduction('Killed')
  const rootPath = join(ennick.media, 'storage')
  await mkdir(rootPath)
  const { id: volumeId } = await ennick.call('addVolume', {
    params: { productionId },
    body: { label: 'STORAGE', kind: 'drive', rootPath, notes: '', isWatched: false },
  })
  const contents = { 'A.mov': randomBytes(300_000), 'B.mov': randomBytes(3000) }
  const lines = Object.entries(contents).map(([name, content]) => {
    // What is asked for first never comes to its end.
    store.files.set(`/${name}`, { content, ...(name === 'A.mov' ? { stall: new Promise<void>(() => undefined) } : {}) })
    return `${createHash('sha1').update(content).digest('hex')}  ${name}\n`
  })
  store.files.set('/list.sha1', { content: lines.join('') })
  const worker = spawnPart(ennick, 'worker')
  const body = { address: `${store.address}/list.sha1`, folder: 'in' }
  const { id: jobId } = await ennick.call('fetchToVolume', { params: { volumeId }, body })
  const names = async (): Promise<string[]> => (await readdir(join(rootPath, 'in')).catch(() => [])).sort()
  const isOnItsWay = async (): Promise<boolean> => {
    const all = await names()
    return all.includes('B.mov') && all.some((name) => name.endsWith('.ennick-part'))
  }
  while (!(await isOnItsWay())) await new Promise((resolve) => setTimeout(resolve, 50))
  await kill(worker)
  expect(await names()).not.toContain('A.mov')

  store.files.set('/A.mov', { content: contents['A.mov'] })
  const next = await ennick.startWorker()
  expect(await ennick.waitForJob(jobId)).toMatchObject({
    ...{ state: 'done', attempts: 2, error: null },
    summary: '1 file fetched and verified · 1 there already',
  })
  await next.stop()
  expect(await names()).toEqual(['A.mov', 'B.mov', 'ascmhl'])
  for (const [name, content] of Object.entries(contents))
    expect(await readFile(join(rootPath, 'in', name))).toEqual(content)
})
