import { readdirSync, rmSync } from 'node:fs'
import { mkdir, mkdtemp, readdir, readlink, realpath, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { withHeld } from '../disk/held-folder.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import { copyFiles } from './copy-files.ts'
import { stampOf } from './describe-file.ts'

let folder: string
beforeAll(async () => {
  folder = await realpath(await mkdtemp(join(tmpdir(), 'ennick-copies-')))
  await mkdir(join(folder, 'card/day 1'), { recursive: true })
  await mkdir(join(folder, 'shelf'))
})
afterAll(() => rm(folder, { recursive: true }))

/** Paths below a folder that this process holds open. */
async function heldBelow(path: string): Promise<string[]> {
  const open = await readdir('/proc/self/fd')
  const paths = await Promise.all(open.map((name) => readlink(`/proc/self/fd/${name}`).catch(() => '')))
  return paths.filter((each) => each.startsWith(`${path}/`))
}

test('when a side leaves while a copy is read back, nothing is left or held of the next one', async () => {
  const names = ['1.mov', '2.mov']
  for (const name of names) await writeFile(join(folder, 'card/day 1', name), `shot ${name}`)
  const files = await Promise.all(
    names.map(async (name) => ({ path: `day 1/${name}`, ...(await stampOf(join(folder, 'card/day 1', name))) })),
  )
  const shelf = join(folder, 'shelf/day 1')
  let isFirst = true
  const run = {
    ...{ kind: 'xxh64' as const, journal: new Map(), listed: new Map(), full: () => new JobFailure('full') },
    context: { job: { id: '0123456789ab-4000', attempts: 1 }, signal: new AbortController().signal } as WorkContext,
    assertThere: async () => {
      throw new JobFailure('The shelf has left.')
    },
    // The first copy is taken away as soon as there is one, so that it cannot be read back.
    onBytes: () => {
      if (isFirst) for (const name of readdirSync(shelf)) rmSync(join(shelf, name))
      isFirst = false
    },
  }
  const copying = withHeld(join(folder, 'card'), (from) =>
    withHeld(join(folder, 'shelf'), async (to) => {
      await expect(copyFiles({ ...run, from, to }, files)).rejects.toThrow('The shelf has left.')
      return heldBelow(join(folder, 'shelf'))
    }),
  )
  expect(await copying).toEqual([])
  expect(await readdir(shelf)).toEqual([])
})
