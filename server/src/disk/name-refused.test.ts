import { mkdtemp, readdir, realpath, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { explainFileError, isFileError } from '../errors.ts'
import { HeldFolder } from './held-folder.ts'
import { NameRefused, whyNotNamed } from './name-refused.ts'

let path: string
let folder: HeldFolder
beforeAll(async () => {
  path = await realpath(await mkdtemp(join(tmpdir(), 'ennick-names-')))
  folder = await HeldFolder.hold(path)
})
afterAll(async () => {
  await folder.release()
  await rm(path, { recursive: true })
})

const failure = (code: string) => Object.assign(new Error('no'), { code })

test('a name that a disk does not take is told as that, and not as a file that is gone', () => {
  for (const code of ['ENOENT', 'EINVAL']) {
    const told = whyNotNamed(failure(code), '/media/shuttle', 'Sc 12:3.mov')
    expect([told instanceof NameRefused, isFileError(told), explainFileError(told, 'Sc 12:3.mov')]).toEqual([
      true,
      true,
      'The disk of /media/shuttle takes no name like “Sc 12:3.mov”: it has “:”. Choose a place on another disk.',
    ])
  }
  for (const [code, name] of [
    ['ENOENT', 'A001C001.mov'],
    ['ENOSPC', 'Sc 12:3.mov'],
  ] as const) {
    const error = failure(code)
    expect(whyNotNamed(error, '/media/shuttle', name)).toBe(error)
  }
})

test('an odd name is tried before anything is written, and nothing is left of the trial', async () => {
  await folder.assertTakes('Sc 12:3.mov', '.Sc 12:3.mov.part')
  expect(await readdir(path)).toEqual([])
  // As a disk of cards says it.
  const strict = Object.create(folder, { create: { value: () => Promise.reject(failure('ENOENT')) } })
  await expect(strict.assertTakes('take?.mov', '.take?.mov.part')).rejects.toThrow('it has “?”')
  await strict.assertTakes('plain.mov', '.plain.mov.part')
})
