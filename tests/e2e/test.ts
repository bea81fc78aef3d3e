/** Every worker has the built application for itself, with a database of its own: files of tests run beside each other. */
import { test as base } from '@playwright/test'
import { startApplication, type Application } from './application'

interface Choices {
  /** Whether the bench fills frames before they are looked at: off, so that two tests beside each other have the cores for what they look at. */
  readonly fillsAhead: boolean
}

const FIRST_PORT = 4391

export const test = base.extend<Choices, { readonly application: Application }>({
  application: [
    async ({ browserName: _browserName }, use, { parallelIndex }) => {
      const application = await startApplication(FIRST_PORT + parallelIndex)
      process.env['FILLAGRANT_TEST_DATABASE'] = application.databaseUrl
      process.env['FILLAGRANT_TEST_DATA'] = application.dataDir
      await use(application)
      await application.stop()
    },
    { scope: 'worker', auto: true, timeout: 60_000 },
  ],
  fillsAhead: [false, { option: true }],
  context: async ({ context, fillsAhead }, give) => {
    const stored = JSON.stringify({ state: { fillsAhead }, version: 0 })
    await context.addInitScript((choice) => localStorage.setItem('fillagrant-ahead', choice), stored)
    await give(context)
  },
  baseURL: ({ application }, give) => give(application.url),
})

export { expect, type Page } from '@playwright/test'
