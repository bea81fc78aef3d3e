import { sceneSchema, type Scene } from '../core/scene/scene'
import { readFileOf } from './readFileOf'

/** @throws CliError in words when the file is no scene. */
export const readScene = (path: string): Promise<Scene> =>
  readFileOf(sceneSchema, path, { what: 'scene motion', command: 'scene' })
