import { createHash, webcrypto } from 'node:crypto'
import { join } from 'node:path'
import { and, eq, gt, inArray, lt, or } from 'drizzle-orm'
import { finishedChannels } from '../../core/evaluate/finished'
import { findFill } from '../../core/fill/registry'
import { isStroke } from '../../core/document/areas'
import type { Mend } from '../../core/document/mend'
import { tracksById } from '../../core/document/tracks'
import type { Samples } from '../../core/image/samples'
import { countChangedOutside } from '../../core/measure/changedOutside'
import { coarseFrame, type CoarseFrame } from '../../core/measure/coarseFrame'
import { expectedAround, FARTHEST_LAG, lagsAround } from '../../core/measure/lags'
import type { MendMeasure } from '../../core/measure/mendMeasure'
import type { ShotDocument } from '../../core/plan/shotDocument'
import { proofOfFrame } from '../../core/proof/frameProof'
import { overTimeOfMends } from '../../core/proof/overTimeOfMends'
import { worthALook } from '../../core/snags/gains'
import { findSnags, type Snag } from '../../core/snags/snags'
import { motionsBetween, type Scene } from '../../core/scene/scene'
import type { Frame, FrameRange } from '../../core/time'
import type { ComputePool } from '../../workers/pool'
import type { ServerContext } from '../context.server'
import { proofFrames, proofs } from '../db/schema'
import { announce } from '../events.server'
import { log } from '../log.server'
import { isLossless, readDelivered } from '../media/delivered.server'
import { RENDER_FORMATS } from '../media/formats'
import { plateReference } from '../plateFrames.server'
import { PROOF_ORDER, proofKey } from '../proofs.server'
import { loadScene } from '../scenes.server'
import { findShot, loadShotDocument } from '../shots.server'
import {
  findVersion,
  isOnItsWay,
  sceneOfVersion,
  versionFolder,
  viewsOfVersion,
  type Version,
} from '../versions.server'
import { viewsForVersion } from '../views.server'
import { enqueue, type JobPayload } from './queue.server'
import { openView, readStored } from './renderChunk.server'
import {
  mendedPixels,
  mendFrame,
  withDocuments,
  type MendedFrame,
  type RenderRun,
} from './renderFrames.server'

const NEWS_EVERY_MS = 300
/** A proof that waits for the scene's motion is looked at so often. */
const SCENE_CHECK_SECONDS = 1

/** What is proved: how it is made, on which frames, and of a version its file. */
interface Subject {
  readonly run: RenderRun
  readonly range: FrameRange
  readonly delivered: AsyncGenerator<Samples> | null
  readonly revision: number
  /** How the background moves: of a version that needed to know, as it was then. */
  readonly scene: Scene | null
}

/**
 * Measures every frame of a version, or of the mends of a shot as they are: what renders and pages have worked out is only read. Of a
 * version in a lossless format the file itself is read again. Frames that have not changed since they were measured last are left as they are.
 */
export async function proveFrames(
  context: ServerContext,
  pool: ComputePool,
  { proofId }: JobPayload<'prove'>,
  signal: AbortSignal,
): Promise<void> {
  const { db } = context.database
  const here = eq(proofs.id, proofId)
  const isAsked = and(here, inArray(proofs.state, ['waiting', 'working']))
  const [asked] = await db.select({ shotId: proofs.shotId }).from(proofs).where(isAsked)
  if (!asked) return // called off meanwhile
  const status = await loadScene(db, asked.shotId)
  if (isOnItsWay(status)) {
    await enqueue(db, 'prove', { proofId }, proofKey(proofId), {
      ...PROOF_ORDER,
      delaySeconds: SCENE_CHECK_SECONDS,
    })
    return
  }
  const [proof] = await db
    .update(proofs)
    .set({ state: 'working', startedAt: new Date(), error: null, framesDone: 0 })
    .where(isAsked)
    .returning()
  if (!proof) return
  const subject = await subjectOf(context, pool, proof, status.scene, signal)
  if (!subject) return
  const { range, run, revision } = subject
  const total = range.lastFrame - range.firstFrame + 1
  await db.update(proofs).set({ framesTotal: total, revision }).where(here)
  await announce(db, { kind: 'proof', id: proof.shotId })
  const begun = Date.now()
  let lastNews = begun
  const tell = async (framesDone: number) => {
    if (Date.now() - lastNews < NEWS_EVERY_MS) return
    lastNews = Date.now()
    const [open] = await db
      .update(proofs)
      .set({ framesDone })
      .where(and(here, eq(proofs.state, 'working')))
      .returning({ id: proofs.id })
    if (!open) throw new CalledOff()
    const step = { part: proof.versionId, done: framesDone, total, seconds: (Date.now() - begun) / 1000 }
    await announce(db, { kind: 'proof', id: proof.shotId, step })
  }
  const prover = new Prover(context, proofId, subject)
  try {
    await prover.dropBeyond()
    await withDocuments(run, (documentIds) => prover.prove(documentIds, tell))
  } catch (cause) {
    if (!(cause instanceof CalledOff)) throw cause
    log.info({ proofId }, 'a proof was called off')
    return
  } finally {
    await subject.delivered?.return(undefined)
  }
  await db
    .update(proofs)
    .set({ state: 'done', framesDone: total, finishedAt: new Date() })
    .where(and(here, eq(proofs.state, 'working')))
  await announce(db, { kind: 'proof', id: proof.shotId })
}

