import { defineConfig } from '@playwright/test'

export default defineConfig({
  testDir: 'tests/e2e',
  workers: 1,
  timeout: 180_000,
  expect: { timeout: 15_000 },
  reporter: [['list']],
  globalSetup: './tests/e2e/globalSetup.ts',
  use: {
    baseURL: process.env['FILLAGRANT_TEST_URL'] ?? 'http://127.0.0.1:4391',
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: '/usr/bin/chromium' },
    trace: 'off',
    acceptDownloads: true,
  },
})
