/** A whole installation as `npm start` runs it, on a folder of its own, in the hands of a test. */
import { spawn, type ChildProcess } from 'node:child_process'
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { once } from 'node:events'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'

export type Part = 'supervisor' | 'database' | 'web' | 'worker'
export const PARTS: readonly Part[] = ['supervisor', 'database', 'web', 'worker']

export class Installation {
  readonly dataDir: string
  readonly url: string
  readonly #env: NodeJS.ProcessEnv
  readonly #project: string
  #start: ChildProcess | null = null
  /** All that starts have said. */
  said = ''

  /** @param project  Where its code lies. */
  constructor(dataDir: string, port: number, env: NodeJS.ProcessEnv = {}, project = process.cwd()) {
    this.#project = project
    this.dataDir = dataDir
    this.url = `http://127.0.0.1:${port}`
    this.#env = { ...process.env, FILLAGRANT_DATA: dataDir, FILLAGRANT_PORT: String(port), FILLAGRANT_DEMO: 'no', ...env } // prettier-ignore
    delete this.#env['DATABASE_URL']
  }

  /** As `npm start`. @returns How long until it was ready, ms. @throws Error with what it said. */
  async start(patienceMs = 120_000): Promise<number> {
    const begun = Date.now()
    const child = spawn('bash', ['scripts/start.sh'], {
      cwd: this.#project,
      env: this.#env,
      stdio: ['ignore', 'pipe', 'pipe'],
    })
    this.#start = child
    for (const stream of [child.stdout, child.stderr])
      stream.setEncoding('utf8').on('data', (text: string) => (this.said += text))
    while (Date.now() - begun < patienceMs) {
      if (child.exitCode !== null) throw new Error(`It ended: ${this.said}`)
      if (await this.isHealthy()) return Date.now() - begun
      await sleep(50)
    }
    throw new Error(`Not ready: ${this.said}`)
  }

  /** Whether web server and database answer. */
  async isHealthy(): Promise<boolean> {
    const answer = await fetch(`${this.url}/health`, { signal: AbortSignal.timeout(2000) }).catch(() => null)
    return answer?.status === 200
  }

  /** @returns How long it took, ms. @throws Error when it takes longer than `patienceMs`. */
  async untilWhole(patienceMs: number): Promise<number> {
    const begun = Date.now()
    while (!((await this.isHealthy()) && PARTS.every((part) => isAlive(this.pidOf(part))))) {
      if (Date.now() - begun > patienceMs)
        throw new Error(`Not back after ${patienceMs} ms: ${this.said.slice(-2000)}`)
      await sleep(100)
    }
    return Date.now() - begun
  }

  pidOf(part: Part): number | null {
    const file = join(this.dataDir, 'running')
    if (!existsSync(file)) return null
    const [supervisor, , ...parts] = readFileSync(file, 'utf8').split('\n')
    const line = part === 'supervisor' ? supervisor : parts.find((one) => one.startsWith(`${part} `))
    const pid = Number(line?.split(' ').at(-1))
    return Number.isInteger(pid) && pid > 0 ? pid : null
  }

  kill(part: Part, signal: NodeJS.Signals = 'SIGKILL'): void {
    const pid = this.pidOf(part)
    if (isAlive(pid)) process.kill(pid!, signal)
  }

  /** Orderly, as Ctrl-C. */
  async stop(): Promise<void> {
    const child = this.#start
    if (!child || child.exitCode !== null || child.signalCode !== null) return
    const ended = once(child, 'exit')
    child.kill('SIGINT')
    await ended
  }
}

/** Zombies count as ended. */
export function isAlive(pid: number | null): boolean {
  if (pid === null) return false
  try {
    return !/^State:\s+[ZX]/m.test(readFileSync(`/proc/${pid}/status`, 'utf8'))
  } catch {
    return false
  }
}

/** How many processes of a kind work on a folder. */
export function processesOn(dataDir: string): Readonly<Record<Part, number>> {
  const count = { supervisor: 0, database: 0, web: 0, worker: 0 }
  for (const pid of numbersIn('/proc')) {
    try {
      const words = readFileSync(`/proc/${pid}/cmdline`, 'utf8').split('\0')
      const program = words.find((word) => /build-node\/(supervise|web|worker)\.mjs$/.test(word))
      if (words[0]?.endsWith('/postgres') && words.includes(`${dataDir}/postgres`)) count.database++
      if (!program || !readFileSync(`/proc/${pid}/environ`, 'utf8').includes(`FILLAGRANT_DATA=${dataDir}\0`))
        continue
      if (words[0] === 'setpriv') continue
      count[/supervise/.test(program) ? 'supervisor' : /web/.test(program) ? 'web' : 'worker']++
    } catch {
      continue // ended meanwhile
    }
  }
  return count
}

const numbersIn = (folder: string): number[] => readdirSync(folder).map(Number).filter(Number.isInteger)
