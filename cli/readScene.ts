import { readFile } from 'node:fs/promises'
import { sceneSchema, type Scene } from '../core/scene/scene'
import { CliError } from './cliError'
import { EXIT } from './exitCodes'

/** @throws CliError in words when the file is no scene. */
export async function readScene(path: string): Promise<Scene> {
  const text = await readFile(path, 'utf8').catch((cause: Error) => {
    throw new CliError(EXIT.mends, `${path} cannot be read: ${cause.message}`)
  })
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (cause) {
    throw new CliError(EXIT.mends, `${path} is not JSON.`, { cause })
  }
  const result = sceneSchema.safeParse(json)
  if (result.success) return result.data
  const [issue] = result.error.issues
  throw new CliError(
    EXIT.mends,
    `${path} cannot be used as scene motion: ${issue?.path.join('.')} ${issue?.message}. Make it with the scene command.`,
  )
}
