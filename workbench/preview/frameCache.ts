/**
 * Frames ready to be shown: the plate's picture, and the mended pieces that lie over it.
 *
 * The frame at the playhead comes first, then those ahead of it, as far as memory allows. A mended
 * piece is kept under a key of everything that made it; out-of-date work is stopped.
 */
import { findFill } from '../../core/fill/registry'
import type { EvaluateAnswer, EvaluateRequest, PlateReference } from '../../workers/protocol'
import { StoppedError, type ComputePool } from '../../workers/pool'
import { rgba8FromSamples } from '../../core/image/samples'
import { planFrame } from '../../core/plan/planFrame'
import type { Mend } from '../../core/document/mend'
import type { Tracks } from '../../core/document/tracks'
import type { Scene } from '../../core/scene/scene'
import { mendedFrameKey } from './mendKey'

export interface ShownPatch {
  readonly col: number
  readonly row: number
  readonly bitmap: ImageBitmap
  /** Something of it is cut away: what lies behind is shown as nothing, not as the plate. */
  readonly hasHoles: boolean
}

export interface Mended {
  readonly key: string
  readonly patches: readonly ShownPatch[]
  readonly measures: EvaluateAnswer['measures']
  readonly notes: EvaluateAnswer['notes']
  readonly seenMaps: EvaluateAnswer['seenMaps']
}

interface Entry {
  plate: ImageBitmap | null
  mended: Mended | null
  /** What is being computed for this frame, and how to stop it. */
  work: { readonly key: string; readonly stop: AbortController; readonly isUrgent: boolean } | null
  isFetching: boolean
  /** Failed once: tried again only when the playhead comes to it. */
  hasNoPlate: boolean
  failedKey: string | null
}

const BUDGET_BYTES = 1.2 * 2 ** 30
const AHEAD_AT_ONCE = 2
const FETCHES_AT_ONCE = 2

export interface FrameCacheOptions {
  readonly plate: PlateReference & { readonly firstFrame: number; readonly lastFrame: number }
  readonly pool: ComputePool
  /** Called when a frame has become ready or stale. */
  readonly onChange: (frame: number) => void
  readonly onProblem: (message: string) => void
}

export class FrameCache {
  readonly #options: FrameCacheOptions
  readonly #entries = new Map<number, Entry>()
  #mends: readonly Mend[] = []
  #tracks: Tracks = new Map()
  #scene: Scene | null = null
  /** Keys of the present mends, by frame: asked for many times while nothing changes. */
  readonly #keys = new Map<number, string>()
  #playhead: number
  #fetches = 0
  #ahead = 0
  /** Whether any frame of the present mends is done: then whatever takes long has been worked out. */
  #hasFinal = false
  #isClosed = false

  constructor(options: FrameCacheOptions) {
    this.#options = options
    this.#playhead = options.plate.firstFrame
  }

  /** What to show from now on. The same call when nothing changed costs little. */
  want(frame: number, mends: readonly Mend[], tracks: Tracks, scene: Scene | null = null): void {
    this.#playhead = frame
    if (mends !== this.#mends || tracks !== this.#tracks || scene !== this.#scene) {
      this.#scene = scene
      this.#mends = mends
      this.#tracks = tracks
      this.#keys.clear()
      this.#hasFinal = false
      this.#stopStale()
    }
    const entry = this.#entry(frame)
    entry.hasNoPlate = false
    if (!entry.mended) entry.failedKey = null
    this.#fetchPlate(frame)
    this.#mend(frame, true)
    this.#workAhead()
  }

  plateAt(frame: number): ImageBitmap | null {
    return this.#entries.get(frame)?.plate ?? null
  }

  #keyAt(frame: number): string {
    let key = this.#keys.get(frame)
    if (key === undefined) {
      key = mendedFrameKey(this.#mends, this.#tracks, frame, this.#options.plate, this.#scene)
      this.#keys.set(frame, key)
    }
    return key
  }

