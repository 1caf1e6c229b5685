import { defineConfig } from '@playwright/test'

const port = Number(process.env.LUMBRIN_TEST_PORT ?? 4781)
const scratch = process.env.LUMBRIN_TEST_SCRATCH ?? `${import.meta.dirname}/.lumbrin`
export const data = process.env.LUMBRIN_TEST_DATA ?? `${scratch}/browser-test-${port}`
/** What a browser that was let in has. */
export const browserState = `${data}/browser.json`

// The sandboxed network has nothing beyond this computer, and the browser should not go looking for it.
const QUIET = ['--disable-quic', '--disable-background-networking', '--disable-component-update', '--disable-sync']

export default defineConfig({
  testDir: 'tests/browser',
  outputDir: `.lumbrin/browser-results-${port}`,
  workers: 1,
  // Machines may be crowded, and slow besides: a limit tells what hangs, not what is slow.
  timeout: 900_000,
  expect: { timeout: 180_000 },
  reporter: 'list',
  globalSetup: './tests/browser/enter.ts',
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    storageState: browserState,
    // What cannot be clicked is told as soon as what cannot be seen.
    actionTimeout: 180_000,
    // Requests that no page makes say that they are ours, as a page's do.
    extraHTTPHeaders: { origin: `http://127.0.0.1:${port}` },
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: QUIET },
  },
  projects: [
    { name: 'checks', testIgnore: ['screenshots.spec.ts', '*rounds*.spec.ts'] },
    // Each kind of source from its reading to a package. They take as long as all others, and run beside them.
    { name: 'rounds', testMatch: '*rounds*.spec.ts' },
    { name: 'screenshots', testMatch: 'screenshots.spec.ts' },
  ],
  // The application as a new user starts it.
  webServer: {
    command: `node scripts/demo.mjs --fresh ${process.env.LUMBRIN_TEST_DEMO ?? ''}`,
    // Every answer is held against its contract. Clocks are an hour or two away from UTC, so that it shows where one passes
    // for the other.
    env: { TZ: 'Europe/Vienna', LUMBRIN_DATA: data, LUMBRIN_PORT: String(port), LUMBRIN_CHECK_ANSWERS: 'yes' },
    url: `http://127.0.0.1:${port}/`,
    timeout: 600_000,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 15_000 },
    stdout: 'ignore',
    stderr: 'pipe',
  },
})
