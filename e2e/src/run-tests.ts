import { spawn } from 'node:child_process'
import { mkdir, mkdtemp, open, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join, relative, resolve } from 'node:path'
import { stripVTControlCharacters } from 'node:util'

/** Runs every check and test of the project and ends with one line that counts them. */
const project = resolve(import.meta.dirname, '../..')
const results = join(project, 'test-results')
const bin = (name: string): string => join(project, 'node_modules/.bin', name)

interface Count {
  passed: number
  failed: number
}

function run(
  command: string,
  args: readonly string[],
  environment: NodeJS.ProcessEnv = {},
  output: 'inherit' | 'ignore' | number = 'inherit',
): Promise<number> {
  return new Promise((done) => {
    const child = spawn(command, args, {
      cwd: project,
      env: { ...process.env, ...environment },
      stdio: ['ignore', output, output],
    })
    child.on('error', () => done(127))
    child.on('exit', (code) => done(code ?? 1))
  })
}

async function runInto(
  log: string,
  command: string,
  args: readonly string[],
  environment: NodeJS.ProcessEnv = {},
): Promise<number> {
  const file = await open(log, 'w')
  try {
    return await run(command, args, environment, file.fd)
  } finally {
    await file.close()
  }
}

/** What failed and how, for the end of the run: the middle of a long one is often cut out where it is read. */
const failures: string[] = []
const linesOfAFailure = 16

function noteFailure(what: string, message = ''): void {
  const lines = stripVTControlCharacters(message)
    .split('\n')
    .filter((line) => line.trim() !== '')
  failures.push([what, ...lines.slice(0, linesOfAFailure).map((line) => `    ${line}`)].join('\n'))
}

const countOf = (code: number): Count => (code === 0 ? { passed: 1, failed: 0 } : { passed: 0, failed: 1 })

async function check(title: string, work: () => Promise<number>): Promise<Count> {
  console.log(`\n— ${title}`)
  const code = await work()
  if (code !== 0) noteFailure(title)
  return countOf(code)
}

/** Checks that each keep one processor busy, at once; what each says is shown when it has ended, one after another. */
async function checks(all: readonly { title: string; name: string; args: readonly string[] }[]): Promise<Count[]> {
  const logOf = (name: string): string => join(results, `${name}.log`)
  const running = all.map(({ name, args }) => runInto(logOf(name), bin(name), args))
  const counts: Count[] = []
  for (const [index, { title, name }] of all.entries()) {
    counts.push(await check(title, () => running[index] as Promise<number>))
    process.stdout.write(await readFile(logOf(name), 'utf8'))
  }
  return counts
}

/** The import check must be able to fail: three forbidden imports are planted and have to be found. */
async function plantedImportsAreFound(): Promise<number> {
  const planted = [
    [
      join(project, 'core/src/planted.ts'),
      "import { readFileSync } from 'node:fs'\nexport const planted = readFileSync\n",
    ],
    [
      join(project, 'web/src/planted.ts'),
      "import type { Config } from '../../server/src/config.ts'\nexport type Planted = Config\n",
    ],
    [
      join(project, 'server/src/clips/planted.ts'),
      "import { presentCut } from '../cuts/present.ts'\nexport const planted = presentCut\n",
    ],
  ] as const
  try {
    for (const [path, text] of planted) await writeFile(path, text)
    const code = await run(
      bin('depcruise'),
      ['--config', '.dependency-cruiser.cjs', ...planted.map(([path]) => relative(project, path))],
      {},
      'ignore',
    )
    if (code !== planted.length) console.log(`${planted.length} forbidden imports were planted and ${code} found.`)
    return code === planted.length ? 0 : 1
  } finally {
    for (const [path] of planted) await rm(path, { force: true })
  }
}

interface JestFile {
  readonly name: string
  readonly status: string
  readonly message: string
  readonly assertionResults: readonly { status: string; fullName: string; failureMessages: string[] }[]
}

async function jest(): Promise<Count> {
  console.log('\n— Jest: core, then the server against the real database and the real encoder')
  const output = join(results, 'jest.json')
  await run(bin('jest'), ['--json', `--outputFile=${output}`], {
    NODE_OPTIONS: '--experimental-vm-modules --no-warnings',
  })
  const report = await readReport(output)
  if (!report) {
    noteFailure('Jest wrote no report')
    return { passed: 0, failed: 1 }
  }
  for (const file of report.testResults as JestFile[]) {
    const name = relative(project, file.name)
    if (file.status === 'failed' && file.assertionResults.length === 0) noteFailure(name, file.message)
    for (const { status, fullName, failureMessages } of file.assertionResults)
      if (status === 'failed') noteFailure(`${name}: ${fullName}`, failureMessages[0])
  }
  const broken = report.testResults.filter(
    (file: JestFile) => file.status === 'failed' && file.assertionResults.length === 0,
  ).length
  return { passed: report.numPassedTests, failed: report.numFailedTests + broken }
}

