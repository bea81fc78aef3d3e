/** A program that is kept running: started again whenever it ends, later each time that it ends soon. */
import { spawn, type ChildProcess } from 'node:child_process'
import { closeSync, openSync, renameSync, statSync } from 'node:fs'

export interface KeptProgram {
  /** As a person knows it: `The web server`. */
  readonly title: string
  readonly command: string
  readonly args: readonly string[]
  readonly env?: NodeJS.ProcessEnv
  readonly cwd?: string
  /** What it writes is added to the end of this file. */
  readonly logFile: string
  /** Asks it to end by itself. */
  readonly endsWith: NodeJS.Signals
  /** What the kernel sends it when we are gone: it never lives on beside the next start. */
  readonly orphanedWith: 'KILL' | 'INT'
  /** Runs as this user of the system; only root can ask for it. */
  readonly user?: string
  /** Whether it says every so often that its event loop turns; one that falls silent is ended. */
  readonly saysAlive?: boolean
}

export interface KeptProcess {
  readonly pid: number | undefined
  /** Ends it now; it is started again. */
  restart(why: string): void
  /** Ends it for good; killed if it has not ended by then. */
  stop(patienceMs: number): Promise<void>
}

const FIRST_WAIT_MS = 250
const LAST_WAIT_MS = 5_000
/** What has run for so long was well: the next start waits no longer than the first. */
const WELL_AFTER_MS = 30_000
const SILENT_MS = 30_000
const LOG_BYTES = 10 * 2 ** 20

/** @param say  Tells a person what has happened. @param onStart  It has been started, perhaps again: with another number. */
export function keepRunning(
  program: KeptProgram,
  say: (words: string) => void,
  onStart: () => void = () => undefined,
): KeptProcess {
  let child: ChildProcess | null = null
  let waitMs = FIRST_WAIT_MS
  let timer: NodeJS.Timeout | undefined
  let isStopping = false
  let ended: Promise<void> = Promise.resolve()

  function start(): void {
    const begun = Date.now()
    const one = launch(program)
    child = one
    onStart()
    let lastSign = begun
    one.on('message', () => (lastSign = Date.now()))
    const silence = setInterval(() => {
      if (program.saysAlive && Date.now() - lastSign > SILENT_MS) {
        say(`${program.title} is stuck: it has said nothing for ${SILENT_MS / 1000} s.`)
        one.kill('SIGKILL')
      }
    }, 1000)
    ended = new Promise((resolve) => {
      let isOver = false
      const over = (how: string) => {
        if (isOver) return
        isOver = true
        clearInterval(silence)
        if (child === one) child = null
        resolve()
        if (isStopping) return
        if (Date.now() - begun > WELL_AFTER_MS) waitMs = FIRST_WAIT_MS
        say(`${program.title} ended (${how}); it is started again. What it said: ${program.logFile}`)
        timer = setTimeout(start, waitMs)
        waitMs = Math.min(2 * waitMs, LAST_WAIT_MS)
      }
      one.on('exit', (code, signal) => over(signal ?? `exit ${code}`))
      one.on('error', (cause) => over(cause.message))
    })
  }
  start()

  return {
    get pid() {
      return child?.pid
    },
    restart(why) {
      say(`${program.title} is started again: ${why}`)
      child?.kill('SIGKILL')
    },
    async stop(patienceMs) {
      isStopping = true
      clearTimeout(timer)
      const one = child
      if (!one) return
      one.kill(program.endsWith)
      const late = setTimeout(() => one.kill('SIGKILL'), patienceMs)
      await ended
      clearTimeout(late)
    },
  }
}

function launch({
  command,
  args,
  env,
  cwd,
  logFile,
  user,
  orphanedWith,
  saysAlive,
}: KeptProgram): ChildProcess {
  const log = openLog(logFile)
  const asUser = user === undefined ? [] : [`--reuid=${user}`, `--regid=${user}`, '--init-groups']
  try {
    // In a group of its own: Ctrl-C in a terminal reaches us alone, and we end things in their order.
    return spawn('setpriv', [...asUser, `--pdeathsig=${orphanedWith}`, '--', command, ...args], {
      env,
      cwd,
      detached: true,
      stdio: saysAlive ? ['ignore', log, log, 'ipc'] : ['ignore', log, log],
    })
  } finally {
    closeSync(log)
  }
}

function openLog(file: string): number {
  if ((statSync(file, { throwIfNoEntry: false })?.size ?? 0) > LOG_BYTES) renameSync(file, `${file}.1`)
  return openSync(file, 'a', 0o600)
}
