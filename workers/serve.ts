/** The worker's side: takes requests, runs the core, answers. Knows neither browser nor Node. */
import { findBlemishes } from '../core/evaluate/findBlemishes'
import { findFaces } from '../core/evaluate/findFaces'
import { findLightChanges, learnToneOf } from '../core/evaluate/learnTones'
import { LRUCache } from 'lru-cache'
import { bringFrame, evaluateFrame } from '../core/evaluate/evaluateFrame'
import { isOfThing } from '../core/document/followedThing'
import { skinBands } from '../core/evaluate/skinBands'
import { masksOf, masksOfOthers } from '../core/evaluate/masks'
import { suggestedResults } from '../core/evaluate/suggest/suggestedResults'
import { runCling } from '../core/motion/cling/runCling'
import { runTrack, type TrackedFrame } from '../core/motion/runTrack'
import type { FoundThing } from '../core/motion/thing/followThing'
import { kernels } from '../core/kernels/module'
import { frameKey } from '../core/plan/keys'
import { findTakenMark, type TakenMarkFound } from '../core/evaluate/takenMark'
import { findPlace, type MarkFound } from '../core/plan/findPlace'
import { findThing } from '../core/plan/findThing'
import { planFrame } from '../core/plan/planFrame'
import type { ShotDocument } from '../core/plan/shotDocument'
import { analyseScene } from '../core/scene/analyseScene'
import { reworkScene } from '../core/scene/reworkScene'
import type { Clip } from '../core/shot/clip'
import type { RunContext } from '../core/shot/context'
import type { Samples } from '../core/image/samples'
import { straighten } from '../core/sphere/straighten'
import { ViewMapping } from '../core/sphere/straightView'
import { readyDigests } from '../core/shot/digest'
import { surveyPart } from '../core/survey/surveyPlate'
import { faceModel, type FaceFiles } from './faces/faceModel'
import { createCaches } from './cache'
import { applyChange } from './documents'
import { TileCache, type ReadRects, type SharedTiles } from './tileCache'
import type {
  PlaceMarkJob,
  ComputeAnswer,
  ComputeRequest,
  EvaluateAnswer,
  EvaluateRequest,
  FromWorker,
  NamesAnswer,
  PlateReference,
  SceneAnswer,
  StraightenJob,
  MarkJob,
  ThingJob,
  TilesMessage,
  ToWorker,
  WorkerMemory,
} from './protocol'

export interface WorkerPort {
  post(message: FromWorker, transfer: ArrayBuffer[]): void
  onMessage(listen: (message: ToWorker) => void): void
}

interface TaskContext extends RunContext {
  onFrame(tracked: TrackedFrame): void
}

/** How this worker gets at a plate. */
export interface PlateAccess extends Pick<Clip, 'readMatte' | 'readStill' | 'readMark' | 'results'> {
  readonly readRects: ReadRects
}

/** Plates whose samples are kept: the shot at hand, and the one before. */
const MAX_PLATES = 2

/** Where a worker gets what it does not have itself. */
export interface WorkerSources {
  /** A plate's pixels. */
  openPlate(plate: PlateReference): PlateAccess
  readonly faceFiles: FaceFiles
}

/** Serves a port. */
export function serveCompute(port: WorkerPort, { openPlate, faceFiles }: WorkerSources): void {
  let stopFlag: Int32Array | null = null
  let openClip: ((plate: PlateReference) => OpenedClip) | null = null
  const documents = new Map<string, ShotDocument>()
  port.onMessage((message) => {
    if (message.kind === 'start') {
      stopFlag = message.stopFlag ? new Int32Array(message.stopFlag) : null
      const share = stopFlag && ((tiles: TilesMessage) => port.post(tiles, []))
      openClip = clipsWithin(message.memory, openPlate, share)
      kernels() // compiled before the first task waits for it
      return
    }
    if (message.kind === 'document') {
      const { documentId, change } = message
      if (change) documents.set(documentId, applyChange(documents.get(documentId) ?? null, change))
      else documents.delete(documentId)
      return
    }
    if (message.kind === 'tiles') {
      openClip?.(message.plate).tiles.take(message.tiles)
      return
    }
    const { token, request } = message
    const context: TaskContext = {
      // A busy worker hears no message, so stopping is a flag in shared memory.
      shouldStop: () => stopFlag !== null && Atomics.load(stopFlag, 0) === token,
      onFrame: (tracked) => port.post({ kind: 'progress', token, tracked }, []),
      onProgress: seldom((done, total) => port.post({ kind: 'share', token, done, total }, [])),
    }
    compute(request, openClip!(request.plate).clip, documents, faceFiles, context).then(
      (answer) => port.post({ kind: 'done', token, answer }, buffersOf(answer)),
      (cause: unknown) => {
        const {
          name = 'Error',
          message: text = String(cause),
          code = name,
        } = cause as { name?: string; message?: string; code?: string }
        port.post({ kind: 'failed', token, error: { code, message: text } }, [])
      },
    )
  })
}

