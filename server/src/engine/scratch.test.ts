import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { mkdir, mkdtemp, readdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test } from '@jest/globals'
import { machineName } from './process-identity.ts'
import { clearScratch, scratchPath, useScratch } from './scratch.ts'

test('what a dead process left is removed, also while a program that it began still writes there', async () => {
  const data = await mkdtemp(join(tmpdir(), 'ennick-scratch-'))
  try {
    useScratch(data)
    const own = await scratchPath()
    const machine = await machineName()
    // No process has number 0, and the first of a machine did not begin at that time.
    for (const name of [`${machine}.0.gone`, `${machine}.1.another-start`, 'another-machine.1.gone'])
      await mkdir(join(data, 'scratch', name, 'within'), { recursive: true })
    const writing = spawn(
      'sh',
      ['-c', 'echo begun; i=0; while [ $i -lt 3000 ]; do i=$((i+1)); mkdir -p within; : > within/$i; done'],
      { cwd: join(data, 'scratch', `${machine}.0.gone`), stdio: ['ignore', 'pipe', 'ignore'] },
    )
    const ended = once(writing, 'exit')
    await once(writing.stdout, 'data')
    await clearScratch(data)
    await ended
    await clearScratch(data)
    expect((await readdir(join(data, 'scratch'))).sort()).toEqual(
      ['another-machine.1.gone', own.split('/').at(-2)].sort(),
    )
  } finally {
    await rm(data, { recursive: true, force: true })
  }
})
