/** Starts the built application on a database and a data folder of its own, and a worker. */
import { startApplication } from './application'

export default async function globalSetup(): Promise<() => Promise<void>> {
  const application = await startApplication(4391)
  process.env['FILLAGRANT_TEST_URL'] = application.url
  process.env['FILLAGRANT_TEST_DATABASE'] = application.databaseUrl
  process.env['FILLAGRANT_TEST_DATA'] = application.dataDir
  return () => application.stop()
}
