/** Keeps the store of results within its bound, and removes what no running core uses any more. */
import { mkdir, readdir, rm, stat, utimes, writeFile } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { log } from '../log.server'
import { absentAsNull } from './absent.server'

const MAX_BYTES = 4 * 2 ** 30
const EVERY_MS = 5 * 60_000
/** Of a core that has given no sign of life for so long nothing runs any more. */
const UNUSED_MS = 24 * 3_600_000
/** Its time is when its core last gave a sign of life. */
const SIGN = 'in-use'

interface StoredFile {
  readonly path: string
  readonly bytes: number
  readonly usedAt: number
}

/** What is stored by this core, in files and bytes. */
export interface StoreSize {
  readonly files: number
  readonly bytes: number
}

/**
 * Removes of this core's results those that were not used for longest, until the rest fits.
 * @param root  The folder of this core, in the folder of all.
 */
export async function pruneResults(root: string, maxBytes = MAX_BYTES): Promise<StoreSize> {
  await giveSign(root)
  await removeUnusedCores(root)
  const files = await filesIn(root)
  let [bytes, count] = [files.reduce((sum, one) => sum + one.bytes, 0), files.length]
  for (const one of files.sort((a, b) => a.usedAt - b.usedAt)) {
    if (bytes <= maxBytes) break
    await rm(one.path, { force: true })
    bytes -= one.bytes
    count--
  }
  return { files: count, bytes }
}

async function giveSign(root: string): Promise<void> {
  const path = join(root, SIGN)
  await mkdir(root, { recursive: true })
  await utimes(path, new Date(), new Date()).catch(async (cause: NodeJS.ErrnoException) => {
    absentAsNull(cause)
    await writeFile(path, '')
  })
}

/** Another version that still runs, here or on a machine that shares the folder, keeps what it has put there. */
async function removeUnusedCores(root: string): Promise<void> {
  const all = dirname(root)
  for (const name of await readdir(all)) {
    if (name === basename(root)) continue
    const sign =
      (await stat(join(all, name, SIGN)).catch(absentAsNull)) ??
      (await stat(join(all, name)).catch(absentAsNull))
    if (sign && Date.now() - sign.mtimeMs > UNUSED_MS)
      await rm(join(all, name), { recursive: true, force: true })
  }
}

async function filesIn(root: string): Promise<StoredFile[]> {
  const files: StoredFile[] = []
  for (const name of (await readdir(root, { recursive: true }).catch(absentAsNull)) ?? []) {
    if (name === SIGN) continue
    const path = join(root, name)
    const found = await stat(path).catch(absentAsNull)
    if (found?.isFile()) files.push({ path, bytes: found.size, usedAt: found.mtimeMs })
  }
  return files
}

/** Prunes now and again as long as the process runs. @returns How to stop. */
export function keepResultsPruned(root: string): () => void {
  const prune = () =>
    void pruneResults(root).then(
      ({ files, bytes }) => log.info({ files, megabytes: Math.round(bytes / 2 ** 20) }, 'results stored'),
      (cause: unknown) => log.warn({ err: cause, root }, 'the store of results could not be pruned'),
    )
  prune()
  const timer = setInterval(prune, EVERY_MS)
  timer.unref()
  return () => clearInterval(timer)
}
