import { type ChildProcess, spawn } from 'node:child_process'
import { once } from 'node:events'
import { fileURLToPath } from 'node:url'
import type { Harness } from './harness.ts'

const projectFolder = fileURLToPath(new URL('../../..', import.meta.url))

/** A server or a worker as a process of its own, on a harness's database and folders, so that it can be killed. */
export function spawnPart(
  ennick: Harness,
  part: 'server' | 'worker',
  options: { environment?: NodeJS.ProcessEnv; before?: readonly string[] } = {},
): ChildProcess {
  const { config } = ennick
  const [program = process.execPath, ...args] = [
    ...(options.before ?? []),
    process.execPath,
    `server/dist/main-${part}.js`,
  ]
  return spawn(program, args, {
    cwd: projectFolder,
    env: {
      ...process.env,
      ...{
        NODE_OPTIONS: '',
        DATABASE_URL: config.databaseUrl,
        ENNICK_DATA: config.dataFolder,
        ENNICK_ROOTS: ennick.media,
        ENNICK_REST_SECONDS: String(config.restSeconds),
        ENNICK_LOOK: config.looks ? 'yes' : 'no',
      },
      ...options.environment,
    },
    stdio: 'ignore',
  })
}

/** Ends a process without a word, and waits until it is gone. */
export async function kill(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return
  const ended = once(child, 'exit')
  child.kill('SIGKILL')
  await ended
}
