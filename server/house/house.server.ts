/** Productions and shots: named, moved, put away and put back. What is deleted lies in the bin for a while, files and all. */
import { randomUUID } from 'node:crypto'
import { rm } from 'node:fs/promises'
import { and, asc, eq, inArray, isNotNull, isNull, lt, not, or, sql } from 'drizzle-orm'
import type { ServerContext } from '../context.server'
import { binBeside, emptyBesideBin, putBesideBack } from './beside.server'
import { OWN_PRODUCTION_ID } from '../db/migrate.server'
import { plates, productions, shots, versions } from '../db/schema'
import { announce } from '../events.server'
import { log } from '../log.server'
import { isOpenState } from '../jobs/renderChunk.server'
import { reviewsOf } from '../notes.server'
import { cancelVersion, versionFolder } from '../versions.server'
import { BESIDE_TITLES, BIN_DAYS, type HouseAnswer, type HouseOrder } from '../../core/jobs/houseOrders'

const ok = (message: string): HouseAnswer => ({ ok: true, message })
const no = (message: string): HouseAnswer => ({ ok: false, message: `${message} Nothing was changed.` })
const countWords = (count: number, one: string): string => (count === 1 ? `1 ${one}` : `${count} ${one}s`)

/** @throws what the database throws; nothing is half done. */
export async function keepHouse(context: ServerContext, order: HouseOrder): Promise<HouseAnswer> {
  const { db } = context.database
  const answer = await carryOut(context, order)
  if (answer.ok) await announce(db, { kind: 'shot', id: 'house' })
  return answer
}

async function carryOut(context: ServerContext, order: HouseOrder): Promise<HouseAnswer> {
  const { db } = context.database
  switch (order.intent) {
    case 'rename-shot': {
      const { name, title } = order
      const [changed] = await db.update(shots).set({ name, title }).where(and(eq(shots.id, order.shotId), isNull(shots.deletedAt))).returning() // prettier-ignore
      return changed ? ok(`It is called ${name} now.`) : no('This shot is gone.')
    }
    case 'move-shots': {
      const [to] = await db.select().from(productions).where(eq(productions.id, order.productionId))
      if (!to || to.deletedAt || to.archivedAt)
        return no('Shots cannot be moved there: this production is put away.')
      const moved = await db.update(shots).set({ productionId: to.id }).where(present(order.shotIds)).returning() // prettier-ignore
      return ok(`${countWords(moved.length, 'shot')} moved to ${to.name}.`)
    }
    case 'delete-shots':
      return deleteShots(context, order.shotIds)
    case 'put-back-shots': {
      const back = await db.update(shots).set({ deletedAt: null }).where(inArray(shots.id, [...order.shotIds])).returning() // prettier-ignore
      return back.length > 0
        ? ok(`${countWords(back.length, 'shot')} put back.`)
        : no('These shots are gone for good.')
    }
    case 'delete-beside': {
      const title = BESIDE_TITLES[order.kind]
      const users = await binBeside(context, order.kind, order.id).catch(asGone)
      if (users === null) return no(`This ${title.toLowerCase()} is gone already.`)
      return users.length > 0
        ? no(`It is used by ${users.join(', ')}: take it out there first.`)
        : ok(`${title} in the bin for ${BIN_DAYS} days.`)
    }
    case 'put-back-beside': {
      const title = BESIDE_TITLES[order.kind]
      const back = await putBesideBack(context, order.kind, order.id).catch(asGone)
      return back === null ? no(`This ${title.toLowerCase()} is gone for good.`) : ok(`${title} put back.`)
    }
    case 'delete-version':
      return deleteVersion(context, order.versionId)
    case 'make-production': {
      await db.insert(productions).values({ id: randomUUID(), name: order.name })
      return ok(`${order.name} is there.`)
    }
    case 'rename-production': {
      const [changed] = await db.update(productions).set({ name: order.name }).where(eq(productions.id, order.productionId)).returning() // prettier-ignore
      return changed ? ok(`It is called ${order.name} now.`) : no('This production is gone.')
    }
    case 'archive-production': {
      if (order.productionId === OWN_PRODUCTION_ID) return no('What is brought in goes to this production: it stays in sight.') // prettier-ignore
      const archivedAt = order.isArchived ? new Date() : null
      const [changed] = await db.update(productions).set({ archivedAt }).where(eq(productions.id, order.productionId)).returning() // prettier-ignore
      if (!changed) return no('This production is gone.')
      return ok(order.isArchived ? `${changed.name} is archived: out of sight, with all its shots.` : `${changed.name} is back.`) // prettier-ignore
    }
    case 'delete-production': {
      if (order.productionId === OWN_PRODUCTION_ID) return no('What is brought in goes to this production: it cannot be deleted.') // prettier-ignore
      const [changed] = await db.update(productions).set({ deletedAt: new Date() }).where(eq(productions.id, order.productionId)).returning() // prettier-ignore
      return changed ? ok(`${changed.name} is in the bin, with all its shots, for ${BIN_DAYS} days.`) : no('This production is gone.') // prettier-ignore
    }
    case 'put-back-production': {
      const [changed] = await db.update(productions).set({ deletedAt: null }).where(eq(productions.id, order.productionId)).returning() // prettier-ignore
      return changed ? ok(`${changed.name} is back.`) : no('This production is gone for good.')
    }
    case 'empty-bin': {
      const shotsGone = await emptyBin(context, 0)
      const besideGone = await emptyBesideBin(context, 0)
      const words = [shotsGone > 0 && countWords(shotsGone, 'shot'), besideGone > 0 && countWords(besideGone, 'picture')].filter(Boolean) // prettier-ignore
      return ok(words.length === 0 ? 'The bin was empty.' : `${words.join(' and ')} deleted for good.`)
    }
  }
}

