/** What was gathered, in files by its content: made by one worker, used by all. What is lost is gathered again. */
import { randomUUID } from 'node:crypto'
import { mkdir, readdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { z } from 'zod'
import type { ResultStore } from '../../core/shot/clip'
import { log } from '../log.server'

/** A name that `contentKey` makes; nothing else reaches the file system. */
export const resultKeySchema = z.string().regex(/^[0-9a-f]{16}$/)
const plateIdSchema = z.uuid()

const MAX_BYTES = 4 * 2 ** 30

/** @param root  Holds a folder for each plate. */
export function createDirectoryResultStore(root: string, plateId: string): ResultStore {
  const folder = join(root, plateIdSchema.parse(plateId))
  const pathOf = (key: string) => join(folder, `${resultKeySchema.parse(key)}.gathered`)
  return {
    async read(key) {
      const path = pathOf(key)
      const bytes = await readFile(path).catch(absent)
      // Used just now: the last to be thrown away.
      if (bytes) await utimes(path, new Date(), new Date()).catch(absent)
      return bytes
    },
    async write(key, bytes) {
      const partial = join(folder, `${randomUUID()}.partial`)
      try {
        await mkdir(folder, { recursive: true })
        await writeFile(partial, bytes)
        await rename(partial, pathOf(key))
      } catch (cause) {
        // The frame is right without it: a full disk must not end a render.
        log.warn(
          { err: cause, folder },
          'what was gathered could not be put on the shelf: it will be gathered again',
        )
        await rm(partial, { force: true }).catch((left: unknown) =>
          log.warn({ err: left, partial }, 'what was written of it could not be removed'),
        )
      }
    },
  }
}

/** It is not there, or no more. */
function absent(cause: NodeJS.ErrnoException): null {
  if (cause.code === 'ENOENT') return null
  throw cause
}

/** Throws away what another core has gathered, and beyond some size what was not used for longest. */
export async function pruneResults(root: string, mostBytes = MAX_BYTES): Promise<void> {
  const all = dirname(root)
  for (const name of (await readdir(all).catch(absent)) ?? [])
    if (join(all, name) !== root) await rm(join(all, name), { recursive: true, force: true })
  const files: { path: string; bytes: number; usedAt: number }[] = []
  for (const name of (await readdir(root, { recursive: true }).catch(absent)) ?? []) {
    const path = join(root, name)
    const found = await stat(path).catch(absent)
    if (found?.isFile()) files.push({ path, bytes: found.size, usedAt: found.mtimeMs })
  }
  let bytes = files.reduce((sum, one) => sum + one.bytes, 0)
  for (const one of files.sort((a, b) => a.usedAt - b.usedAt)) {
    if (bytes <= mostBytes) break
    await rm(one.path, { force: true })
    bytes -= one.bytes
  }
}
