import { mkdir, mkdtemp, readdir, readFile, realpath, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals'
import { withHeld } from '../disk/held-folder.ts'
import type { JobRow } from '../queue/jobs.ts'
import { Copier } from './copier.ts'
import { stampOf } from './describe-file.ts'

let root: string
let folder: string
beforeAll(async () => {
  root = await realpath(await mkdtemp(join(tmpdir(), 'ennick-copier-')))
})
beforeEach(async () => {
  folder = await mkdtemp(join(root, 'x'))
  for (const name of ['card', 'shelf']) await mkdir(join(folder, name))
  await writeFile(join(folder, 'card/1.mov'), 'what was shot')
})
afterAll(() => rm(root, { recursive: true, force: true }))

/** Copies the one file, and does something when all that is left is to give the copy its name. */
const copy = (meanwhile: () => Promise<void>) =>
  withHeld(join(folder, 'card'), (from) =>
    withHeld(join(folder, 'shelf'), async (to) => {
      const job = { id: '0123456789ab-4000', attempts: 1 } as JobRow
      const signal = new AbortController().signal
      const copier = new Copier({ from, to, kind: 'xxh64', journal: new Map(), listed: new Map(), job, signal })
      const file = { path: '1.mov', ...(await stampOf(join(folder, 'card/1.mov'))) }
      const begun = await copier.begin(file, () => undefined)
      await meanwhile()
      return begun.finish()
    }),
  )
const shelf = (): Promise<string[]> => readdir(join(folder, 'shelf'))

test('who is second finds the same file there, and has nothing to complain of', async () => {
  const found = await copy(() => writeFile(join(folder, 'shelf/1.mov'), 'what was shot'))
  expect(found).toMatchObject({ wasThere: true, copy: { path: '1.mov', sizeBytes: 13, wasDirect: null } })
  expect(await shelf()).toEqual(['1.mov'])
})

test('another file that took the name meanwhile stays as it is, and is told', async () => {
  await expect(copy(() => writeFile(join(folder, 'shelf/1.mov'), 'what was sent'))).rejects.toThrow(
    'Another file of this name is there already.',
  )
  expect(await readFile(join(folder, 'shelf/1.mov'), 'utf8')).toBe('what was sent')
  expect(await shelf()).toEqual(['1.mov'])
})

test('a folder that took the name meanwhile is left alone', async () => {
  await expect(copy(() => mkdir(join(folder, 'shelf/1.mov')).then(() => undefined))).rejects.toThrow(
    'A link, or a folder, of this name is there already.',
  )
  expect(await shelf()).toEqual(['1.mov'])
})
