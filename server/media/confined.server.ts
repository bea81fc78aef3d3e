/**
 * What stands before a media tool: it ends with us, has no network, and so much memory, time and open files and no more.
 * All by programs of util-linux, which become the tool: its process is still ours. Where they are missing, or the system
 * does not let them, it runs without.
 */
import { spawnSync } from 'node:child_process'

const LIMITS = [`--cpu=${24 * 3600}`, '--nofile=256', '--core=0']

const works = (command: readonly string[]): boolean =>
  spawnSync(command[0]!, [...command.slice(1), 'true'], { stdio: 'ignore' }).status === 0

let known: readonly string[] | undefined

function confinement(): readonly string[] {
  if (known) return known
  const limited = ['setpriv', '--pdeathsig=KILL', 'prlimit', ...LIMITS]
  if (!works(limited)) return (known = [])
  // A network of its own, without a way out. Root may; others need namespaces of users, which some systems forbid.
  const alone = [['unshare', '--net'], ['unshare', '--user', '--map-current-user', '--net']] // prettier-ignore
  const silent = process.env['FILLAGRANT_MEDIA_NETWORK'] === 'yes' ? undefined : alone.find((one) => works([...limited, ...one])) // prettier-ignore
  return (known = [...limited, ...(silent ?? [])])
}

/** Decoders map more than they use: one frame of the largest footage for each core. */
const TOOL_MEMORY = [`--as=${16 * 2 ** 30}`]
/** Node maps far more than it uses; what it can write to is counted. */
const NODE_MEMORY = [`--data=${4 * 2 ** 30}`]

/** The command that runs a tool under our limits, and its arguments. */
export function confined(
  program: string,
  args: readonly string[],
): { readonly command: string; readonly args: string[] } {
  const limits = confinement()
  const memory = program === process.execPath ? NODE_MEMORY : TOOL_MEMORY
  const [command, ...before] = limits.length > 0 ? [...limits, 'prlimit', ...memory, program, ...args] : [program, ...args] // prettier-ignore
  return { command: command!, args: before }
}