const PROGRESS_EVERY_MS = 80

/** Told often, says it seldom: whoever shows it has other work. The end is always said. */
function seldom(tell: (done: number, total: number) => void): (done: number, total: number) => void {
  let last = 0
  return (done, total) => {
    const now = performance.now()
    if (now - last < PROGRESS_EVERY_MS && done < total) return
    last = now
    tell(done, total)
  }
}

interface OpenedClip {
  readonly clip: Clip
  readonly tiles: TileCache
}

/**
 * Clips that keep what they have read and worked out, within some room.
 * @param share  Tells other workers of what was read; null where memory cannot be shared.
 */
function clipsWithin(
  memory: WorkerMemory,
  openPlate: (plate: PlateReference) => PlateAccess,
  share: ((tiles: TilesMessage) => void) | null,
): (plate: PlateReference) => OpenedClip {
  const cacheOf = createCaches(memory.results)
  const opened = new LRUCache<string, OpenedClip>({ max: MAX_PLATES })
  return (plate) => {
    const known = opened.get(plate.plateId)
    if (known) return known
    const { readRects, ...access } = openPlate(plate)
    const tell = share && ((come: SharedTiles) => share({ kind: 'tiles', plate, tiles: come }))
    const tiles = new TileCache(plate, memory.tiles / MAX_PLATES, readRects, tell)
    const clip: Clip = {
      ...access,
      plate,
      readRect: (frame, rect) => tiles.readRect(frame, rect),
      prefetch: (wanted) => tiles.prefetch(wanted),
      cache: cacheOf(plate.plateId),
    }
    opened.set(plate.plateId, { clip, tiles })
    return { clip, tiles }
  }
}

async function compute(
  request: ComputeRequest,
  clip: Clip,
  documents: ReadonlyMap<string, ShotDocument>,
  faceFiles: FaceFiles,
  context: TaskContext,
): Promise<ComputeAnswer> {
  switch (request.kind) {
    case 'track':
      return runTrack(request.request, clip, context)
    case 'cling':
      return runCling(request.request, clip, context)
    case 'survey':
      return { surveyed: await surveyPart(request.part, clip, request.range, context) }
    case 'straighten':
      return { straight: await straightened(request, clip) }
  }
  const document = documents.get(request.documentId)
  if (!document) throw new Error(`the document ${request.documentId} was not given to this worker`)
  switch (request.kind) {
    case 'evaluate':
      return evaluateAnswer(document, request, clip, context)
    case 'names':
      return namesOf(document, request.frames)
    case 'suggest':
      return suggestedResults(document, request.request, clip, context)
    case 'thing':
      return foundThing(document, request, clip, context)
    case 'mark':
      return { found: await foundMark(document, request, clip, context) }
    case 'place-mark':
      return { place: await placedMark(document, request, clip, context) }
    case 'spots':
      return { spots: await findBlemishes(document, request.mendId, request.frame, clip, context) }
    case 'tone':
      return { tone: await learnToneOf(document, request, clip) }
    case 'bands':
      return { bands: await skinBands(document, request.mendId, request.frame, clip, context) }
    case 'lights':
      return { changes: await findLightChanges(document, request.mendId, clip, context) }
    case 'faces': {
      const model = await faceModel(faceFiles)
      return { faces: await findFaces(document, request.mendId, request.frame, clip, model, context) }
    }
    case 'scene':
      return sceneAnswer(document, request.isReview, clip, context)
  }
}

