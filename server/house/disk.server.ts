/** What lies on the disk, by what it belongs to, and how much room is left. */
import { lstat, readdir, statfs } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { LRUCache } from 'lru-cache'
import type { ServerContext } from '../context.server'
import { plates, shots, versions } from '../db/schema'
import { readConfig } from '../config.server'

/** Less than this share, or this much, is told well before it is too late. */
const LOW_SHARE = 0.05
const LOW_BYTES = 5 * 2 ** 30

export interface DiskUse {
  /** Bytes by production: frames and versions of their shots. */
  readonly productions: Readonly<Record<string, number>>
  readonly parts: readonly { readonly title: string; readonly bytes: number }[]
  readonly isNearlyFull: boolean
  readonly words: string
}

/** Folders of frames and versions never grow once they are finished: counted once. */
const finished = new LRUCache<string, number>({ max: 5000, ttl: 60_000 })

export async function bytesIn(folder: string): Promise<number> {
  const known = finished.get(folder)
  if (known !== undefined) return known
  let bytes = 0
  for (const entry of await readdir(folder, { withFileTypes: true }).catch(() => [])) {
    const path = join(folder, entry.name)
    if (entry.isDirectory()) bytes += await bytesIn(path)
    else bytes += (await lstat(path).catch(() => null))?.size ?? 0 // gone meanwhile
  }
  finished.set(folder, bytes)
  return bytes
}

/** Free and whole bytes of the disk that a folder lies on. */
export async function roomOn(folder: string): Promise<{ readonly free: number; readonly all: number }> {
  const { bavail, blocks, bsize } = await statfs(folder)
  return { free: bavail * bsize, all: blocks * bsize }
}

export const isLow = ({ free, all }: { readonly free: number; readonly all: number }): boolean =>
  free < LOW_BYTES || free < LOW_SHARE * all

export async function diskUse(context: ServerContext): Promise<DiskUse> {
  const { db } = context.database
  const { folders } = context
  const productions: Record<string, number> = {}
  const add = async (productionId: string, folder: string) => {
    productions[productionId] = (productions[productionId] ?? 0) + (await bytesIn(folder))
  }
  for (const { productionId, plateId } of await db.select({ productionId: shots.productionId, plateId: plates.id }).from(plates).innerJoin(shots, eq(shots.id, plates.shotId))) await add(productionId, join(folders.frames, plateId)) // prettier-ignore
  for (const { productionId, id } of await db.select({ productionId: shots.productionId, id: versions.id }).from(versions).innerJoin(shots, eq(shots.id, versions.shotId))) await add(productionId, join(folders.versions, id)) // prettier-ignore
  const parts: { title: string; bytes: number }[] = []
  for (const [title, folder] of [
    ['Frames', folders.frames],
    ['Versions', folders.versions],
    ['On their way in', folders.uploads],
    ['Mattes', folders.mattes],
    ['Marks', folders.marks],
    ['Worked out, made again when needed', folders.results],
  ] as const) parts.push({ title, bytes: await bytesIn(folder) }) // prettier-ignore
  const room = await roomOn(readConfig().dataDir)
  const isNearlyFull = isLow(room)
  const gigabytes = (room.free / 2 ** 30).toFixed(1)
  const words = isNearlyFull
    ? `Only ${gigabytes} GB are free. Empty the bin, delete versions, or move the data folder to a larger disk: when it is full, nothing more can be brought in or rendered.`
    : `${gigabytes} GB are free.`
  return { productions, parts, isNearlyFull, words }
}
