/** Every worker has the built application for itself, with a database of its own: files of tests run beside each other. */
import { test as base } from '@playwright/test'
import { startApplication, type Application } from './application'

const FIRST_PORT = 4391

export const test = base.extend<object, { readonly application: Application }>({
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
  baseURL: ({ application }, give) => give(application.url),
})

export { expect, type Page } from '@playwright/test'
