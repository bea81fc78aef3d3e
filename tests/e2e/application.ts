/** The built application as processes: web server and worker, as `npm start` runs them. */
import { spawn, type ChildProcess } from 'node:child_process'
import { startTestServer } from '../database/testServer'

export interface Application {
  readonly url: string
  readonly databaseUrl: string
  readonly dataDir: string
  startWeb(): Promise<void>
  kill(part: 'web' | 'worker', signal: 'SIGKILL' | 'SIGTERM'): Promise<void>
  /** As where the database has ended, and is back. */
  letDatabaseAnswer(isAnswering: boolean): Promise<void>
  /** Whether it has ended by itself. */
  hasEnded(part: 'web' | 'worker'): boolean
  stop(): Promise<void>
}

export interface ApplicationOptions {
  readonly hasWorker?: boolean
  /** More settings. */
  readonly env?: NodeJS.ProcessEnv
}

export async function startApplication(
  port: number,
  { hasWorker = true, env: more = {} }: ApplicationOptions = {},
): Promise<Application> {
  const server = await startTestServer()
  const url = `http://127.0.0.1:${port}`
  const env = {
    ...process.env,
    NODE_ENV: 'production',
    DATABASE_URL: server.databaseUrl,
    FILLAGRANT_DATA: server.dataDir,
    FILLAGRANT_PORT: String(port),
    FILLAGRANT_LOG: 'warn',
    NO_LOG_SUCCESS: '1',
    ...more,
  }
  const parts: { web: ChildProcess | null; worker: ChildProcess | null } = { web: null, worker: null }
  const start = (part: string) =>
    spawn(process.execPath, ['--enable-source-maps', `build-node/${part}.mjs`], {
      env,
      stdio: ['ignore', 'ignore', 'inherit'],
    })

  async function startWeb(): Promise<void> {
    parts.web = start('web')
    for (const end = Date.now() + 30_000; Date.now() < end;) {
      const isHealthy = await fetch(`${url}/health`).then(
        (response) => response.ok,
        () => false,
      )
      if (isHealthy) return
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    throw new Error('the web server did not become healthy')
  }

  async function kill(part: 'web' | 'worker', signal: 'SIGKILL' | 'SIGTERM'): Promise<void> {
    const child = parts[part]
    parts[part] = null
    if (!child || child.exitCode !== null || child.signalCode !== null) return
    const ended = new Promise((resolve) => child.once('exit', resolve))
    child.kill(signal)
    await ended
  }

  await startWeb()
  if (hasWorker) parts.worker = start('worker')
  return {
    url,
    databaseUrl: server.databaseUrl,
    dataDir: server.dataDir,
    startWeb,
    kill,
    letDatabaseAnswer: server.letIn,
    hasEnded: (part) => parts[part]?.exitCode !== null || parts[part]?.signalCode !== null,
    async stop() {
      await kill('web', 'SIGTERM')
      await kill('worker', 'SIGTERM')
      await server.close()
    },
  }
}