/** The interface is walked in two halves at once, each with an Ennick of its own. */
const walks = (await readdir(join(project, 'e2e/src'))).filter((name) => name.endsWith('.spec.ts'))
const wrangling = ['lost-on-card', 'receive', 'wrangle', 'write-recipes', 'zero-findings'].map(
  (name) => `${name}.spec.ts`,
)
const halves = [
  // What is looked at in the background is walked in one of them: the others need not do the same work again.
  { name: 'wrangle', port: 4690, files: wrangling, looks: 'no' },
  { name: 'thread', port: 4691, files: walks.filter((name) => !wrangling.includes(name)), looks: 'yes' },
]

interface WalkSuite {
  readonly file: string
  readonly suites?: readonly WalkSuite[]
  readonly specs: readonly {
    readonly title: string
    readonly tests: readonly { readonly results: readonly { readonly errors: readonly { message?: string }[] }[] }[]
  }[]
}

function noteWalks({ file, suites = [], specs }: WalkSuite): void {
  for (const suite of suites) noteWalks(suite)
  for (const { title, tests } of specs)
    for (const { message } of tests.flatMap((test) => test.results.flatMap((result) => result.errors)))
      noteFailure(`${file}: ${title}`, message)
}

async function playwright({ name, port, files, looks }: (typeof halves)[number]): Promise<Count> {
  const data = await mkdtemp(join(tmpdir(), 'ennick-e2e-'))
  await runInto(
    join(results, `${name}.log`),
    bin('playwright'),
    ['test', '--config', 'e2e/playwright.config.ts', ...files],
    {
      ENNICK_TEST_PORT: String(port),
      ENNICK_TEST_DATA: data,
      ENNICK_TEST_RESULTS: join(results, name),
      ENNICK_LOOK: looks,
    },
  )
  await run(process.execPath, ['server/dist/launch/reset.js'], { ENNICK_DATA: data }, 'ignore')
  await rm(data, { recursive: true, force: true })
  const report = await readReport(join(results, name, 'report.json'))
  if (!report) {
    noteFailure(`The walks of ${name} wrote no report`)
    return { passed: 0, failed: 1 }
  }
  for (const suite of report.suites as WalkSuite[]) noteWalks(suite)
  const { expected, unexpected, flaky, skipped } = report.stats
  return { passed: expected + flaky, failed: unexpected + skipped + report.errors.length }
}

/** The torment waits much of its time: it goes on beside the browsers. What each says is shown when all have ended. */
async function playwrightAndTorment(): Promise<Count[]> {
  console.log('\n— Playwright: the interface against a started app, and beside it the torment')
  const torment = runInto(
    join(results, 'torment.log'),
    process.execPath,
    ['--import', 'tsx', 'e2e/src/torment.ts', '--rounds', '6', '--steps', '180'],
    { ENNICK_LOOK: 'no' },
  )
  const [first, second] = halves as [(typeof halves)[number], (typeof halves)[number]]
  const walk = { hasEnded: false, count: playwright(first) }
  void walk.count.then(() => {
    walk.hasEnded = true
  })
  // The first one draws the demo's pictures, which the second finds drawn.
  while (!walk.hasEnded && !(await fetch(`http://127.0.0.1:${first.port}/api/health`).catch(() => null))?.ok)
    await new Promise((resolve) => setTimeout(resolve, 500))
  const walked = [walk.count, playwright(second)]
  for (const half of halves) {
    await walked[halves.indexOf(half)]
    console.log(await readFile(join(results, `${half.name}.log`), 'utf8'))
  }
  const tormented = await check(
    'Torment: six rounds of kills, freezes and things in the way, and 180 steps taken back',
    () => torment,
  )
  console.log(await readFile(join(results, 'torment.log'), 'utf8'))
  return [...(await Promise.all(walked)), tormented]
}

const readReport = async (path: string) => JSON.parse(await readFile(path, 'utf8').catch(() => 'null'))

await rm(results, { recursive: true, force: true })
await mkdir(results, { recursive: true })
const counts = [
  ...(await checks([
    { title: 'Lint', name: 'biome', args: ['check', '.', '--error-on-warnings'] },
    { title: 'Types', name: 'tsc', args: ['--noEmit', '-p', '.'] },
    {
      ...{ title: 'Imports', name: 'depcruise' },
      args: ['--config', '.dependency-cruiser.cjs', ...['core', 'contract', 'server', 'web', 'standins', 'e2e']],
    },
    { title: 'Unused code', name: 'knip', args: ['--no-progress'] },
  ])),
  // Behind the others, which would take what is planted for the project's own.
  await check('Imports: planted ones are found', plantedImportsAreFound),
  await jest(),
  ...(await playwrightAndTorment()),
]
const passed = counts.reduce((sum, count) => sum + count.passed, 0)
const failed = counts.reduce((sum, count) => sum + count.failed, 0)
if (failures.length) console.log(`\n— What failed\n${failures.join('\n')}`)
console.log(`\n${passed} passed, ${failed} failed`)
process.exitCode = failed === 0 ? 0 : 1
