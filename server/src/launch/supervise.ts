import { type ChildProcess, spawn } from 'node:child_process'
import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { within } from '../disk/answering.ts'
import { programOf } from '../program.ts'

const projectFolder = fileURLToPath(new URL('../../..', import.meta.url))
/** A child ends when its launcher does, however that ended (Linux). */
const leash = existsSync('/usr/bin/setpriv') ? ['/usr/bin/setpriv', '--pdeathsig', 'SIGTERM'] : []

/** Keeps one program running: started again a second after it ends, until it is stopped. */
export class Supervised {
  readonly #script: string
  readonly #environment: NodeJS.ProcessEnv
  #child: ChildProcess | null = null
  #stopped = false
  #timer: NodeJS.Timeout | null = null

  /** @param script a main module of the server, below server/src, without its ending */
  constructor(script: string, environment: NodeJS.ProcessEnv) {
    this.#script = script
    this.#environment = environment
  }

  start(): void {
    const [program = process.execPath, ...args] = [...leash, process.execPath, programOf(this.#script)]
    const child = spawn(program, args, {
      cwd: projectFolder,
      env: this.#environment,
      stdio: ['ignore', 'inherit', 'inherit'],
    })
    this.#child = child
    child.on('exit', (code, signal) => {
      if (this.#stopped) return
      this.#timer = setTimeout(() => {
        console.error(`${this.#script} ended (${signal ?? code}) and is started again.`)
        this.start()
      }, 1000)
    })
  }

  async stop(): Promise<void> {
    this.#stopped = true
    if (this.#timer) clearTimeout(this.#timer)
    const child = this.#child
    if (!child || child.exitCode !== null || child.signalCode !== null) return
    const ended = new Promise((resolve) => child.on('exit', resolve))
    child.kill('SIGTERM')
    const force = setTimeout(() => child.kill('SIGKILL'), 8000)
    // Some disks that hang hold a process beyond its end: the system does away with it when they answer.
    if (!(await within(20, ended))) {
      console.error(`${this.#script} has ended, but for a question to a disk that does not answer. It is left to that.`)
      child.unref()
    }
    clearTimeout(force)
  }
}
