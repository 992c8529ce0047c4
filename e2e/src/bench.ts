import { type ChildProcess, spawn } from 'node:child_process'
import { copyFile, mkdir, mkdtemp, readdir, readFile, rm } from 'node:fs/promises'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'

/** Speed, as ratios measured in one run, each against a bare command that does the same work. */
interface Result {
  readonly id: string
  readonly what: string
  readonly ratio: number
  readonly limit: number
}

const project = resolve(import.meta.dirname, '../..')
const isJson = process.argv.includes('--json')
const only = process.argv.includes('--only') ? (process.argv[process.argv.indexOf('--only') + 1] ?? null) : null
const say = (text: string): void => {
  if (!isJson) console.log(text)
}
const pause = (milliseconds: number) => new Promise((done) => setTimeout(done, milliseconds))

function run(command: string, args: readonly string[]): Promise<number> {
  return new Promise((done, fail) => {
    const child = spawn(command, args, { stdio: 'ignore' })
    child.on('error', fail)
    child.on('exit', (code) => done(code ?? 1))
  })
}

async function secondsOf(work: () => Promise<unknown>): Promise<number> {
  const start = process.hrtime.bigint()
  await work()
  return Number(process.hrtime.bigint() - start) / 1e9
}

/** Runs two things by turns, so that a busy machine slows both alike, and compares the quickest of each. */
async function compare(times: number, ours: () => Promise<number>, bare: () => Promise<number>): Promise<number> {
  const quickest = { ours: Number.POSITIVE_INFINITY, bare: Number.POSITIVE_INFINITY }
  for (let turn = 0; turn < times; turn++) {
    quickest.ours = Math.min(quickest.ours, await ours())
    quickest.bare = Math.min(quickest.bare, await bare())
    say(`  turn ${turn + 1}: Ennick ${quickest.ours.toFixed(2)} s, bare ${quickest.bare.toFixed(2)} s at best`)
  }
  return quickest.ours / quickest.bare
}

class Ennick {
  readonly #url: string
  readonly #launcher: ChildProcess
  constructor(url: string, launcher: ChildProcess) {
    this.#url = url
    this.#launcher = launcher
  }

  static async start(folder: string): Promise<Ennick> {
    const port = await freePort()
    const url = `http://127.0.0.1:${port}`
    const environment = { ...process.env, ENNICK_DATA: join(folder, 'data'), ENNICK_PORT: String(port), ENNICK_ROOTS: folder }
    const launcher = spawn(process.execPath, ['--import', 'tsx', 'server/src/launch/start.ts', '--no-demo'], {
      cwd: project,
      env: environment,
      stdio: ['ignore', 'ignore', 'inherit'],
    })
    for (;;) {
      const health = await fetch(`${url}/api/health`).then(
        (answer) => answer.json(),
        () => null,
      )
      if (health?.workers > 0) return new Ennick(url, launcher)
      if (launcher.exitCode !== null) throw new Error('Ennick did not start.')
      await pause(100)
    }
  }

  // biome-ignore lint/suspicious/noExplicitAny: the bench reads the API from outside, as any client would
  async call(method: string, path: string, body?: object): Promise<any> {
    const response = await fetch(`${this.#url}/api${path}`, {
      method,
      ...(body ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {}),
    })
    const answer = await response.json()
    if (!response.ok) throw new Error(answer.message)
    return answer
  }