function straightened({ frame, view, side }: StraightenJob, { plate, readRect }: Clip): Promise<Samples> {
  const mapping = new ViewMapping(view, side)
  return straighten(mapping, { col: 0, row: 0, width: side, height: side }, plate, (rect) =>
    readRect(frame, rect),
  )
}

async function evaluateAnswer(
  document: ShotDocument,
  { frame, isDraft, isPassing, showsSeen, tellsCovered, next }: EvaluateRequest,
  clip: Clip,
  context: RunContext,
): Promise<EvaluateAnswer> {
  await readyDigests()
  const plan = planFrame(document, frame)
  const asked = { ...context, isDraft, isPassing, showsSeen, tellsCovered }
  const evaluated = evaluateFrame(plan, clip, asked)
  // What cannot be brought is said by the frame itself, once it is asked for.
  if (typeof next === 'number')
    bringFrame(planFrame(document, next), clip, { ...asked, onProgress: undefined }).catch(() => undefined)
  return { ...(await evaluated), name: frameKey(plan) }
}

async function foundThing(
  document: ShotDocument,
  { mendId, areaId }: ThingJob,
  clip: Clip,
  context: RunContext,
): Promise<FoundThing> {
  const mend = document.mends.find(({ id }) => id === mendId)
  const area = mend?.areas.find(({ id }) => id === areaId)
  if (!mend || !area || !isOfThing(area) || !document.scene) return { ok: false, reason: 'like-background' }
  return findThing(document, document.scene, mend, area, clip, context)
}

async function foundMark(
  document: ShotDocument,
  { mendId, areaId }: MarkJob,
  clip: Clip,
  context: RunContext,
): Promise<TakenMarkFound | null> {
  const mend = document.mends.find(({ id }) => id === mendId)
  const area = mend?.areas.find(({ id }) => id === areaId)
  if (!mend || !area || !isOfThing(area)) return null
  // Drawn just now, the mark is still taken for a part of the background, one that never moves.
  const { scene } = await sceneAnswer(document, document.scene !== null, clip, context)
  if (context.shouldStop()) return null
  const othersOn = masksOfOthers(document, mendId, clip)
  return findTakenMark({ ...document, scene: scene ?? document.scene }, mend, area, clip, context, othersOn)
}

async function placedMark(
  document: ShotDocument,
  { mendId, frame }: PlaceMarkJob,
  clip: Clip,
  context: RunContext,
): Promise<MarkFound | null> {
  const mend = document.mends.find(({ id }) => id === mendId)
  return mend ? findPlace(document, mend, frame, clip, context) : null
}

async function namesOf(document: ShotDocument, frames: readonly number[]): Promise<NamesAnswer> {
  await readyDigests()
  return frames.map((frame) => ({ frame, key: frameKey(planFrame(document, frame)) }))
}

async function sceneAnswer(
  document: ShotDocument,
  isReview: boolean,
  clip: Clip,
  context: RunContext,
): Promise<SceneAnswer> {
  const { plate, scene: last } = document
  const request = { range: plate, maskAt: masksOf(document, clip) }
  const scene =
    isReview && last
      ? await reworkScene(request, last, clip, context)
      : await analyseScene(request, clip, context)
  return scene && scene === last ? { scene: null, isSame: true } : { scene, isSame: false }
}

const buffersOf = (answer: ComputeAnswer): ArrayBuffer[] =>
  'straight' in answer
    ? [answer.straight.data.buffer as ArrayBuffer]
    : 'patches' in answer
      ? [
          ...answer.patches.flatMap(({ samples, alpha, covered, mendedRuns }) => [
            ...[samples, ...(alpha ? [alpha] : [])].map(({ data }) => data.buffer as ArrayBuffer),
            mendedRuns.buffer as ArrayBuffer,
            ...(covered ? [covered.buffer as ArrayBuffer] : []),
          ]),
          ...answer.seenMaps.flatMap(({ seen, from }) => [
            seen.buffer as ArrayBuffer,
            from.buffer as ArrayBuffer,
          ]),
        ]
      : []