class CalledOff extends Error {
  override readonly name = 'CalledOff'
}

async function subjectOf(
  context: ServerContext,
  pool: ComputePool,
  { shotId, versionId }: typeof proofs.$inferSelect,
  latest: Scene | null,
  signal: AbortSignal,
): Promise<Subject | null> {
  const { db } = context.database
  const found = await findShot(db, shotId)
  if (!found) return null
  const { plate } = found
  const reference = plateReference(context, plate)
  const whole = { firstFrame: plate.firstFrame, lastFrame: plate.firstFrame + plate.frameCount - 1 }
  const common = { frames: context.frames, pool, plate: reference, signal }
  if (versionId === null) {
    const { document, revision } = (await loadShotDocument(db, shotId))!
    const ofViews = await db.transaction((tx) => viewsForVersion(tx, shotId))
    const views = await Promise.all(ofViews.map((one) => openView(context, one)))
    const channels = finishedChannels(plate.channels, document.mends, views.length === 0)
    return {
      run: { ...common, document, channels, views },
      range: whole,
      delivered: null,
      revision,
      scene: latest,
    }
  }
  const version = await findVersion(context, versionId)
  if (!version) return null
  const { mends, tracks } = readStored(version.document)
  const [scene, ofViews] = [await sceneOfVersion(db, version), await viewsOfVersion(db, version)]
  if (scene === 'awaited' || ofViews === 'awaited') throw new Error('the version is not rendered yet')
  const document: ShotDocument = {
    mends,
    tracks: tracksById(tracks),
    plate: { ...whole, width: plate.width, height: plate.height },
    scene,
  }
  const views = await Promise.all(ofViews.map((one) => openView(context, one)))
  const keepsAlpha = RENDER_FORMATS[version.format].keepsAlpha && views.length === 0
  const channels = finishedChannels(plate.channels, mends, keepsAlpha)
  const rate = { num: plate.rateNum, den: plate.rateDen }
  const delivered = deliveredOf(
    context,
    version,
    { ...reference, channels: channels as 3 | 4, frameRate: rate },
    signal,
  )
  const range = { firstFrame: version.firstFrame, lastFrame: version.lastFrame }
  return {
    run: { ...common, document, channels, views },
    range,
    delivered,
    revision: 0,
    scene: scene ?? latest,
  }
}

function deliveredOf(
  context: ServerContext,
  { id, format, fileName, firstFrame, lastFrame }: Version,
  shape: Omit<Parameters<typeof readDelivered>[3], 'frameCount'>,
  signal: AbortSignal,
): AsyncGenerator<Samples> | null {
  if (!fileName || !isLossless(format)) return null
  const { width, height, channels, bitDepth, frameRate } = shape
  const frameCount = lastFrame - firstFrame + 1
  const path = join(versionFolder(context, id), fileName)
  return readDelivered(
    format,
    path,
    fileName,
    { width, height, channels, bitDepth, frameRate, frameCount },
    signal,
  )
}

/** A frame as far as it is needed for those around it. */
interface Passed {
  readonly coarse: CoarseFrame
  readonly measures: readonly MendMeasure[]
  readonly patches: MendedFrame['patches']
  readonly plateSha256: string
  readonly resultSha256: string
  readonly changedOutside: number
  readonly isAsRendered: boolean | null
}

/** Frames that are made beyond the one that is waited for. */
const AHEAD = 3

/** Goes through the frames once; each is measured when those it is compared with have gone by. */
class Prover {
  readonly #context: ServerContext
  readonly #proofId: string
  readonly #subject: Subject
  readonly #passed = new Map<Frame, Passed>()
  /** Mends that leave the thing where it is. */
  readonly #corrected: ReadonlySet<string>
  #toldOf: readonly Snag[] | null = null

