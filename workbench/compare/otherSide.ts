/**
 * Pictures of other mends than those that are worked on: a result that was kept, a version. Only frames that are looked at are mended, after what
 * the page needs for itself; the last ones are kept.
 */
import type { ShotDocument } from '../../core/plan/shotDocument'
import type { Frame } from '../../core/time'
import { StoppedError } from '../../workers/pool'
import type { FrameCacheOptions } from '../preview/frameState'
import { closePieces, mendedPieces, type Mended } from '../preview/mendedPieces'

/** Flipped and stepped to and fro, these are shown at once. */
const KEPT_FRAMES = 16
/** Before what is worked ahead, after what is edited. */
const URGENCY = 1

type Options = Pick<FrameCacheOptions, 'plate' | 'documentId' | 'onProblem'> & {
  readonly pool: FrameCacheOptions['pool']
}

export class OtherSide {
  readonly #options: Options
  /** The latest looked at comes last. */
  readonly #frames = new Map<Frame, Mended>()
  readonly #listeners = new Set<() => void>()
  #document: ShotDocument | null = null
  #stop = new AbortController()
  #working: Frame | null = null

  constructor(options: Options) {
    this.#options = options
  }

  /** What to show from now on; null: nothing. The same call when nothing changed costs nothing. */
  want(frame: Frame, document: ShotDocument | null): void {
    if (document !== this.#document) this.#take(document)
    if (!document || this.#working === frame) return
    this.#stop.abort()
    this.#stop = new AbortController()
    this.#working = null
    const known = this.#frames.get(frame)
    if (!known) return void this.#make(frame, this.#stop.signal)
    this.#frames.delete(frame)
    this.#frames.set(frame, known)
  }

  /** Null while it is not known. */
  at(frame: Frame): Mended | null {
    return this.#frames.get(frame) ?? null
  }

  subscribe(listener: () => void): () => void {
    this.#listeners.add(listener)
    return () => void this.#listeners.delete(listener)
  }

  close(): void {
    this.#take(null)
  }

  #take(document: ShotDocument | null): void {
    const { pool, documentId } = this.#options
    this.#stop.abort()
    this.#working = null
    for (const mended of this.#frames.values()) closePieces(mended)
    this.#frames.clear()
    if (document) pool.setDocument(documentId, document)
    else if (this.#document) pool.dropDocument(documentId)
    this.#document = document
    this.#changed()
  }

  async #make(frame: Frame, signal: AbortSignal): Promise<void> {
    const { pool, plate, documentId, onProblem } = this.#options
    this.#working = frame
    try {
      const request = { kind: 'evaluate', plate, documentId, frame, isDraft: false } as const
      const mended = await mendedPieces(await pool.run(request, { urgency: URGENCY, signal }), request)
      if (signal.aborted) return closePieces(mended)
      this.#frames.set(frame, mended)
      const [oldest] = this.#frames.keys()
      if (this.#frames.size > KEPT_FRAMES) {
        closePieces(this.#frames.get(oldest!)!)
        this.#frames.delete(oldest!)
      }
      this.#changed()
    } catch (cause) {
      if (!(cause instanceof StoppedError))
        onProblem(`Frame ${frame} of what is compared with could not be mended: ${(cause as Error).message}`)
    } finally {
      if (!signal.aborted) this.#working = null
    }
  }

  #changed(): void {
    for (const listener of this.#listeners) listener()
  }
}
