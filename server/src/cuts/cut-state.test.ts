import { join } from 'node:path'
import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Connection, connect } from '../store/database.ts'
import type { Material } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { readAllCutStates } from './cut-state.ts'

let ennick: Harness
let connection: Connection
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  connection = connect(ennick.config.databaseUrl)
  productionId = await ennick.addProduction('Long watch')
  for (const number of [1, 2, 3])
    await makePicture(join(ennick.media, `card/K001C00${number}.mov`), {
      ...{ frames: 5, seed: number, timecode: `1${number}:00:00:00` },
    })
  await ennick.addVolume(productionId, 'CARD', join(ennick.media, 'card'))
  const clipIds = (await ennick.clips(productionId)).map(({ id }) => id)
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds, recipeId: 'half-h264-intra' },
  })
  for (const job of jobs) await ennick.waitForJob(job.id)
  await ennick.call('addCut', {
    params: { productionId },
    body: {
      fileName: 'watch.edl',
      text: `TITLE: WATCH
001  AX V C 11:00:00:00 11:00:00:02 01:00:00:00 01:00:00:02
* FROM CLIP NAME: K001C001.mov
`,
    },
  })
})
afterAll(async () => {
  await connection.close()
  await ennick.stop()
})

/** What is known of the production, with what follows from it: held by nobody but who keeps it. */
async function look(): Promise<WeakRef<Material>> {
  const material = await readMaterial(connection.database, productionId)
  expect(await readAllCutStates(connection.database, material)).toHaveLength(1)
  return new WeakRef(material)
}

test('what was known before a change is let go, though most that was described with it stays as it was', async () => {
  setFlagsFromString('--expose-gc')
  const collect: () => void = runInNewContext('gc')
  const before: WeakRef<Material>[] = []
  for (const name of ['K001C001', 'K001C002', 'K001C003']) {
    before.push(await look())
    await ennick.query('update clips set reel = $1 where name = $2', [`of ${name}`, name])
  }
  const now = await look()
  await new Promise((resolve) => setTimeout(resolve, 0))
  collect()
  expect(before.map((known) => known.deref() === undefined)).toEqual([true, true, true])
  expect(now.deref()).toBeDefined()
})
