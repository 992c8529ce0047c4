import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { findProgramsIn } from './host.ts'

const PATH = process.env.PATH ?? ''

/** Puts a program of a name before all others that are started here, which does what a shell is told. */
export async function standIn(folder: string, name: string, script: string): Promise<void> {
  await mkdir(folder, { recursive: true })
  await writeFile(join(folder, name), `#!/bin/sh\n${script}\n`, { mode: 0o755 })
  await findProgramsIn(`${folder}:${PATH}`)
}

/** A program that writes the beginning of what it has to say, and is killed then. */
export const killedHalfway = (folder: string, name: string, bytes: number): Promise<void> =>
  standIn(folder, name, `PATH='${PATH}' ${name} "$@" | head -c ${bytes}\nkill -9 $$`)

/** Programs are themselves again. */
export const withoutStandIns = (): Promise<void> => findProgramsIn(PATH)