  /** The mended pieces of a frame; `isCurrent` says whether they are those of the present mends. */
  mendedAt(frame: number): { readonly mended: Mended; readonly isCurrent: boolean } | null {
    const mended = this.#entries.get(frame)?.mended
    return mended ? { mended, isCurrent: mended.key === this.#keyAt(frame) } : null
  }

  /** Whether a frame can be shown at once as it should look. */
  isReady(frame: number): boolean {
    const entry = this.#entries.get(frame)
    return entry?.plate != null && entry.mended !== null && entry.mended.key === this.#keyAt(frame)
  }

  close(): void {
    this.#isClosed = true
    for (const entry of this.#entries.values()) {
      entry.work?.stop.abort()
      entry.plate?.close()
      entry.mended?.patches.forEach((patch) => patch.bitmap.close())
    }
    this.#entries.clear()
  }

  #entry(frame: number): Entry {
    let entry = this.#entries.get(frame)
    if (!entry)
      this.#entries.set(
        frame,
        (entry = {
          plate: null,
          mended: null,
          work: null,
          isFetching: false,
          hasNoPlate: false,
          failedKey: null,
        }),
      )
    return entry
  }

  #stopStale(): void {
    for (const [frame, entry] of this.#entries) {
      if (entry.work && entry.work.key !== this.#keyAt(frame)) {
        entry.work.stop.abort()
        entry.work = null
      }
    }
  }

  #fetchPlate(frame: number): void {
    const entry = this.#entry(frame)
    if (entry.plate || entry.isFetching || entry.hasNoPlate || this.#isClosed) return
    entry.isFetching = true
    this.#fetches++
    const { width, height, location } = this.#options.plate
    fetch(`${location}/${frame}?as=rgba8`)
      .then(async (response) => {
        if (!response.ok) throw new Error(`Frame ${frame} could not be fetched (${response.status}).`)
        const pixels = new Uint8ClampedArray(await response.arrayBuffer())
        const bitmap = await createImageBitmap(new ImageData(pixels, width, height), EXACT)
        if (this.#isClosed || this.#entries.get(frame) !== entry) return bitmap.close()
        entry.plate = bitmap
        this.#options.onChange(frame)
      })
      .catch((cause: Error) => {
        entry.hasNoPlate = true
        this.#options.onProblem(`${cause.message} It is asked for again when you come back to it.`)
      })
      .finally(() => {
        entry.isFetching = false
        this.#fetches--
        this.#workAhead()
      })
  }

  #mend(frame: number, isUrgent: boolean): void {
    const entry = this.#entry(frame)
    const key = this.#keyAt(frame)
    if (entry.mended?.key === key || entry.failedKey === key || this.#isClosed) return
    if (entry.work?.key === key && (entry.work.isUrgent || !isUrgent)) return
    entry.work?.stop.abort()
    if (isUrgent) this.#makeRoom(frame)
    const work = { key, stop: new AbortController(), isUrgent }
    entry.work = work
    const { plate, onProblem } = this.#options
    if (!isUrgent) this.#ahead++
    const plan = planFrame(this.#mends, this.#tracks, frame, plate, this.#scene)
    const make = async (isDraft: boolean, signal: AbortSignal) => {
      const answer = await this.#options.pool.run(
        { kind: 'evaluate', plate, plan, isDraft } satisfies EvaluateRequest,
        {
          urgency: isUrgent ? 1 : 0,
          signal,
        },
      )
      if (isDraft && entry.mended?.key === key) return // the full one was sooner
      const patches = await Promise.all(answer.patches.map(toShownPatch))
      if (entry.work !== work || this.#entries.get(frame) !== entry)
        return patches.forEach((patch) => patch.bitmap.close())
      entry.mended?.patches.forEach((patch) => patch.bitmap.close())
      entry.mended = {
        key: isDraft ? `${key} preview` : key,
        patches,
        measures: answer.measures,
        notes: answer.notes,
        seenMaps: answer.seenMaps,
      }
      this.#hasFinal ||= !isDraft
      this.#options.onChange(frame)
    }
    const isLookedForward =
      isUrgent && !this.#hasFinal && plan.mends.some(({ fill }) => findFill(fill.methodId)?.hasDraft)
    // Both at once: on another worker the full one begins without waiting for the first look.
    const quick = isLookedForward ? new AbortController() : null
    if (quick) {
      work.stop.signal.addEventListener('abort', () => quick.abort(), { once: true })
      make(true, quick.signal).catch((cause: unknown) => {
        if (!(cause instanceof StoppedError))
          onProblem(`The first look at frame ${frame} failed: ${(cause as Error).message}`)
      })
    }
    make(false, work.stop.signal)
      .catch((cause: unknown) => {
        if (cause instanceof StoppedError) return
        entry.failedKey = key
        onProblem(`Frame ${frame} could not be mended: ${(cause as Error).message}`)
      })
      .finally(() => {
        quick?.abort()
        if (entry.work === work) entry.work = null
        if (!isUrgent) this.#ahead--
        this.#workAhead()
      })
  }

  /** What is looked at does not wait for frames that may be looked at later: of those the furthest one is put off. */
  #makeRoom(wanted: number): void {
    if (this.#ahead < AHEAD_AT_ONCE) return
    const { firstFrame, lastFrame } = this.#options.plate
    const count = lastFrame - firstFrame + 1
    const stepsTo = (frame: number) => (frame - this.#playhead + count) % count
    const ahead = [...this.#entries].filter(([frame, { work }]) => frame !== wanted && work && !work.isUrgent)
    const [furthest] = ahead.sort(([a], [b]) => stepsTo(b) - stepsTo(a))
    furthest?.[1].work?.stop.abort()
  }

  /** Fetches and mends frames from the playhead on, round the end to the start, within the budget. */
  #workAhead(): void {
    if (this.#isClosed) return
    const { firstFrame, lastFrame, width, height } = this.#options.plate
    const count = lastFrame - firstFrame + 1
    const room = Math.max(2, Math.min(count, Math.floor(BUDGET_BYTES / (width * height * 4))))
    this.#evictBeyond(room)
    for (let step = 0; step < room; step++) {
      const isPoolFull = this.#ahead >= AHEAD_AT_ONCE
      if (this.#fetches >= FETCHES_AT_ONCE && isPoolFull) return
      const frame = firstFrame + ((this.#playhead - firstFrame + step) % count)
      if (this.#fetches < FETCHES_AT_ONCE) this.#fetchPlate(frame)
      if (!isPoolFull) this.#mend(frame, false)
    }
  }

  #evictBeyond(room: number): void {
    const { firstFrame, lastFrame } = this.#options.plate
    const count = lastFrame - firstFrame + 1
    for (const [frame, entry] of this.#entries) {
      const steps = (frame - this.#playhead + count) % count
      if (steps < room || entry.isFetching || entry.work) continue
      entry.plate?.close()
      entry.mended?.patches.forEach((patch) => patch.bitmap.close())
      this.#entries.delete(frame)
      this.#options.onChange(frame)
    }
  }
}

async function toShownPatch({
  rect,
  samples,
  alpha,
}: EvaluateAnswer['patches'][number]): Promise<ShownPatch> {
  const image = new ImageData(rgba8FromSamples(samples, alpha), samples.width, samples.height)
  return {
    col: rect.col,
    row: rect.row,
    bitmap: await createImageBitmap(image, EXACT),
    hasHoles: alpha !== null,
  }
}

/** Pixels arrive on the canvas as they are. */
const EXACT: ImageBitmapOptions = { premultiplyAlpha: 'none', colorSpaceConversion: 'none' }
