import type { ExitCode } from './exitCodes'

/** A command that cannot go on: what to tell, and the exit code. */
export class CliError extends Error {
  override readonly name = 'CliError'
  readonly exitCode: ExitCode
  constructor(exitCode: ExitCode, message: string, options?: { cause?: unknown }) {
    super(message, options)
    this.exitCode = exitCode
  }
}
