import { type ChildProcess, spawn } from 'node:child_process'
import { once } from 'node:events'
import { readdir, readFile } from 'node:fs/promises'
import { createServer } from 'node:net'
import { join } from 'node:path'
import { pause, project } from './bench/measure.ts'

/** How an Ennick is started. */
interface Settings {
  /** Its data folder, below the given one. */
  readonly data?: string
  readonly atOnce?: number | null
  readonly environment?: NodeJS.ProcessEnv
  /** Whether what it says on stderr is passed over: one that is killed again and again says much. */
  readonly isQuiet?: boolean
}

/** An Ennick of the caller's own, asked from outside as any client would. */
export class Ennick {
  readonly url: string
  readonly dataFolder: string
  readonly #environment: NodeJS.ProcessEnv
  readonly #isQuiet: boolean
  #launcher: ChildProcess

  private constructor(url: string, dataFolder: string, environment: NodeJS.ProcessEnv, isQuiet: boolean) {
    this.url = url
    this.dataFolder = dataFolder
    this.#environment = environment
    this.#isQuiet = isQuiet
    this.#launcher = this.#launch()
  }

  static async start(folder: string, settings: Settings = {}): Promise<Ennick> {
    const dataFolder = join(folder, settings.data ?? 'data')
    const port = await freePort()
    const environment = {
      ...{ ...process.env, ENNICK_DATA: dataFolder, ENNICK_PORT: String(port), ENNICK_ROOTS: folder },
      // What is scanned was made a moment ago, and is whole.
      ENNICK_REST_SECONDS: '0',
      ...(settings.atOnce ? { ENNICK_AT_ONCE: String(settings.atOnce) } : {}),
      ...settings.environment,
    }
    const ennick = new Ennick(`http://127.0.0.1:${port}`, dataFolder, environment, settings.isQuiet ?? false)
    await ennick.#untilReady()
    return ennick
  }

  #launch(): ChildProcess {
    return spawn(process.execPath, ['server/dist/launch/start.js', '--no-demo'], {
      cwd: project,
      env: this.#environment,
      stdio: ['ignore', 'ignore', this.#isQuiet ? 'ignore' : 'inherit'],
    })
  }

  async #untilReady(): Promise<void> {
    for (;;) {
      const health = await this.call('GET', '/health').catch(() => null)
      if (health?.workers > 0) return
      if (this.#launcher.exitCode !== null) throw new Error('Ennick did not start.')
      await pause(100)
    }
  }

  /** Kills the launcher, and all else with it, and starts it again. */
  async restart(): Promise<void> {
    this.#launcher.kill('SIGKILL')
    while (await this.call('GET', '/health').catch(() => null)) await pause(50)
    this.#launcher = this.#launch()
    await this.#untilReady()
  }

  // biome-ignore lint/suspicious/noExplicitAny: the bench reads the API from outside, as any client would
  async call(method: string, path: string, body?: object): Promise<any> {
    const response = await fetch(`${this.url}/api${path}`, {
      method,
      ...(body ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {}),
    })
    const answer = await response.json()
    if (!response.ok) throw new Error(answer.message)
    return answer
  }

  /** Waits as the interface does: by the stream of changes, without asking all the time. */
  async jobEnd(jobId: string): Promise<{ summary: string | null }> {
    const stop = new AbortController()
    const changes = await fetch(`${this.url}/api/changes`, { signal: stop.signal })
    try {
      for await (const _ of changes.body as unknown as AsyncIterable<Uint8Array>) {
        const job = await this.call('GET', `/jobs/${jobId}`)
        if (job.state === 'done') return job
        if (job.state === 'failed' || job.state === 'cancelled') throw new Error(job.error)
      }
      throw new Error('The stream of changes ended.')
    } finally {
      stop.abort()
    }
  }

