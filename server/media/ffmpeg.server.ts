/**
 * ffmpeg and ffprobe, and what else reads files from outside, as child processes.
 *
 * Arguments are lists, never shell text. Only files and pipes may be opened and only known containers
 * read, so that a hostile file cannot make them reach for another. Output on standard error is kept
 * to its end; a process that shows no life is ended.
 */
import { spawn, type ChildProcessByStdio } from 'node:child_process'
import type { Readable, Writable } from 'node:stream'
import { confined } from './confined.server'

export const SAFE_INPUT = [
  '-protocol_whitelist',
  'file,pipe',
  '-format_whitelist',
  'mov,matroska,webm,avi,yuv4mpegpipe,image2,nut',
] as const

const KEPT_ERROR_CHARACTERS = 4000
/** A tool that breaks down over a file ends by others. */
const FROM_OUTSIDE: ReadonlySet<NodeJS.Signals> = new Set(['SIGKILL', 'SIGTERM', 'SIGINT', 'SIGHUP'])

export interface MediaEnd {
  readonly code: number | null
  readonly stderr: string
  /** Whether somebody else has ended it, such as a system that is short of memory: that says nothing of what it read. */
  readonly wasEnded: boolean
}

export interface MediaProcess {
  readonly stdin: Writable
  readonly stdout: Readable
  /** Settles when the process has ended: its exit code and the end of what it said. */
  readonly ended: Promise<MediaEnd>
  /** Tells the watchdog that something moved. */
  alive(): void
  kill(): void
}

export interface MediaOptions {
  readonly silenceMs?: number
  readonly signal?: AbortSignal
  /** Told all that it says on standard error, as it comes. */
  readonly onErrorText?: (text: string) => void
}

/** Starts `ffmpeg`, `ffprobe`, or this Node with a program of ours. It is killed after `silenceMs` without `alive()`, and with `signal`. */
export function startMedia(
  program: 'ffmpeg' | 'ffprobe' | 'node',
  args: readonly string[],
  { silenceMs = 120_000, signal, onErrorText }: MediaOptions = {},
): MediaProcess {
  const tool = confined(program === 'node' ? process.execPath : program, args)
  const child: ChildProcessByStdio<Writable, Readable, Readable> = spawn(tool.command, tool.args, {
    stdio: ['pipe', 'pipe', 'pipe'],
  })
  let stderr = ''
  child.stderr.setEncoding('utf8').on('data', (text: string) => {
    stderr = (stderr + text).slice(-KEPT_ERROR_CHARACTERS)
    onErrorText?.(text)
  })
  let isOurs = false
  const kill = () => {
    isOurs = true
    child.kill('SIGKILL')
  }
  let watchdog = setTimeout(kill, silenceMs)
  signal?.addEventListener('abort', kill, { once: true })
  if (signal?.aborted) kill()
  // A process that ends early closes its input; whoever writes sees it through `ended`.
  child.stdin.on('error', () => undefined)
  const ended = new Promise<MediaEnd>((resolve) => {
    const finish = (code: number | null, sign: NodeJS.Signals | null, more = '') => {
      clearTimeout(watchdog)
      signal?.removeEventListener('abort', kill)
      resolve({ code, stderr: stderr + more, wasEnded: !isOurs && sign !== null && FROM_OUTSIDE.has(sign) })
    }
    child.on('error', (cause) => finish(null, null, `${program} cannot be started: ${cause.message}`))
    child.on('close', finish)
  })
  return {
    stdin: child.stdin,
    stdout: child.stdout,
    ended,
    alive() {
      clearTimeout(watchdog)
      watchdog = setTimeout(kill, silenceMs)
    },
    kill,
  }
}

/** How it ended by itself. @throws Error when somebody else has ended it: what it was at is begun anew. */
export async function ownEnd(process: MediaProcess): Promise<MediaEnd> {
  const end = await process.ended
  if (end.wasEnded) throw new Error('A media tool was ended from outside. Look whether the machine is short of memory.') // prettier-ignore
  return end
}

/** Runs a program that only prints, and returns what it printed. */
export async function runMedia(
  program: 'ffmpeg' | 'ffprobe',
  args: readonly string[],
  timeoutMs: number,
  signal?: AbortSignal,
) {
  const process = startMedia(program, args, { silenceMs: timeoutMs, signal })
  process.stdin.end()
  const chunks: Buffer[] = []
  for await (const chunk of process.stdout) chunks.push(chunk as Buffer)
  return { ...(await ownEnd(process)), stdout: Buffer.concat(chunks).toString('utf8') }
}

/** The first thing that a tool said of why it failed, without its marks of which of its parts said so. */
export const reasonIn = (stderr: string): string =>
  (stderr.trim().split('\n')[0] ?? '').replaceAll(/\[[^\]]* @ 0x[0-9a-f]+\]\s*/g, '').slice(0, 200) ||
  'no reason given'
