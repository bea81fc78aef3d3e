import { and, eq, inArray } from 'drizzle-orm'
import { joinParts } from '../../core/survey/survey'
import { SURVEY_PARTS } from '../../core/survey/surveyPlate'
import type { ComputePool } from '../../workers/pool'
import type { ServerContext } from '../context.server'
import { surveys } from '../db/schema'
import { announce } from '../events.server'
import { log } from '../log.server'
import { plateReference } from '../plateFrames.server'
import { findShot } from '../shots.server'
import { keepFinds, writeLook } from '../surveys.server'
import type { JobPayload } from './queue.server'

const NEWS_EVERY_MS = 300

/** Looks through a shot for what must go. Run again after a lost worker, it begins anew: a survey takes seconds. */
export async function surveyShot(
  context: ServerContext,
  pool: ComputePool,
  { shotId }: JobPayload<'survey_plate'>,
  signal: AbortSignal,
): Promise<void> {
  const { db } = context.database
  const found = await findShot(db, shotId)
  if (!found) return // removed meanwhile
  const { plate } = found
  const here = eq(surveys.shotId, shotId)
  const begun = Date.now()
  const [row] = await db
    .update(surveys)
    .set({
      state: 'working',
      framesDone: 0,
      framesTotal: plate.frameCount,
      startedAt: new Date(begun),
      error: null,
    })
    .where(and(here, inArray(surveys.state, ['waiting', 'working'])))
    .returning()
  if (!row) return // called off meanwhile
  await announce(db, { kind: 'survey', id: shotId })
  const calledOff = new AbortController()
  let [lastNews, news] = [0, Promise.resolve()]
  const tell = async (framesDone: number) => {
    const told = await db
      .update(surveys)
      .set({ framesDone })
      .where(and(here, eq(surveys.state, 'working')))
      .returning({ shotId: surveys.shotId })
    if (told.length === 0) return calledOff.abort()
    const seconds = (Date.now() - begun) / 1000
    const step = { part: null, done: framesDone, total: plate.frameCount, seconds }
    await announce(db, { kind: 'survey', id: shotId, step })
  }
  const done = { still: 0, moving: 0, carrier: 0 }
  const onShare = () => {
    if (Date.now() - lastNews < NEWS_EVERY_MS) return
    lastNews = Date.now()
    // Only news: the next one, or the end, makes up for one that is lost.
    news = tell(Math.floor((done.still + done.moving + done.carrier) / SURVEY_PARTS.length)).catch(
      (cause: unknown) => log.warn({ err: cause, shotId }, 'progress of a survey could not be told'),
    )
  }
  const range = { firstFrame: plate.firstFrame, lastFrame: plate.firstFrame + plate.frameCount - 1 }
  const failed = new AbortController()
  const runPart = async (part: (typeof SURVEY_PARTS)[number]) => {
    const { surveyed } = await pool.run(
      { kind: 'survey', part, plate: plateReference(context, plate), range },
      {
        signal: AbortSignal.any([signal, calledOff.signal, failed.signal]),
        onShare(framesDone) {
          done[part] = framesDone
          onShare()
        },
      },
    )
    return surveyed
  }
  const parts = await Promise.all(SURVEY_PARTS.map(runPart)).catch((cause: unknown) => {
    failed.abort() // one part alone is no survey
    throw cause
  })
  await news
  if (calledOff.signal.aborted) return
  const [still, moving, carrier] = parts
  if (still?.part !== 'still' || moving?.part !== 'moving' || carrier?.part !== 'carrier')
    throw new Error('The survey was stopped half way.') // this worker is going away: another begins anew
  const survey = joinParts(plate, plate.firstFrame, still.still, moving.moving, carrier.carrier)
  await writeLook(context.folders.looks, plate, 'mean', still.meanPicture)
  await writeLook(context.folders.looks, plate, 'spread', still.spreadPicture)
  const about = {
    rest: survey.rest,
    cuts: survey.cuts,
    flashes: survey.flashes,
    flickerStops: survey.flickerStops,
    seconds: (Date.now() - begun) / 1000,
    frames: plate.frameCount,
  }
  await db.transaction(async (tx) => {
    const ended = await tx
      .update(surveys)
      .set({ state: 'done', framesDone: plate.frameCount, about })
      .where(and(here, eq(surveys.state, 'working')))
      .returning()
    if (ended.length === 0) return // called off at the last moment
    await keepFinds(tx, shotId, survey.finds)
    await announce(tx, { kind: 'survey', id: shotId })
  })
}

export async function failSurvey(
  { database: { db } }: ServerContext,
  shotId: string,
  error: string,
): Promise<void> {
  await db.update(surveys).set({ state: 'failed', error }).where(eq(surveys.shotId, shotId))
  await announce(db, { kind: 'survey', id: shotId })
}