  constructor(context: ServerContext, proofId: string, subject: Subject) {
    this.#context = context
    this.#proofId = proofId
    this.#subject = subject
    const { document, views = [] } = subject.run
    const all = [document, ...views.map((view) => view.document)].flatMap(({ mends }) => mends)
    this.#corrected = new Set(all.filter(isOnlyCorrected).map(({ id }) => id))
  }

  /** Frames that are no longer asked for. */
  async dropBeyond(): Promise<void> {
    const { firstFrame, lastFrame } = this.#subject.range
    await this.#context.database.db
      .delete(proofFrames)
      .where(
        and(
          eq(proofFrames.proofId, this.#proofId),
          or(lt(proofFrames.frame, firstFrame), gt(proofFrames.frame, lastFrame)),
        ),
      )
  }

  async prove(
    documentIds: readonly [string, ...string[]],
    tell: (done: number) => Promise<void>,
  ): Promise<void> {
    const { run, range, delivered } = this.#subject
    const { firstFrame, lastFrame } = range
    const names = await this.#names(documentIds)
    const wanted = await this.#wanted(names)
    const needed = neededFor(wanted, range)
    const made = new Map<Frame, Promise<MendedFrame>>()
    const begin = (frame: Frame) => {
      if (frame > lastFrame || !needed.has(frame) || made.has(frame)) return
      const making = mendFrame(run, documentIds, frame)
      making.catch(() => undefined) // awaited in its turn
      made.set(frame, making)
    }
    let done = 0
    // The next one is decoded while this one is measured, and what was measured is stored meanwhile.
    let coming = delivered && nextOf(delivered)
    let keeping: Promise<void> | null = null
    for (let frame = firstFrame; frame <= lastFrame + FARTHEST_LAG; frame++) {
      if (frame <= lastFrame) {
        const file = coming && (await coming)
        coming = delivered && frame < lastFrame ? nextOf(delivered) : null
        coming?.catch(() => undefined) // awaited in its turn
        for (let ahead = frame; ahead < frame + run.pool.size + AHEAD; ahead++) begin(ahead)
        const making = made.get(frame)
        if (making) this.#passed.set(frame, await passed(await making, file))
        made.delete(frame)
      }
      const ripe = frame - FARTHEST_LAG
      await keeping
      keeping = wanted.has(ripe) ? this.#keep(ripe, names.get(ripe)!) : null
      keeping?.catch(() => undefined) // awaited with the next one
      this.#passed.delete(ripe - FARTHEST_LAG - 1)
      if (ripe >= firstFrame) await tell(++done)
    }
    await keeping
  }

  /** What frames are called with all that their proof hangs on: of a version the file as well, which is always read. */
  async #names(documentIds: readonly [string, ...string[]]): Promise<ReadonlyMap<Frame, string>> {
    const { run, range } = this.#subject
    const { firstFrame, lastFrame } = range
    const frames = Array.from({ length: lastFrame - firstFrame + 1 }, (_, i) => firstFrame + i)
    const own = new Map<Frame, string[]>(frames.map((frame) => [frame, []]))
    const asked = [run.plate, ...(run.views ?? []).map(({ plate }) => plate)]
    for (const [i, documentId] of documentIds.entries()) {
      const named = await run.pool.run({ kind: 'names', plate: asked[i]!, documentId, frames })
      for (const { frame, key } of named) own.get(frame)!.push(key)
    }
    // How the background moves is asked of frames by themselves as well; and data tell some snags.
    const motions = JSON.stringify(this.#subject.scene?.layers.map((layer) => layer.motions) ?? null)
    return new Map(
      frames.map((frame) => {
        const seen = [frame, frame - 1, ...lagsAround(frame, firstFrame, lastFrame)]
        const parts = seen.map((one) => own.get(one)?.join(' ') ?? '')
        return [frame, digestOf(JSON.stringify([motions, this.#told(frame), parts]))]
      }),
    )
  }

  /** Frames whose proof is not known, or of other pixels. */
  async #wanted(names: ReadonlyMap<Frame, string>): Promise<ReadonlySet<Frame>> {
    if (this.#subject.delivered) return new Set(names.keys())
    const rows = await this.#context.database.db
      .select({ frame: proofFrames.frame, name: proofFrames.name })
      .from(proofFrames)
      .where(eq(proofFrames.proofId, this.#proofId))
    const known = new Map(rows.map(({ frame, name }) => [frame, name]))
    return new Set([...names].filter(([frame, name]) => known.get(frame) !== name).map(([frame]) => frame))
  }

  /** Without what is no news where nothing could be seen. */
  #worthALook(snags: readonly Snag[]): readonly Snag[] {
    const { mends, tracks } = this.#subject.run.document
    return worthALook(snags, mends, tracks, this.#subject.scene)
  }

  /** Snags of a frame that the data of its mends tell. */
  #told(frame: Frame): readonly Snag[] {
    const { mends, tracks, plate } = this.#subject.run.document
    this.#toldOf ??= mends.flatMap((mend) => findSnags(mend, tracks, plate))
    return this.#toldOf.filter((snag) => snag.frame === frame)
  }

  async #keep(frame: Frame, name: string): Promise<void> {
    const one = this.#passed.get(frame)!
    const { scene, range } = this.#subject
    const { firstFrame, lastFrame } = range
    const others = lagsAround(frame, firstFrame, lastFrame).flatMap((other) => {
      const there = this.#passed.get(other)
      return there && scene ? [{ coarse: there.coarse, motions: motionsBetween(scene, frame, other) }] : []
    })
    const isTold = (mendId: string) => !this.#corrected.has(mendId)
    const expected = expectedAround(frame).flatMap((other) => this.#passed.get(other) ?? [])
    const overTime = overTimeOfMends(one, expected, others, isTold)
    const before = this.#passed.get(frame - 1)?.measures ?? []
    const proof = proofOfFrame(frame, { measures: one.measures, before, overTime })
    const row = {
      name,
      plateSha256: one.plateSha256,
      resultSha256: one.resultSha256,
      changedOutside: one.changedOutside,
      isAsRendered: one.isAsRendered,
      proof: { ...proof, snags: this.#worthALook([...this.#told(frame), ...proof.snags]) },
    }
    await this.#context.database.db
      .insert(proofFrames)
      .values({ proofId: this.#proofId, frame, ...row })
      .onConflictDoUpdate({ target: [proofFrames.proofId, proofFrames.frame], set: row })
  }
}

/** Whether a mend leaves the thing where it is, and only corrects it: what other frames show says nothing of it then. */
function isOnlyCorrected({ fill, areas }: Mend): boolean {
  const strokes = areas.filter(isStroke)
  const fills = strokes.length > 0 ? strokes.map(({ stroke }) => stroke.fill) : [fill]
  return fills.every(({ methodId }) => findFill(methodId)?.keepsThing === true)
}

/** The frames that must be made: those that are wanted, those before them, those they are compared with. */
function neededFor(wanted: ReadonlySet<Frame>, { firstFrame, lastFrame }: FrameRange): ReadonlySet<Frame> {
  const needed = new Set<Frame>()
  for (const frame of wanted)
    for (const one of [frame, Math.max(firstFrame, frame - 1), ...lagsAround(frame, firstFrame, lastFrame)])
      needed.add(one)
  return needed
}

/** @param file  What the finished file has; null where nothing is to be read again. */
async function passed(mended: MendedFrame, file: Samples | null): Promise<Passed> {
  const { plate, finished, patches, measures } = mended
  const result = file ?? finished
  const hashing = Promise.all([sha256Of(plate), sha256Of(result)])
  const measured = {
    coarse: coarseFrame(result),
    changedOutside: countChangedOutside(plate, result, mendedPixels(mended)),
  }
  const [plateSha256, resultSha256] = await hashing
  return {
    ...measured,
    measures,
    patches,
    plateSha256,
    resultSha256,
    isAsRendered: file && bytesOf(file).equals(bytesOf(finished)),
  }
}

async function nextOf(frames: AsyncGenerator<Samples>): Promise<Samples> {
  const next = await frames.next()
  if (next.done) throw new Error('The file has fewer frames than were rendered. Make the version once more.')
  return next.value
}

/** Of the samples in reading order; 16-bit ones low byte first. Beside this thread. */
async function sha256Of(samples: Samples): Promise<string> {
  return Buffer.from(await webcrypto.subtle.digest('SHA-256', bytesOf(samples))).toString('hex')
}

const bytesOf = ({ data }: Samples): Buffer<ArrayBuffer> =>
  Buffer.from(data.buffer as ArrayBuffer, data.byteOffset, data.byteLength)

const digestOf = (text: string): string => createHash('sha256').update(text).digest('hex')

export async function failProof(
  { database: { db } }: ServerContext,
  proofId: string,
  error: string,
): Promise<void> {
  const [row] = await db
    .update(proofs)
    .set({ state: 'failed', error })
    .where(eq(proofs.id, proofId))
    .returning()
  if (row) await announce(db, { kind: 'proof', id: row.shotId })
}
