import { readFile } from 'node:fs/promises'
import type { z } from 'zod'
import { describeIssues } from '../core/document/document'
import { CliError } from './cliError'
import { EXIT } from './exitCodes'

/**
 * A JSON file that another command has made.
 * @param what  What it is used as, and `command` what makes it, in words. @throws CliError when it is none.
 */
export async function readFileOf<T>(
  schema: z.ZodType<T>,
  path: string,
  { what, command }: { readonly what: string; readonly command: string },
): Promise<T> {
  const text = await readFile(path, 'utf8').catch((cause: Error) => {
    throw new CliError(EXIT.mends, `${path} cannot be read: ${cause.message}`)
  })
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (cause) {
    throw new CliError(EXIT.mends, `${path} is not JSON.`, { cause })
  }
  const result = schema.safeParse(json)
  if (result.success) return result.data
  throw new CliError(
    EXIT.mends,
    `${path} cannot be used as ${what}: ${describeIssues(result.error)}. Make it with the ${command} command.`,
  )
}
