/**
 * Files that are on the disk before anything says that they are there: power may go at any moment. A file is synced
 * before it gets its name, and the folder after, as its entries are written by themselves (POSIX, fsync; common practice).
 */
import { mkdir, open, readdir, rename } from 'node:fs/promises'
import { dirname, join } from 'node:path'

const AT_ONCE = 8

/** Waits until a file, or a folder's list of entries, is on the disk. */
export async function syncOne(path: string): Promise<void> {
  const handle = await open(path, 'r')
  try {
    await handle.sync()
  } finally {
    await handle.close()
  }
}

/** A folder with all that is in it. */
export async function syncTree(folder: string): Promise<void> {
  const entries = await readdir(folder, { withFileTypes: true })
  for (let next = 0; next < entries.length; next += AT_ONCE) {
    const some = entries.slice(next, next + AT_ONCE)
    await Promise.all(
      some.map((entry) => (entry.isDirectory() ? syncTree : syncOne)(join(folder, entry.name))),
    )
  }
  await syncOne(folder)
}

/** Makes a folder, and those above it that are missing, for good. */
export async function makeFolder(folder: string): Promise<void> {
  const first = await mkdir(folder, { recursive: true })
  if (first === undefined) return // all were there
  const above = dirname(first)
  for (let one = dirname(folder); one.length >= above.length; one = dirname(one)) await syncOne(one)
}

/** Gives a finished file its name, for good. */
export async function putInPlace(partial: string, path: string): Promise<void> {
  await syncOne(partial)
  await rename(partial, path)
  await syncOne(dirname(path))
}

/** The same with a folder and all that is in it. */
export async function putFolderInPlace(partial: string, path: string): Promise<void> {
  await syncTree(partial)
  await rename(partial, path)
  await syncOne(dirname(path))
}
