/**
 * Finished rectangles, in files by the digest of all that made them: made once, by a worker or a page, read by all of the
 * same core. What is lost is worked out again.
 */
import { randomUUID } from 'node:crypto'
import { mkdir, readFile, rename, rm, utimes, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { z } from 'zod'
import type { ResultStore } from '../../core/shot/clip'
import { DIGEST } from '../../core/shot/digest'
import { log } from '../log.server'
import { hasRoom } from '../room.server'
import { absentAsNull } from './absent.server'

/** Nothing else reaches the file system. */
export const resultKeySchema = z.string().regex(DIGEST)
const plateIdSchema = z.uuid()

/** @param root  The folder of this core; it holds one for each plate. */
export function createDirectoryResultStore(root: string, plateId: string): ResultStore {
  const folder = join(root, plateIdSchema.parse(plateId))
  const pathOf = (key: string) => join(folder, `${resultKeySchema.parse(key)}.result`)
  return {
    async read(key) {
      const path = pathOf(key)
      const bytes = await readFile(path).catch(absentAsNull)
      // Used just now: the last to be thrown away.
      if (bytes) await utimes(path, new Date(), new Date()).catch(absentAsNull)
      return bytes
    },
    async write(key, bytes) {
      const partial = join(folder, `${randomUUID()}.partial`)
      try {
        await mkdir(folder, { recursive: true })
        if (!(await hasRoom(folder, bytes.byteLength))) return // the rest is for what cannot be worked out again
        await writeFile(partial, bytes)
        await rename(partial, pathOf(key))
      } catch (cause) {
        // The frame is right without it: a full disk must not end a render.
        log.warn({ err: cause, folder }, 'a result could not be stored: it will be worked out again')
        await rm(partial, { force: true }).catch((left: unknown) =>
          log.warn({ err: left, partial }, 'what was written of it could not be removed'),
        )
      }
    },
  }
}
