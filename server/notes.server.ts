/** Notes and reviews in the database. */
import { randomUUID } from 'node:crypto'
import { and, asc, desc, eq, inArray, isNull, sql } from 'drizzle-orm'
import { z } from 'zod'
import type { Answer } from '../core/answer'
import { authorSchema, newNoteSchema, resolveNoteSchema, type Note } from '../core/proof/notes'
import { REVIEW_STATE_IDS, REVIEW_STATES, type Review, type ReviewState } from '../core/proof/review'
import type { Database, Transaction } from './db/client.server'
import { notes, reviews, versions } from './db/schema'
import { announce } from './events.server'
import { findShot } from './shots.server'

export const reviewSchema = z.strictObject({
  intent: z.literal('review'),
  versionId: z.uuid(),
  state: z.enum(REVIEW_STATE_IDS),
  author: authorSchema,
})

export async function listNotes(db: Database | Transaction, shotId: string): Promise<Note[]> {
  const rows = await db
    .select({ note: notes, versionNumber: versions.number })
    .from(notes)
    .leftJoin(versions, eq(versions.id, notes.versionId))
    .where(eq(notes.shotId, shotId))
    .orderBy(asc(notes.createdAt))
  return rows.map(({ note, versionNumber }) => ({
    id: note.id,
    versionNumber,
    answerTo: note.answerTo,
    firstFrame: note.firstFrame,
    lastFrame: note.lastFrame,
    x: note.x,
    y: note.y,
    words: note.words,
    author: note.author,
    at: note.createdAt.toISOString(),
    resolvedBy: note.resolvedAt ? (note.resolvedBy ?? '') : null,
  }))
}

/** Notes of each shot that nobody has resolved. */
export async function countOpenNotes(db: Database | Transaction): Promise<ReadonlyMap<string, number>> {
  const rows = await db
    .select({ shotId: notes.shotId, count: sql<number>`count(*)::int` })
    .from(notes)
    .where(and(isNull(notes.resolvedAt), isNull(notes.answerTo)))
    .groupBy(notes.shotId)
  return new Map(rows.map(({ shotId, count }) => [shotId, count]))
}

export async function addNote(
  db: Database,
  shotId: string,
  { intent: _intent, ...note }: z.output<typeof newNoteSchema>,
): Promise<Answer> {
  const found = await findShot(db, shotId)
  if (!found) return { ok: false, message: 'There is no such shot. It may have been removed.' }
  const { plate } = found
  const last = plate.firstFrame + plate.frameCount - 1
  if (note.firstFrame < plate.firstFrame || note.lastFrame > last)
    return {
      ok: false,
      message: `The shot has frames ${plate.firstFrame} to ${last}. The note was not kept.`,
    }
  if (note.versionId !== null && !(await isOfShot(db, note.versionId, shotId)))
    return { ok: false, message: 'That version is not of this shot. The note was not kept.' }
  if (note.answerTo !== null) {
    const [asked] = await db
      .select({ id: notes.id })
      .from(notes)
      .where(and(eq(notes.id, note.answerTo), eq(notes.shotId, shotId)))
    if (!asked) return { ok: false, message: 'The note that this answers is gone. It was not kept.' }
  }
  await db.insert(notes).values({ id: randomUUID(), shotId, ...note })
  await announce(db, { kind: 'note', id: shotId })
  return { ok: true, words: note.answerTo ? 'Answered.' : 'Noted.' }
}

export async function resolveNote(
  db: Database,
  shotId: string,
  { noteId, isResolved, author }: z.output<typeof resolveNoteSchema>,
): Promise<Answer> {
  const changed = await db
    .update(notes)
    .set({ resolvedAt: isResolved ? new Date() : null, resolvedBy: isResolved ? author : null })
    .where(and(eq(notes.id, noteId), eq(notes.shotId, shotId)))
    .returning({ id: notes.id })
  if (changed.length === 0) return { ok: false, message: 'This note is gone.' }
  await announce(db, { kind: 'note', id: shotId })
  return { ok: true, words: isResolved ? 'Resolved.' : 'Open again.' }
}

const isOfShot = async (db: Database, versionId: string, shotId: string): Promise<boolean> => {
  const [row] = await db
    .select({ id: versions.id })
    .from(versions)
    .where(and(eq(versions.id, versionId), eq(versions.shotId, shotId)))
  return row !== undefined
}

/** Decides of a finished version: all that was decided before stays to be read. */
export async function review(
  db: Database,
  shotId: string,
  { versionId, state, author }: z.output<typeof reviewSchema>,
): Promise<Answer> {
  const [version] = await db
    .select({ number: versions.number, state: versions.state })
    .from(versions)
    .where(and(eq(versions.id, versionId), eq(versions.shotId, shotId)))
  if (!version) return { ok: false, message: 'There is no such version.' }
  if (version.state !== 'done')
    return { ok: false, message: 'Only a version that is done can be decided on. Nothing has changed.' }
  await db.insert(reviews).values({ id: randomUUID(), versionId, state, author })
  await announce(db, { kind: 'note', id: shotId })
  return { ok: true, words: `Version ${version.number}: ${REVIEW_STATES[state].toLowerCase()}.` }
}

/** Of each shot what was decided last, and of which version. */
export async function lastReviews(
  db: Database | Transaction,
): Promise<ReadonlyMap<string, { readonly number: number; readonly state: ReviewState }>> {
  const rows = await db
    .selectDistinctOn([versions.shotId], {
      shotId: versions.shotId,
      number: versions.number,
      state: reviews.state,
    })
    .from(reviews)
    .innerJoin(versions, eq(versions.id, reviews.versionId))
    .orderBy(versions.shotId, desc(reviews.createdAt))
  return new Map(rows.map(({ shotId, ...last }) => [shotId, last]))
}

/** All that was decided of versions, the latest first. */
export async function reviewsOf(
  db: Database | Transaction,
  versionIds: readonly string[],
): Promise<ReadonlyMap<string, Review[]>> {
  const of = new Map<string, Review[]>()
  if (versionIds.length === 0) return of
  const rows = await db
    .select()
    .from(reviews)
    .where(inArray(reviews.versionId, [...versionIds]))
    .orderBy(desc(reviews.createdAt))
  for (const { versionId, state, author, createdAt } of rows) {
    const list = of.get(versionId) ?? []
    list.push({ state, author, at: createdAt.toISOString() })
    of.set(versionId, list)
  }
  return of
}
