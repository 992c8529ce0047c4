import { type ChildProcess, execFile, spawn } from 'node:child_process'
import { once } from 'node:events'
import { mkdtemp, readdir, readFile, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { promisify } from 'node:util'
import { clusterElsewhere, freePort } from '../launch/postgres.ts'

const execute = promisify(execFile)
const projectFolder = fileURLToPath(new URL('../../..', import.meta.url))

export const moment = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 100))
export async function until(what: () => Promise<boolean> | boolean): Promise<void> {
  while (!(await what())) await moment()
}

/** An Ennick started as a person starts it, with a database of its own, so that its processes can be killed. */
export class Launched {
  readonly dataFolder: string
  readonly #port: number
  readonly #environment: NodeJS.ProcessEnv
  #process: ChildProcess | null = null
  #output = { all: '' }

  private constructor(dataFolder: string, port: number, environment: NodeJS.ProcessEnv) {
    this.dataFolder = dataFolder
    this.#port = port
    this.#environment = environment
  }

  /** @param environment what is set for it beside what all tests set */
  static async prepare(environment: NodeJS.ProcessEnv = {}): Promise<Launched> {
    return new Launched(await mkdtemp(join(tmpdir(), 'ennick-launch-')), await freePort(), environment)
  }

  /** @param words behind `start` */
  launch(...words: string[]): ChildProcess {
    return this.#launch(['--no-demo', ...words])
  }

  /** As a person starts it who knows no words yet. */
  launchWithDemo(): ChildProcess {
    return this.#launch([])
  }

  /** What the one that was launched last has said. */
  get output(): string {
    return this.#output.all
  }

  #launch(words: readonly string[]): ChildProcess {
    const { child, text } = this.#start(words)
    this.#process = child
    this.#output = text
    return child
  }

  /** Starts it once more while it runs. */
  launchBeside(...words: string[]): { child: ChildProcess; readonly output: string } {
    const { child, text } = this.#start(['--no-demo', ...words])
    return {
      child,
      get output() {
        return text.all
      },
    }
  }

  #start(words: readonly string[]): { child: ChildProcess; text: { all: string } } {
    const { DATABASE_URL: _, ...environment } = process.env
    const child = spawn(process.execPath, ['server/dist/launch/start.js', ...words], {
      cwd: projectFolder,
      env: {
        ...environment,
        ...{
          NODE_OPTIONS: '',
          ENNICK_DATA: this.dataFolder,
          ENNICK_PORT: String(this.#port),
          ENNICK_ROOTS: this.dataFolder,
          ENNICK_LOOK: 'no',
          ENNICK_REST_SECONDS: '0',
          // The demo's pictures are drawn once for all tests, also for the walks.
          ENNICK_CACHE: join(projectFolder, 'node_modules/.cache/ennick'),
        },
        ...this.#environment,
      },
      stdio: ['ignore', 'pipe', 'pipe'],
    })
    const text = { all: '' }
    for (const stream of [child.stdout, child.stderr])
      stream.on('data', (chunk) => {
        text.all += chunk
      })
    return { child, text }
  }

  ready(): Promise<void> {
    return until(() => this.#output.all.includes(`Ennick is ready at http://127.0.0.1:${this.#port}`))
  }

  /** Null while the server does not answer, or has no database to ask. */
  async ask<T>(path: string, body?: object): Promise<T | null> {
    try {
      const answer = await fetch(`http://127.0.0.1:${this.#port}/api${path}`, {
        ...(body
          ? { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }
          : {}),
      })
      return answer.ok ? ((await answer.json()) as T) : null
    } catch {
      return null
    }
  }

  async postgresPid(): Promise<number | null> {
    const { stdout } = await execute('pgrep', ['-f', `postgres -D .*port=`]).catch(() => ({ stdout: '' }))
    const url = await readFile(join(this.dataFolder, 'database-url'), 'utf8').catch(() => '')
    for (const pid of stdout.split('\n').filter(Boolean)) {
      const command = await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => '')
      if (url && command.includes(`port=${new URL(url).port}`)) return Number(pid)
    }
    return null
  }

  /** The server's or the worker's process. */
  async pidOf(part: 'server' | 'worker'): Promise<number> {
    for (const pid of (await readdir('/proc')).filter((name) => /^\d+$/.test(name))) {
      const [command, status] = await Promise.all(
        ['cmdline', 'status'].map((name) => readFile(`/proc/${pid}/${name}`, 'utf8').catch(() => '')),
      )
      if (command?.includes(`main-${part}.js`) && status?.includes(`PPid:\t${this.#process?.pid}\n`)) return Number(pid)
    }
    throw new Error(`There is no ${part} now.`)
  }

  async stop(): Promise<void> {
    const child = this.#process
    if (child && child.exitCode === null && child.signalCode === null && child.kill('SIGTERM'))
      await once(child, 'exit')
    await rm(this.dataFolder, { recursive: true, force: true })
    await rm(clusterElsewhere(this.dataFolder), { recursive: true, force: true })
  }
}
