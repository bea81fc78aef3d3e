import { existsSync } from 'node:fs'
import { defineConfig } from '@playwright/test'

/** Debian's headless shell draws no window that nobody sees; where it is not packaged, Chromium itself. */
const SHELL = '/usr/bin/chromium-headless-shell'

export default defineConfig({
  testDir: 'tests/e2e',
  // Most of a test is waiting for the page: two of them fill two cores.
  workers: 2,
  timeout: 180_000,
  expect: { timeout: 30_000 },
  reporter: [['list']],
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: existsSync(SHELL) ? SHELL : '/usr/bin/chromium' },
    trace: 'off',
    acceptDownloads: true,
  },
})
