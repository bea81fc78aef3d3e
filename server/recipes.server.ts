/** Recipes in the database, and mends copied from shot to shot. */
import { tracksById } from '../core/document/tracks'
import { randomUUID } from 'node:crypto'
import { and, asc, eq } from 'drizzle-orm'
import type { Answer } from '../core/answer'
import {
  copyAcross,
  copyCommandSchema,
  scaleBetween,
  type CopyTarget,
  type ShotPlate,
} from '../core/document/copyAcross'
import { describeIssues, mendsInStackOrder } from '../core/document/document'
import { recipeCommandSchema, type ListedRecipe, type RecipeCommand } from '../core/document/recipes'
import type { Database, Transaction } from './db/client.server'
import { recipes } from './db/schema'
import { changeShot } from './saveEdit.server'
import { findShot, listShots, loadMends, loadTracks, type Plate } from './shots.server'

export async function listRecipes(db: Database | Transaction): Promise<ListedRecipe[]> {
  const rows = await db.select().from(recipes).orderBy(asc(recipes.name), asc(recipes.createdAt))
  return rows.map(({ id, name, recipe }) => ({ id, recipe: { ...recipe, name } }))
}

export async function changeRecipes(db: Database, asked: unknown): Promise<Answer> {
  const command = recipeCommandSchema.safeParse(asked)
  if (!command.success)
    return {
      ok: false,
      message: `That cannot be stored: ${describeIssues(command.error)}. Nothing has changed.`,
    }
  return db.transaction((tx) => carryOut(tx, command.data))
}

async function carryOut(tx: Transaction, command: RecipeCommand): Promise<Answer> {
  switch (command.intent) {
    case 'keep': {
      const found = await findShot(tx, command.shotId)
      if (!found) return { ok: false, message: 'This shot is gone. Nothing was kept.' }
      const { recipe } = command
      await tx
        .insert(recipes)
        .values({ id: randomUUID(), productionId: found.shot.productionId, name: recipe.name, recipe })
        .onConflictDoUpdate({ target: [recipes.productionId, recipes.name], set: { recipe } })
      return { ok: true, words: `${recipe.name} is kept as a recipe.` }
    }
    case 'rename': {
      const [known] = await tx.select().from(recipes).where(eq(recipes.id, command.id)).for('update')
      if (!known) return { ok: false, message: 'This recipe is gone.' }
      const [taken] = await tx
        .select({ id: recipes.id })
        .from(recipes)
        .where(and(eq(recipes.productionId, known.productionId), eq(recipes.name, command.name)))
      if (taken && taken.id !== known.id)
        return {
          ok: false,
          message: `There is a recipe called ${command.name} already. Nothing has changed.`,
        }
      await tx.update(recipes).set({ name: command.name }).where(eq(recipes.id, command.id))
      return { ok: true, words: `${known.name} is called ${command.name} now.` }
    }
    case 'remove': {
      const [gone] = await tx
        .delete(recipes)
        .where(eq(recipes.id, command.id))
        .returning({ name: recipes.name })
      return gone
        ? { ok: true, words: `${gone.name} is deleted. Mends made with it stay as they are.` }
        : { ok: false, message: 'This recipe is gone already.' }
    }
  }
}

const plateOf = ({ width, height, firstFrame, frameCount }: Plate): ShotPlate => ({
  width,
  height,
  firstFrame,
  lastFrame: firstFrame + frameCount - 1,
})

/** The shots that mends of one can be copied to; null where there is no such shot. */
export async function copyTargets(db: Database, shotId: string): Promise<CopyTarget[] | null> {
  const rows = await listShots(db)
  const from = rows.find(({ shot }) => shot.id === shotId)
  return from
    ? rows
        .filter(({ shot }) => shot.id !== shotId)
        .map(({ shot, plate }) => ({
          id: shot.id,
          name: shot.name,
          ...plateOf(plate),
          scale: scaleBetween(from.plate, plate),
        }))
    : null
}

/** Copies mends to other shots: one step in the history of each. */
export async function copyMends(db: Database, shotId: string, asked: unknown): Promise<Answer> {
  const command = copyCommandSchema.safeParse(asked)
  if (!command.success)
    return {
      ok: false,
      message: `That cannot be copied: ${describeIssues(command.error)}. Nothing has changed.`,
    }
  const found = await findShot(db, shotId)
  const chosen = new Set(command.data.mendIds)
  const mends = mendsInStackOrder(await loadMends(db, shotId)).filter(({ id }) => chosen.has(id))
  if (!found || mends.length === 0)
    return { ok: false, message: 'What should be copied is gone. Nothing has changed.' }
  const tracks = tracksById(await loadTracks(db, shotId))
  const from = plateOf(found.plate)
  const left = new Set<string>()
  let [copied, into] = [0, 0]
  for (const target of new Set(command.data.shotIds)) {
    if (target === shotId) continue
    const done = await changeShot(db, target, ({ shot, plate, records }) => {
      if (scaleBetween(from, plate) === null) {
        left.add(`${shot.name} has a picture of another shape`)
        return null
      }
      const { edit, leftOut } = copyAcross(mends, tracks, from, plateOf(plate), records, randomUUID)
      for (const words of leftOut) left.add(words)
      return edit
    })
    if (!done) left.add(`${target} is gone`)
    copied += done?.edit?.changes.length ?? 0
    into += done?.edit ? 1 : 0
  }
  const rest = left.size > 0 ? ` Left out: ${[...left].join('; ')}.` : ''
  if (into === 0) return { ok: false, message: `Nothing was copied.${rest}` }
  return {
    ok: true,
    words: `${copied} ${copied === 1 ? 'mend' : 'mends'} copied to ${into} ${into === 1 ? 'shot' : 'shots'}. Undo there takes it back.${rest}`,
  }
}
