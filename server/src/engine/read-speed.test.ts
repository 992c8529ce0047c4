import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test } from '@jest/globals'
import { measureRead } from './read-speed.ts'

const { signal } = new AbortController()

test('a piece of a file is read from the disk itself; a short one tells nothing, a lost one is an error', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'ennick-read-'))
  try {
    const [large, small] = [join(folder, 'large.mov'), join(folder, 'small.mov')]
    await writeFile(large, Buffer.alloc(20 * 1024 * 1024 + 4097, 7))
    await writeFile(small, Buffer.alloc(1000))
    const speed = await measureRead(large, 20 * 1024 * 1024 + 4097, signal)
    // Where the file system has no such reading it is not known, which is an answer too.
    if (speed !== null) expect(speed).toBeGreaterThan(0)
    expect(await measureRead(small, 1000, signal)).toBeNull()
    await expect(measureRead(join(folder, 'lost.mov'), 20_000_000, signal)).rejects.toThrow(/ENOENT/)
    // One that is shorter now than it was is read to its end.
    expect(await measureRead(small, 20_000_000, signal)).toBeNull()
  } finally {
    await rm(folder, { recursive: true })
  }
})
