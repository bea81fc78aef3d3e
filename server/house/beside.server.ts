/**
 * What was brought in beside the footage: stills, mattes, pictures of marks. They have no rows of their own; mends name them.
 * Deleted, they lie in a folder for a while and can be put back: undo may want them again.
 */
import { readdir, rename, rm, stat, utimes } from 'node:fs/promises'
import { join } from 'node:path'
import { sql } from 'drizzle-orm'
import { BESIDE_KINDS, BIN_DAYS, type BesideKind } from '../../core/jobs/houseOrders'
import type { Folders, ServerContext } from '../context.server'
import { plates } from '../db/schema'
import { makeFolder, syncOne } from '../durable.server'
import { bytesIn } from './disk.server'

export interface Beside {
  readonly kind: BesideKind
  readonly id: string
  readonly bytes: number
  /** When it came in, or was deleted. */
  readonly at: Date
  /** Names of shots that have a mend with it; the library and recipes where it is in there. */
  readonly usedBy: readonly string[]
}

const ID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/
const FOLDER_OF: Readonly<Record<BesideKind, keyof Folders>> = {
  still: 'frames',
  matte: 'mattes',
  mark: 'marks',
}
const ENDING_OF: Readonly<Record<BesideKind, string>> = { still: '', matte: '', mark: '.png' }

const placeOf = ({ folders }: ServerContext, kind: BesideKind, id: string): string =>
  join(folders[FOLDER_OF[kind]], id + ENDING_OF[kind])
const binOf = ({ folders }: ServerContext, kind: BesideKind): string => join(folders.bin, kind)
const placeInBin = (context: ServerContext, kind: BesideKind, id: string): string =>
  join(binOf(context, kind), id + ENDING_OF[kind])

const listed = (folder: string): Promise<string[]> => readdir(folder).catch(() => [])

async function lookAt(
  folder: string,
  kind: BesideKind,
  isOurs: (id: string) => boolean,
): Promise<Omit<Beside, 'usedBy'>[]> {
  // prettier-ignore
  const found: Omit<Beside, 'usedBy'>[] = []
  for (const name of await listed(folder)) {
    const id = name.slice(0, name.length - ENDING_OF[kind].length)
    if (!ID.test(id) || id + ENDING_OF[kind] !== name || !isOurs(id)) continue
    const path = join(folder, name)
    const { mtime, size } = await stat(path)
    found.push({ kind, id, at: mtime, bytes: ENDING_OF[kind] === '' ? await bytesIn(path) : size })
  }
  return found
}

/** What there is, the latest first; and what lies in the bin. */
export async function listBeside(
  context: ServerContext,
): Promise<{ readonly kept: Beside[]; readonly inBin: Beside[] }> {
  // prettier-ignore
  const { db } = context.database
  const footage = new Set((await db.select({ id: plates.id }).from(plates)).map(({ id }) => id))
  const latestFirst = (a: Beside, b: Beside) => b.at.getTime() - a.at.getTime()
  const kept: Beside[] = []
  const inBin: Beside[] = []
  for (const kind of BESIDE_KINDS) {
    const isOurs = (id: string) => kind !== 'still' || !footage.has(id)
    for (const one of await lookAt(context.folders[FOLDER_OF[kind]], kind, isOurs)) kept.push({ ...one, usedBy: await usersOf(context, kind, one.id) }) // prettier-ignore
    for (const one of await lookAt(binOf(context, kind), kind, () => true)) inBin.push({ ...one, usedBy: [] })
  }
  return { kept: kept.sort(latestFirst), inBin: inBin.sort(latestFirst) }
}

async function usersOf({ database: { db } }: ServerContext, kind: BesideKind, id: string): Promise<string[]> {
  const name = `${kind}:${id}`
  const like = `%${name}%`
  const found = await db.execute<{ name: string }>(
    sql`select distinct shots.name as name from mends join shots on shots.id = mends.shot_id where mends.record::text like ${like}
        union all select 'the library of marks' from marks where picture = ${name}
        union all select distinct 'recipe ' || recipes.name from recipes where recipe::text like ${like}`,
  )
  return found.rows.map((row) => row.name)
}

/** @returns Who uses it still; then it stays. @throws ENOENT where it is not. */
export async function binBeside(
  context: ServerContext,
  kind: BesideKind,
  id: string,
): Promise<readonly string[]> {
  const users = await usersOf(context, kind, id)
  if (users.length > 0) return users
  await moveFor(context, kind, placeOf(context, kind, id), placeInBin(context, kind, id))
  return []
}

export const putBesideBack = (context: ServerContext, kind: BesideKind, id: string): Promise<void> =>
  moveFor(context, kind, placeInBin(context, kind, id), placeOf(context, kind, id))

async function moveFor(context: ServerContext, kind: BesideKind, from: string, to: string): Promise<void> {
  await makeFolder(binOf(context, kind))
  await rename(from, to)
  await utimes(to, new Date(), new Date()) // from now on it is counted
  await syncOne(binOf(context, kind))
  await syncOne(context.folders[FOLDER_OF[kind]])
}

/** Deletes for good what has lain in the bin for so long. @returns How many. */
export async function emptyBesideBin(
  context: ServerContext,
  days = BIN_DAYS,
  now = Date.now(),
): Promise<number> {
  let count = 0
  for (const kind of BESIDE_KINDS) {
    for (const one of await lookAt(binOf(context, kind), kind, () => true)) {
      if (now - one.at.getTime() < days * 86_400_000) continue
      await rm(placeInBin(context, kind, one.id), { recursive: true, force: true })
      count++
    }
  }
  return count
}