/** null for what is not there; anything else is thrown. */
function asGone(cause: NodeJS.ErrnoException): null {
  if (cause.code === 'ENOENT') return null
  throw cause
}

const present = (ids: readonly string[]) => and(inArray(shots.id, [...ids]), isNull(shots.deletedAt))

async function deleteShots(context: ServerContext, ids: readonly string[]): Promise<HouseAnswer> {
  const { db } = context.database
  const gone = await db.update(shots).set({ deletedAt: new Date() }).where(present(ids)).returning()
  if (gone.length === 0) return no('These shots are gone already.')
  // What is still being rendered of them stops; what is finished lies in the bin too.
  const open = await db.select({ id: versions.id, state: versions.state }).from(versions).where(inArray(versions.shotId, gone.map(({ id }) => id))) // prettier-ignore
  for (const { id, state } of open) if (isOpenState(state)) await cancelVersion(context, id)
  return ok(
    `${gone.length === 1 ? gone[0]!.name : countWords(gone.length, 'shot')} in the bin for ${BIN_DAYS} days.`,
  )
}

async function deleteVersion(context: ServerContext, id: string): Promise<HouseAnswer> {
  const { db } = context.database
  const [row] = await db.select({ state: versions.state, number: versions.number, shotId: versions.shotId }).from(versions).where(eq(versions.id, id)) // prettier-ignore
  if (!row) return no('This version is gone already.')
  const reviews = (await reviewsOf(db, [id])).get(id)
  if (reviews?.[0]?.state === 'approved') return no('It is approved: send it back first.')
  if (isOpenState(row.state)) await cancelVersion(context, id)
  await db.delete(versions).where(eq(versions.id, id))
  await rm(versionFolder(context, id), { recursive: true, force: true })
  return ok(`Version ${row.number} and its file are gone.`)
}

/** Tables whose rows belong to a production. */
const HOLDERS = ['shots', 'cameras', 'marks', 'recipes', 'imports'] as const

/**
 * Deletes for good what has lain in the bin for so long: rows first, then files, so that nothing points at what is not
 * there; `doctor` finds files that were left by a break between the two.
 * @returns How many shots.
 */
export async function emptyBin(context: ServerContext, days = BIN_DAYS): Promise<number> {
  const { db } = context.database
  const since = sql`now() - make_interval(days => ${days})`
  const old = or(lt(shots.deletedAt, since), lt(productions.deletedAt, since))
  const rows = await db
    .select({ id: shots.id, plateId: plates.id })
    .from(shots)
    .innerJoin(productions, eq(productions.id, shots.productionId))
    .leftJoin(plates, eq(plates.shotId, shots.id))
    .where(old)
  const files: (() => Promise<void>)[] = []
  for (const { id, plateId } of rows) {
    const made = await db.delete(versions).where(eq(versions.shotId, id)).returning({ id: versions.id })
    await db.delete(shots).where(eq(shots.id, id))
    for (const version of made) files.push(() => rm(versionFolder(context, version.id), { recursive: true, force: true })) // prettier-ignore
    if (plateId) files.push(() => context.frames.remove(plateId))
  }
  // What others may still need, such as a camera, keeps its production.
  const holds = HOLDERS.map((table) => sql`exists (select 1 from ${sql.identifier(table)} as held where held.production_id = productions.id)`) // prettier-ignore
  await db.delete(productions).where(and(lt(productions.deletedAt, since), not(or(...holds)!)))
  for (const remove of files) await remove()
  if (rows.length > 0) log.info({ shots: rows.map(({ id }) => id) }, 'deleted for good')
  return rows.length
}

/** What lies in the bin, the latest first. */
export async function listBin(context: ServerContext) {
  const { db } = context.database
  const inBin = await db
    .select({ id: shots.id, name: shots.name, deletedAt: shots.deletedAt })
    .from(shots)
    .where(isNotNull(shots.deletedAt))
    .orderBy(sql`${shots.deletedAt} desc`)
  const whole = await db
    .select({ id: productions.id, name: productions.name, deletedAt: productions.deletedAt })
    .from(productions)
    .where(isNotNull(productions.deletedAt))
    .orderBy(asc(productions.name))
  return { shots: inBin, productions: whole }
}

/** Every production that is not in the bin, with how many shots it has. */
export async function listHouse(context: ServerContext) {
  const count = sql<number>`(select count(*)::int from shots where shots.production_id = productions.id and shots.deleted_at is null)`
  return context.database.db
    .select({
      id: productions.id,
      name: productions.name,
      isDemo: productions.isDemo,
      archivedAt: productions.archivedAt,
      shots: count,
    }) // prettier-ignore
    .from(productions)
    .where(isNull(productions.deletedAt))
    .orderBy(asc(productions.isDemo), asc(productions.name))
}
