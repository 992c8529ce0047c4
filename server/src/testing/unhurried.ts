import { execFile } from 'node:child_process'
import { chmod, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { delimiter, join } from 'node:path'
import { promisify } from 'node:util'
import { findProgramsIn } from './host.ts'

/**
 * Encodes that begin meanwhile read their original at a part of the speed at which it plays: there is time to act in
 * the middle of one, however fast the machine.
 * @param speed 1 reads a second of the original in a second
 */
export async function unhurried<T>(speed: number, act: () => Promise<T>): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'ennick-unhurried-'))
  const encoder = (await promisify(execFile)('sh', ['-c', 'command -v ffmpeg'])).stdout.trim()
  const program = join(folder, 'ffmpeg')
  // Only encodes report their progress.
  await writeFile(
    program,
    `#!/bin/sh\n[ "$1" = -progress ] && exec ${encoder} -readrate ${speed} "$@"\nexec ${encoder} "$@"\n`,
  )
  await chmod(program, 0o755)
  const before = process.env.PATH ?? ''
  await findProgramsIn(`${folder}${delimiter}${before}`)
  try {
    return await act()
  } finally {
    await findProgramsIn(before)
    await rm(folder, { recursive: true })
  }
}