  /** The same for many jobs of a production: their list is asked for when one of them has begun or ended. */
  async jobsEnd(productionId: string, jobIds: readonly string[]): Promise<void> {
    const wanted = new Set(jobIds)
    const stop = new AbortController()
    const changes = await fetch(`${this.url}/api/changes`, { signal: stop.signal })
    const text = new TextDecoder()
    try {
      for await (const bytes of changes.body as unknown as AsyncIterable<Uint8Array>) {
        if (!text.decode(bytes).includes('"jobs"')) continue
        const jobs: { id: string; state: string; error: string | null }[] = await this.call(
          'GET',
          `/productions/${productionId}/jobs`,
        )
        const failed = jobs.find((job) => wanted.has(job.id) && (job.state === 'failed' || job.state === 'cancelled'))
        if (failed) throw new Error(failed.error ?? 'A job was stopped.')
        if (!jobs.some((job) => wanted.has(job.id) && (job.state === 'waiting' || job.state === 'running'))) return
      }
      throw new Error('The stream of changes ended.')
    } finally {
      stop.abort()
    }
  }

  async newProduction(): Promise<string> {
    return (
      await this.call('POST', '/productions', {
        name: `Bench ${Math.random()}`,
        rate: { numerator: 25, denominator: 1 },
        width: 1920,
        height: 1080,
      })
    ).id
  }

  async addVolume(productionId: string, rootPath: string): Promise<string> {
    return (
      await this.call('POST', `/productions/${productionId}/volumes`, {
        label: rootPath.split('/').at(-1),
        kind: 'drive',
        rootPath,
      })
    ).id
  }

  async scan(volumeId: string): Promise<void> {
    await this.jobEnd((await this.call('POST', `/volumes/${volumeId}/scan`)).id)
  }

  /** Waits until nothing is done for a production any more, as what follows a scan by itself. */
  async untilQuiet(productionId: string): Promise<void> {
    for (;;) {
      const jobs: { state: string }[] = await this.call('GET', `/productions/${productionId}/jobs`)
      if (jobs.every(({ state }) => state !== 'waiting' && state !== 'running')) return
      await pause(500)
    }
  }

  /** The resident memory of one of its processes, in bytes. */
  async memory(part: 'server' | 'worker'): Promise<number> {
    const [pid] = await this.processes((command) => command.includes(`main-${part}.js`))
    if (pid === undefined) throw new Error(`The ${part} process was not found.`)
    return Number(/VmRSS:\s+(\d+)/.exec(await readFile(`/proc/${pid}/status`, 'utf8'))?.[1]) * 1024
  }

  /** The processes below its launcher whose command is one of those. */
  async processes(isWanted: (command: string) => boolean): Promise<number[]> {
    const parents = new Map<number, { parent: number; command: string }>()
    for (const pid of (await readdir('/proc')).filter((name) => /^\d+$/.test(name))) {
      const status = await readFile(`/proc/${pid}/status`, 'utf8').catch(() => '')
      const command = await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => '')
      parents.set(Number(pid), {
        parent: Number(/PPid:\t(\d+)/.exec(status)?.[1] ?? 0),
        command: command.replaceAll('\0', ' '),
      })
    }
    const isOurs = (pid: number): boolean =>
      pid === this.#launcher.pid || (parents.has(pid) && isOurs((parents.get(pid) as { parent: number }).parent))
    return [...parents].filter(([pid, { command }]) => isWanted(command) && isOurs(pid)).map(([pid]) => pid)
  }

  async stop(): Promise<void> {
    this.#launcher.kill('SIGTERM')
    while (this.#launcher.exitCode === null && this.#launcher.signalCode === null) await pause(50)
  }

  /** Stops it, and does away with what it kept: where root runs it, its database lies outside of the data folder. */
  async forget(): Promise<void> {
    await this.stop()
    const words = ['server/dist/launch/reset.js']
    const child = spawn(process.execPath, words, { cwd: project, env: this.#environment, stdio: 'ignore' })
    await once(child, 'exit')
  }
}

function freePort(): Promise<number> {
  return new Promise((done) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const address = server.address()
      server.close(() => done(typeof address === 'object' && address ? address.port : 0))
    })
  })
}
