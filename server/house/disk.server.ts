/** What lies on the disk, by what it belongs to, and how much room is left. */
import { lstat, readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { LRUCache } from 'lru-cache'
import type { ServerContext } from '../context.server'
import { plates, shots, versions } from '../db/schema'
import { readConfig } from '../config.server'
import { roomOn, roomWarning } from '../room.server'

export interface DiskUse {
  /** Bytes by production: frames and versions of their shots. */
  readonly productions: Readonly<Record<string, number>>
  readonly parts: readonly { readonly title: string; readonly bytes: number }[]
  readonly isNearlyFull: boolean
  readonly words: string
}

/** Folders of frames and versions never grow once they are finished: not counted at every look. */
const finished = new LRUCache<string, number>({ max: 5000, ttl: 60_000 })

export async function bytesIn(folder: string): Promise<number> {
  const known = finished.get(folder)
  if (known !== undefined) return known
  let bytes = 0
  let isLeaf = true
  for (const entry of await readdir(folder, { withFileTypes: true }).catch(() => [])) {
    const path = join(folder, entry.name)
    if (entry.isDirectory()) isLeaf = false
    bytes += entry.isDirectory() ? await bytesIn(path) : ((await lstat(path).catch(() => null))?.size ?? 0) // gone meanwhile
  }
  if (isLeaf && bytes > 0) finished.set(folder, bytes)
  return bytes
}

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
  const folder = readConfig().dataDir
  const [room, warning] = await Promise.all([roomOn(folder), roomWarning(folder)])
  const words = warning ?? `${(room.free / 2 ** 30).toFixed(1)} GB are free.`
  return { productions, parts, isNearlyFull: warning !== null, words }
}
