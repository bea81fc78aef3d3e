/** The library of marks in the database: their pictures get names, and are taken off many shots at once. */
import { randomUUID } from 'node:crypto'
import { and, asc, eq } from 'drizzle-orm'
import type { Answer } from '../core/answer'
import { describeIssues } from '../core/document/document'
import { layMark } from '../core/document/layMark'
import {
  markCommandSchema,
  type ListedMark,
  type MarkCommand,
  type MarkDone,
} from '../core/document/markLibrary'
import type { Database, Transaction } from './db/client.server'
import { marks, productions } from './db/schema'
import { announce } from './events.server'
import { readMarkSamples } from './marks.server'
import { changeShot } from './saveEdit.server'
import { findShot } from './shots.server'

type MarkAnswer = Answer<MarkDone>
const refused = (message: string): MarkAnswer => ({ ok: false, message })
const done = (words: string, markId: string | null = null): MarkAnswer => ({ ok: true, words, markId })
const GONE = 'This mark is gone. Nothing has changed; look at the list again.'

export async function listMarks(db: Database | Transaction): Promise<ListedMark[]> {
  const rows = await db
    .select({ mark: marks, productionName: productions.name })
    .from(marks)
    .innerJoin(productions, eq(productions.id, marks.productionId))
    .orderBy(asc(productions.name), asc(marks.name))
  return rows.map(({ mark, productionName }) => listed(mark, productionName))
}

const listed = (
  { id, name, picture, width, height, place }: typeof marks.$inferSelect,
  productionName: string,
): ListedMark => ({ id, name, productionName, picture, width, height, place })

/** Does what is asked, all of it or nothing; `apply` shot by shot. @param folder  Where pictures lie. */
export async function changeMarks(db: Database, folder: string, asked: unknown): Promise<MarkAnswer> {
  const parsed = markCommandSchema.safeParse(asked)
  if (!parsed.success)
    return refused(`That cannot be stored: ${describeIssues(parsed.error)}. Nothing has changed.`)
  const command = parsed.data
  const answer = await (command.intent === 'apply'
    ? applyMark(db, command)
    : command.intent === 'keep'
      ? keepMark(db, folder, command)
      : db.transaction((tx) => carryOut(tx, command)))
  if (answer.ok) await announce(db, { kind: 'camera', id: answer.markId ?? '' })
  return answer
}

type CommandTo<I extends MarkCommand['intent']> = Extract<MarkCommand, { intent: I }>

async function keepMark(
  db: Database,
  folder: string,
  { picture, name, productionId, shotId, place }: CommandTo<'keep'>,
): Promise<MarkAnswer> {
  const samples = await readMarkSamples(folder, picture)
  if (!samples) return refused('There is no such picture of a mark. Nothing was kept.')
  const { width, height } = samples
  return db.transaction(async (tx) => {
    const found = shotId === null ? null : await findShot(tx, shotId)
    if (shotId !== null && !found) return refused('This shot is gone. Nothing was kept.')
    const production = found?.shot.productionId ?? productionId
    const [known] =
      production === null ? [] : await tx.select().from(productions).where(eq(productions.id, production))
    if (!known) return refused('There is no such production. Nothing was kept.')
    const [taken] = await tx
      .select({ id: marks.id })
      .from(marks)
      .where(and(eq(marks.productionId, known.id), eq(marks.name, name)))
    if (taken) return refused(`There is a mark called ${name} already. Give this one another name.`)
    const id = randomUUID()
    await tx.insert(marks).values({ id, productionId: known.id, name, picture, width, height, place })
    return done(`${name} is kept with the marks.`, id)
  })
}

async function carryOut(
  tx: Transaction,
  command: CommandTo<'rename'> | CommandTo<'remove'>,
): Promise<MarkAnswer> {
  const [known] = await tx.select().from(marks).where(eq(marks.id, command.id)).for('update')
  if (!known) return refused(GONE)
  if (command.intent === 'remove') {
    await tx.delete(marks).where(eq(marks.id, known.id))
    return done(`${known.name} is taken out of the library. Mends that take it off stay as they are.`)
  }
  const { name } = command
  const [taken] = await tx
    .select({ id: marks.id })
    .from(marks)
    .where(and(eq(marks.productionId, known.productionId), eq(marks.name, name)))
  if (taken && taken.id !== known.id)
    return refused(`There is a mark called ${name} already. Nothing has changed.`)
  await tx.update(marks).set({ name }).where(eq(marks.id, known.id))
  return done(`${known.name} is called ${name} now.`, known.id)
}

/** Each shot gets one step of its own history; where the mark is taken off already, nothing changes. */
async function applyMark(db: Database, { id, shotIds }: CommandTo<'apply'>): Promise<MarkAnswer> {
  const mark = (await listMarks(db)).find((one) => one.id === id)
  if (!mark) return refused(GONE)
  const missing: string[] = []
  let changed = 0
  for (const shotId of new Set(shotIds)) {
    const result = await changeShot(db, shotId, ({ plate, records }) => {
      const { width, height, firstFrame, frameCount } = plate
      const range = { width, height, firstFrame, lastFrame: firstFrame + frameCount - 1 }
      return layMark(records, mark, range, randomUUID)
    })
    if (!result) missing.push(shotId)
    else if (result.edit) changed++
  }
  const lost = missing.length > 0 ? ` Gone in the meantime: ${missing.join(', ')}.` : ''
  const shots = changed === 1 ? '1 shot' : `${changed} shots`
  return done(
    changed > 0
      ? `${mark.name} is taken off ${shots}: find it there where it lies elsewhere. Undo in a shot takes it back.${lost}`
      : `It is taken off all of them already.${lost}`,
    id,
  )
}
