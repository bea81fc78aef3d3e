import { defineConfig } from '@playwright/test'
import { BROWSER_PATH } from './tests/browserPath'

export default defineConfig({
  testDir: 'tests/e2e',
  // Most of a test is waiting for the page: two of them fill two cores.
  workers: 2,
  // One patience for all that is waited for, well beyond a slow machine's need: how long things take is the bench's business.
  timeout: 400_000,
  expect: { timeout: Number(process.env['PATIENCE_MS'] ?? 180_000) },
  reporter: [['list']],
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: BROWSER_PATH },
    trace: 'off',
    acceptDownloads: true,
  },
})
