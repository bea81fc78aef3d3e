/**
 * Runs the parts of an installation and keeps them running: the database, the web server, a worker. Started by
 * `npm start`, which holds the lock of the data folder for as long as this process lives.
 *
 * `--check` only looks whether the settings can be used, before anything is made.
 */
import { spawn } from 'node:child_process'
import { chmodSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { once } from 'node:events'
import { setTimeout as sleep } from 'node:timers/promises'
import { readConfig, type Config } from '../config.server'
import { ROOT } from '../root.server'
import { keepRunning, type KeptProcess, type KeptProgram } from './keptProcess'
import { ownDatabase, untilAnswers } from './postgres'

const say = (words: string) => void process.stderr.write(`${words}\n`)

const HEALTH_EVERY_MS = 2_000
const ANSWER_MS = 5_000
/** A web server that has not answered so often is stuck. */
const UNANSWERED = 6
const START_MS = 60_000
/** How long the job at hand may go on when we stop. Cut off, it is done again by the next start. */
const LAST_JOB_MS = 20_000
const WEB_END_MS = 5_000
const DATABASE_END_MS = 60_000

/** `no`: without the demo film. */
const hasDemo = process.env['FILLAGRANT_DEMO'] !== 'no'

let isStopping = false

/** Settings that cannot be used are told before anything has been made. */
function settings(): Config {
  try {
    return readConfig({ DATABASE_URL: 'made by this start', ...process.env })
  } catch (cause) {
    say(cause instanceof Error ? cause.message : String(cause))
    process.exit(1)
  }
}

const config = settings()
if (process.argv.includes('--check')) process.exit(0)

/** Footage is nobody else's on this machine: whoever it is started by, and folders of earlier releases too. */
process.umask(0o077)
for (const name of ['frames', 'uploads', 'versions', 'mattes', 'marks', 'looks', 'results', 'bin']) {
  const folder = join(config.dataDir, name)
  if (existsSync(folder)) chmodSync(folder, 0o700)
}

const begun = Date.now()
const logs = join(config.dataDir, 'logs')
mkdirSync(logs, { recursive: true, mode: 0o700 })
const logOf = (part: string) => join(logs, `${part}.log`)
const kept: Partial<Record<'database' | 'web' | 'worker', KeptProcess>> = {}

/** Written down for who starts a second time, and for programs started by hand. */
function tellWhere(): void {
  const parts = Object.entries(kept).map(([part, one]) => `${part} ${one.pid}`)
  writeFileSync(join(config.dataDir, 'running'), [process.pid, addressOf(config), ...parts, ''].join('\n'))
}

/** Addresses that mean *every address of this machine* are not asked themselves. */
function addressOf({ host, port }: Pick<Config, 'host' | 'port'>): string {
  const asked = host === '0.0.0.0' ? '127.0.0.1' : host === '::' ? '::1' : host
  return `http://${asked.includes(':') ? `[${asked}]` : asked}:${port}`
}

async function stop(code: number): Promise<never> {
  if (isStopping) return new Promise(() => undefined)
  isStopping = true
  say('Stopping…')
  await Promise.all([kept.web?.stop(WEB_END_MS), kept.worker?.stop(LAST_JOB_MS)])
  await kept.database?.stop(DATABASE_END_MS)
  say(`Stopped. Everything is kept in ${config.dataDir}.`)
  process.exit(code)
}
process.on('SIGINT', () => void stop(0))
process.on('SIGTERM', () => void stop(0))
process.on('SIGHUP', () => void stop(0))

/** Runs a program of ours once. @throws Error with how it ended. */
async function runOnce(name: string, args: readonly string[], env: NodeJS.ProcessEnv): Promise<void> {
  const child = spawn(process.execPath, [join(ROOT, `build-node/${name}.mjs`), ...args], { env, stdio: ['ignore', 2, 2] }) // prettier-ignore
  const [code] = (await once(child, 'exit')) as [number | null]
  if (code !== 0) throw new Error(`${name} has failed (${code ?? 'killed'}).`)
}

async function isHealthy(): Promise<boolean> {
  try {
    // 503: it answers, and says that the database does not; that one is looked after by itself.
    const response = await fetch(`${addressOf(config)}/health`, { signal: AbortSignal.timeout(ANSWER_MS) })
    return response.status === 200 || response.status === 503
  } catch {
    return false
  }
}

/** The last lines that a part has written. */
const lastWords = (part: string): string =>
  readFileSync(logOf(part), 'utf8').split('\n').slice(-20).join('\n')

async function watch(): Promise<void> {
  for (let unanswered = 0; !isStopping;) {
    await sleep(HEALTH_EVERY_MS)
    unanswered = (await isHealthy()) ? 0 : unanswered + 1
    if (unanswered < UNANSWERED || isStopping) continue
    kept.web!.restart('it does not answer.')
    unanswered = 0
  }
}

async function run(): Promise<void> {
  let databaseUrl = process.env['DATABASE_URL']
  if (!databaseUrl) {
    const [place, binaries] = [process.env['FILLAGRANT_PG_PLACE'], process.env['FILLAGRANT_PG_BIN']]
    if (!place || !binaries) throw new Error('Start with npm start: it makes the database.')
    const own = await ownDatabase(place, binaries, join(place, 'server.log'))
    kept.database = keepRunning(own.program, say, tellWhere)
    databaseUrl = own.address
  }
  await untilAnswers(databaseUrl, () => isStopping)
  const env = {
    ...process.env,
    DATABASE_URL: databaseUrl,
    FILLAGRANT_DATA: config.dataDir,
    NODE_ENV: 'production',
  }
  await runOnce('migrate', hasDemo ? [join(config.dataDir, 'demo')] : [], env)
  if (config.needsSignIn) await runOnce('people', ['first'], env)
  if (isStopping) return
  const part = (name: 'web' | 'worker', title: string): KeptProgram => ({
    title,
    command: process.execPath,
    args: ['--enable-source-maps', join(ROOT, `build-node/${name}.mjs`)],
    env,
    logFile: logOf(name),
    endsWith: 'SIGTERM',
    orphanedWith: 'KILL', // whatever it was doing goes on from what is stored
    saysAlive: true,
  })
  writeFileSync(join(config.dataDir, 'database-url'), databaseUrl, { mode: 0o600 })
  kept.web = keepRunning(part('web', 'The web server'), say, tellWhere)
  kept.worker = keepRunning(part('worker', 'The worker'), say, tellWhere)
  tellWhere()
  for (const end = Date.now() + START_MS; !(await isHealthy());) {
    if (isStopping) return
    if (Date.now() > end) {
      say(lastWords('web'))
      throw new Error(`The web server does not answer at ${addressOf(config)}. Is the port in use? Set FILLAGRANT_PORT to another.`) // prettier-ignore
    }
    await sleep(100)
  }
  say(`Ready after ${Date.now() - begun} ms.`)
  process.stdout.write(`Fillagrant: http://${config.host.includes(':') ? `[${config.host}]` : config.host}:${config.port}\n`) // prettier-ignore
  say(`Logs are in ${logs}. Ctrl-C stops.`)
  await watch()
}

try {
  await run()
} catch (cause) {
  say(cause instanceof Error ? cause.message : String(cause))
  await stop(1)
}
