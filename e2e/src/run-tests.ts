import { spawn } from 'node:child_process'
import { mkdir, readFile, rm, writeFile } from 'node:fs/promises'
import { join, resolve } from 'node:path'

/** Runs every check and test of the project and ends with one line that counts them. */
const project = resolve(import.meta.dirname, '../..')
const results = join(project, 'test-results')
const bin = (name: string): string => join(project, 'node_modules/.bin', name)

interface Count {
  passed: number
  failed: number
}

function run(command: string, args: readonly string[], environment: NodeJS.ProcessEnv = {}, isQuiet = false): Promise<number> {
  return new Promise((done) => {
    const child = spawn(command, args, {
      cwd: project,
      env: { ...process.env, ...environment },
      stdio: ['ignore', isQuiet ? 'ignore' : 'inherit', isQuiet ? 'ignore' : 'inherit'],
    })
    child.on('error', () => done(127))
    child.on('exit', (code) => done(code ?? 1))
  })
}

async function check(title: string, work: () => Promise<number>): Promise<Count> {
  console.log(`\n— ${title}`)
  return (await work()) === 0 ? { passed: 1, failed: 0 } : { passed: 0, failed: 1 }
}

/** The import check must be able to fail: two forbidden imports are planted and have to be found. */
async function plantedImportsAreFound(): Promise<number> {
  const planted = [
    [join(project, 'core/src/planted.ts'), "import { readFileSync } from 'node:fs'\nexport const planted = readFileSync\n"],
    [join(project, 'web/src/planted.ts'), "import type { Config } from '../../server/src/config.ts'\nexport type Planted = Config\n"],
  ] as const
  try {
    for (const [path, text] of planted) await writeFile(path, text)
    const code = await run(bin('depcruise'), ['--config', '.dependency-cruiser.cjs', 'core/src/planted.ts', 'web/src/planted.ts'], {}, true)
    if (code !== 2) console.log(`Two forbidden imports were planted and ${code} found.`)
    return code === 2 ? 0 : 1
  } finally {
    for (const [path] of planted) await rm(path, { force: true })
  }
}

async function jest(): Promise<Count> {
  console.log('\n— Jest: core, then the server against the real database and the real encoder')
  const output = join(results, 'jest.json')
  await run(bin('jest'), ['--json', `--outputFile=${output}`], { NODE_OPTIONS: '--experimental-vm-modules --no-warnings' })
  const report = await readReport(output)
  if (!report) return { passed: 0, failed: 1 }
  const broken = report.testResults.filter(
    (file: { status: string; assertionResults: unknown[] }) => file.status === 'failed' && file.assertionResults.length === 0,
  ).length
  return { passed: report.numPassedTests, failed: report.numFailedTests + broken }
}

async function playwright(): Promise<Count> {
  console.log('\n— Playwright: the interface against a started app')
  await run(bin('playwright'), ['test', '--config', 'e2e/playwright.config.ts'])
  const report = await readReport(join(results, 'playwright.json'))
  if (!report) return { passed: 0, failed: 1 }
  const { expected, unexpected, flaky, skipped } = report.stats
  return { passed: expected + flaky, failed: unexpected + skipped + report.errors.length }
}

const readReport = async (path: string) => JSON.parse(await readFile(path, 'utf8').catch(() => 'null'))

await rm(results, { recursive: true, force: true })
await mkdir(results, { recursive: true })
const counts = [
  await check('Lint', () => run(bin('biome'), ['check', '.', '--error-on-warnings'])),
  await check('Types', () => run(bin('tsc'), ['--noEmit', '-p', '.'])),
  await check('Imports', () =>
    run(bin('depcruise'), ['--config', '.dependency-cruiser.cjs', 'core', 'contract', 'server', 'web', 'standins', 'e2e']),
  ),
  await check('Imports: planted ones are found', plantedImportsAreFound),
  await check('Unused code', () => run(bin('knip'), ['--no-progress'])),
  await jest(),
  await playwright(),
]
const passed = counts.reduce((sum, count) => sum + count.passed, 0)
const failed = counts.reduce((sum, count) => sum + count.failed, 0)
console.log(`\n${passed} passed, ${failed} failed`)
process.exitCode = failed === 0 ? 0 : 1