  /** Waits as the interface does: by the stream of changes, without asking all the time. */
  async jobEnd(jobId: string): Promise<void> {
    const stop = new AbortController()
    const changes = await fetch(`${this.#url}/api/changes`, { signal: stop.signal })
    try {
      for await (const _ of changes.body as unknown as AsyncIterable<Uint8Array>) {
        const job = await this.call('GET', `/jobs/${jobId}`)
        if (job.state === 'done') return
        if (job.state === 'failed' || job.state === 'cancelled') throw new Error(job.error)
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
    return (await this.call('POST', `/productions/${productionId}/volumes`, { label: rootPath.split('/').at(-1), kind: 'drive', rootPath }))
      .id
  }

  async scan(volumeId: string): Promise<void> {
    await this.jobEnd((await this.call('POST', `/volumes/${volumeId}/scan`)).id)
  }

  /** The resident memory of the server process, in bytes. */
  async serverMemory(): Promise<number> {
    for (const pid of (await readdir('/proc')).filter((name) => /^\d+$/.test(name))) {
      const status = await readFile(`/proc/${pid}/status`, 'utf8').catch(() => '')
      const command = await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => '')
      if (command.includes('main-server.ts') && status.includes(`PPid:\t${this.#launcher.pid}`))
        return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1]) * 1024
    }
    throw new Error('The server process was not found.')
  }

  async stop(): Promise<void> {
    this.#launcher.kill('SIGTERM')
    while (this.#launcher.exitCode === null && this.#launcher.signalCode === null) await pause(50)
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

/** The encoder's command while it runs, word by word. */
async function runningEncoder(): Promise<string[] | null> {
  for (const pid of (await readdir('/proc')).filter((name) => /^\d+$/.test(name))) {
    const words = (await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => '')).split('\0').slice(0, -1)
    if (words[0]?.endsWith('ffmpeg') && words.some((word) => word.includes('.ennick-part'))) return words
  }
  return null
}

async function benchMake(ennick: Ennick, folder: string): Promise<Result> {
  say('Making a proxy of a 20-second clip')
  const source = join(folder, 'make/clip.mov')
  await mkdir(join(folder, 'make'), { recursive: true })
  // Grain, as a camera's picture has it: a smooth test picture is decoded and encoded in no time, which no recording is.
  const inputs = [
    '-f',
    'lavfi',
    '-i',
    'testsrc2=s=1920x1080:r=25,noise=alls=10:allf=t,trim=end_frame=500',
    '-f',
    'lavfi',
    '-i',
    'sine=f=200:r=48000,atrim=end_sample=960000',
  ]
  await run('ffmpeg', [
    '-v',
    'error',
    '-y',
    ...inputs,
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-c:a',
    'pcm_s24le',
    '-timecode',
    '10:00:00:00',
    '-metadata:s:v:0',
    'reel_name=A001',
    source,
  ])
  let words: string[] | null = null
  let turn = 0
  const ours = async (): Promise<number> => {
    const productionId = await ennick.newProduction()
    await ennick.scan(await ennick.addVolume(productionId, join(folder, 'make')))
    const [clip] = await ennick.call('GET', `/productions/${productionId}/clips`)
    return secondsOf(async () => {
      const { jobs } = await ennick.call('POST', `/productions/${productionId}/make`, { clipIds: [clip.id], recipeId: 'half-h264-intra' })
      if (words === null) {
        while (words === null) words = await runningEncoder()
      }
      await ennick.jobEnd(jobs[0].id)
    })
  }
  const bare = async (): Promise<number> => {
    const output = join(folder, `bare-${turn++}.mov`)
    const args = (words as string[]).slice(1).map((word) => (word.includes('.ennick-part') ? `file:${output}` : word))
    return secondsOf(() => run('ffmpeg', args))
  }
  return {
    id: 'make',
    what: 'A proxy through Ennick, queue and verification and all, against the encoder alone',
    ratio: await compare(6, ours, bare),
    limit: 1.1,
  }
}

const scanFiles = 300

async function benchScan(ennick: Ennick, folder: string): Promise<Result[]> {
  say(`Scanning ${scanFiles} files`)
  const card = join(folder, 'card')
  await mkdir(card, { recursive: true })
  const first = join(card, 'clip0000.mov')
  await run('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    'testsrc2=s=320x180:r=25,trim=end_frame=10',
    '-c:v',
    'mjpeg',
    '-pix_fmt',
    'yuvj420p',
    '-timecode',
    '10:00:00:00',
    first,
  ])
  const files = [first]
  for (let number = 1; number < scanFiles; number++) {
    const path = join(card, `clip${String(number).padStart(4, '0')}.mov`)
    await copyFile(first, path)
    files.push(path)
  }
  let volumeId = ''
  let firstScan = Number.POSITIVE_INFINITY
  const ours = async (): Promise<number> => {
    volumeId = await ennick.addVolume(await ennick.newProduction(), card)
    const seconds = await secondsOf(() => ennick.scan(volumeId))
    firstScan = Math.min(firstScan, seconds)
    return seconds
  }
  const bare = (): Promise<number> =>
    secondsOf(async () => {
      const rest = [...files]
      const lane = async (): Promise<void> => {
        for (let path = rest.pop(); path !== undefined; path = rest.pop())
          await run('ffprobe', ['-v', 'error', '-of', 'json', '-show_format', '-show_streams', '-i', `file:${path}`])
      }
      await Promise.all([lane(), lane()])
    })
  const ratio = await compare(2, ours, bare)
  let again = Number.POSITIVE_INFINITY
  for (let turn = 0; turn < 3; turn++) again = Math.min(again, await secondsOf(() => ennick.scan(volumeId)))
  return [
    { id: 'scan', what: `A first scan of ${scanFiles} files against the probe run bare, two at a time`, ratio, limit: 1.25 },
    { id: 'rescan', what: 'A scan of the same files, unchanged, against their first scan', ratio: again / firstScan, limit: 0.02 },
  ]
}

async function benchMemory(ennick: Ennick): Promise<Result> {
  say('Memory of the idle server')
  await pause(3000)
  return { id: 'memory', what: 'Resident memory of the idle server against 250 MB', ratio: (await ennick.serverMemory()) / 250e6, limit: 1 }
}

const folder = await mkdtemp(join(tmpdir(), 'ennick-bench-'))
const ennick = await Ennick.start(folder)
const results: Result[] = []
try {
  const wants = (...ids: string[]): boolean => only === null || ids.includes(only)
  if (wants('memory')) results.push(await benchMemory(ennick))
  if (wants('make')) results.push(await benchMake(ennick, folder))
  if (wants('scan', 'rescan')) results.push(...(await benchScan(ennick, folder)).filter((result) => wants(result.id)))
} finally {
  await ennick.stop()
  await rm(folder, { recursive: true, force: true })
}
if (isJson) console.log(JSON.stringify(results.map(({ id, ratio, limit }) => ({ id, ratio: Number(ratio.toFixed(3)), limit }))))
else {
  console.log(`\n${'id'.padEnd(8)} ${'ratio'.padStart(7)} ${'limit'.padStart(6)}  what`)
  for (const { id, ratio, limit, what } of results)
    console.log(
      `${id.padEnd(8)} ${ratio.toFixed(3).padStart(7)} ${String(limit).padStart(6)}  ${what}${ratio > limit ? '  — over its limit' : ''}`,
    )
}
process.exitCode = results.every((result) => result.ratio <= result.limit) ? 0 : 1
