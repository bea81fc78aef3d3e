import { existsSync } from 'node:fs'
import { dirname, join } from 'node:path'

/** The project's folder, whether this runs from source or built: what stands nearest above with a `package.json`. */
export const ROOT: string = (() => {
  let folder = import.meta.dirname
  while (!existsSync(join(folder, 'package.json'))) folder = dirname(folder)
  return folder
})()
