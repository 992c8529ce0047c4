import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { defineConfig } from '@playwright/test'

const project = resolve(import.meta.dirname, '..')
const port = Number(process.env.ENNICK_TEST_PORT || 4690)
const results = process.env.ENNICK_TEST_RESULTS || join(project, 'test-results/playwright')
// Workers of the test runner read this file again: they must find the folder that the first one named. Whoever only
// reads it makes none.
process.env.ENNICK_TEST_DATA ??= join(tmpdir(), `ennick-e2e-${Date.now()}-${process.pid}`)

export default defineConfig({
  testDir: 'src',
  testMatch: '*.spec.ts',
  workers: 1,
  fullyParallel: false,
  // A loaded machine makes everything slow and nothing wrong: what is waited for is waited for long.
  timeout: 600_000,
  expect: { timeout: 120_000 },
  reporter: [['list'], ['json', { outputFile: join(results, 'report.json') }]],
  outputDir: join(results, 'shots'),
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    actionTimeout: 120_000,
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
  webServer: {
    command: 'node server/dist/launch/start.js',
    cwd: project,
    url: `http://127.0.0.1:${port}/api/health`,
    timeout: 600_000,
    stdout: 'pipe',
    gracefulShutdown: { signal: 'SIGTERM', timeout: 20_000 },
    env: {
      ENNICK_PORT: String(port),
      ENNICK_DATA: process.env.ENNICK_TEST_DATA,
      ENNICK_CACHE: join(project, 'node_modules/.cache/ennick'),
    },
  },
})
