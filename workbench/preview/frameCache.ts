/**
 * Frames ready to be shown: the plate's picture, and the mended pieces that lie over it.
 *
 * The frame at the playhead comes first, then those around it, as far as there is room. What a frame is called is worked
 * out by workers, from everything that makes its pixels: pieces whose name still holds after an edit, or holds again after
 * an undo, are shown at once.
 */
import { isSameDocument, type ShotDocument } from '../../core/plan/shotDocument'
import type { Frame, FrameRange } from '../../core/time'
import { StoppedError } from '../../workers/pool'
import type { EvaluateRequest } from '../../workers/protocol'
import { aheadOrder } from './aheadOrder'
import { DraftDelay, hasDraft } from './drafts'
import { closeEntry, emptyEntry, isSettled, stateOf, type Entry, type Work } from './frameEntry'
import { FrameNames } from './frameNames'
import { FramePlates } from './framePlates'
import { NOTHING_YET, type FrameCacheOptions, type FrameState, type Wanted } from './frameState'
import { bytesOfPieces, closePieces, mendedPieces } from './mendedPieces'

/** For pictures and pieces of all frames. */
const BUDGET_BYTES = 400 * 2 ** 20
/** For the frame that is waited for, and its draft. */
const AWAITED_CORES = 2
/** The playhead, the next frame and the one before. */
const BESIDE = 3
const URGENCY = { playhead: 2, names: 1, ahead: 0 } as const

export class FrameCache {
  readonly #options: FrameCacheOptions
  readonly #plates: FramePlates
  readonly #entries = new Map<Frame, Entry>()
  readonly #states = new Map<Frame, FrameState>()
  readonly #listeners = new Set<(frame: Frame) => void>()
  readonly #names: FrameNames
  #document: ShotDocument | null = null
  #playhead: Frame
  /** The playhead has come from a frame beside: the next ones will be wanted as it goes on. */
  #isStepping = false
  #isPassing = false
  #showsSeen = false
  #tellsCovered = false
  #range: FrameRange
  #isPlaying = false
  #fillsAhead = true
  #ahead = 0
  #pieceBytes = 0
  #isClosed = false
  readonly #draftDelay: DraftDelay

  constructor(options: FrameCacheOptions) {
    this.#options = options
    this.#draftDelay = new DraftDelay(options.draftAfterMs)
    this.#playhead = options.plate.firstFrame
    this.#range = options.plate
    this.#names = new FrameNames(options, (frame) => this.#named(frame))
    this.#plates = new FramePlates(options.plate.location, options.plate, {
      onChange: (frame) => this.#changed(frame),
      onSettled: () => this.#workAhead(),
      onProblem: options.onProblem,
    })
  }

  /** What to show from now on. The same call when nothing changed costs little. */
  want(wanted: Wanted): void {
    const {
      frame,
      document,
      isPassing = false,
      isHeld = false,
      isPlaying = false,
      fillsAhead = true,
      showsSeen = false,
      tellsCovered = false,
      range = this.#options.plate,
    } = wanted
    if (frame !== this.#playhead)
      this.#isStepping = Math.abs(frame - this.#playhead) === 1 && this.isReady(this.#playhead)
    this.#playhead = frame
    this.#range = range
    this.#isPlaying = isPlaying
    this.#fillsAhead = fillsAhead || isPlaying
    this.#isPassing = isPassing || isHeld
    this.#showsSeen = showsSeen
    this.#tellsCovered = tellsCovered
    if (this.#isPassing || !this.#fillsAhead) this.#stopAhead()
    if (isHeld) return this.#hold(frame)
    if (!this.#document || !isSameDocument(document, this.#document)) this.#takeDocument(document)
    const entry = this.#entry(frame)
    if (!entry.mended) entry.failedVersion = null
    this.#plates.fetch(frame, true)
    this.#plates.rest(isPlaying ? null : frame)
    this.#mend(frame, true)
    // After an undo what is there may be right again.
    if (!isPassing && entry.mended) void this.#names.askFirst(frame, URGENCY.names)
    this.#workAhead()
  }

  #hold(frame: Frame): void {
    for (const { work } of this.#entries.values()) work?.stop.abort()
    this.#plates.fetch(frame, true)
  }

  /** Calls back when anything of a frame has changed. @returns How to stop. */
  subscribe(listener: (frame: Frame) => void): () => void {
    this.#listeners.add(listener)
    return () => void this.#listeners.delete(listener)
  }

  /** The same object as long as nothing has changed. */
  stateAt(frame: Frame): FrameState {
    let state = this.#states.get(frame)
    if (!state) this.#states.set(frame, (state = this.#stateOf(frame)))
    return state
  }

  /** Whether a frame can be shown at once as it should look. */
  isReady(frame: Frame): boolean {
    const { plate, stage } = this.stateAt(frame)
    return plate !== null && stage === 'full'
  }

  /** What pictures and pieces take just now, and the most that they may. */
  get memory(): { readonly bytes: number; readonly budgetBytes: number } {
    return { bytes: this.#plates.bytes + this.#pieceBytes, budgetBytes: BUDGET_BYTES }
  }

  close(): void {
    this.#isClosed = true
    this.#plates.close()
    for (const entry of this.#entries.values()) closeEntry(entry)
    this.#entries.clear()
    this.#options.pool.dropDocument(this.#options.documentId)
  }

  #stateOf(frame: Frame): FrameState {
    const entry = this.#entries.get(frame)
    const plate = this.#plates.at(frame)
    return entry || plate ? stateOf(entry, plate, this.#names.at(frame)) : NOTHING_YET
  }

  /** What a frame is called has become known: where what is there is called so, it need not be made again. */
  #named(frame: Frame): void {
    const entry = this.#entries.get(frame)
    if (entry?.work && this.#isSettled(frame, entry)) entry.work.stop.abort()
    this.#changed(frame)
  }

  #changed(frame: Frame): void {
    this.#states.delete(frame)
    for (const listener of this.#listeners) listener(frame)
  }

  #entry(frame: Frame): Entry {
    let entry = this.#entries.get(frame)
    if (!entry) this.#entries.set(frame, (entry = emptyEntry()))
    return entry
  }

  /** Finds out which of the frames that are here still are as they should be; what is waited for has the cores first. */
  #askNames(): void {
    if (this.#names.areAsked) return
    const order = aheadOrder(this.#playhead, this.#options.plate, this.#isPlaying, Infinity)
    const known = order.filter((frame) => this.#entries.get(frame)?.mended)
    void this.#names.ask(known, URGENCY.names, () => this.#workAhead())
  }

  #takeDocument(document: ShotDocument): void {
    this.#document = document
    this.#isStepping = false
    this.#names.forget()
    this.#options.pool.setDocument(this.#options.documentId, document)
    for (const [frame, { mended }] of this.#entries) if (mended) this.#changed(frame)
  }

  /** Whether its pieces are right, or it is yet to be known whether they are. */
  #isSettled(frame: Frame, entry: Entry): boolean {
    const { version } = this.#names
    return isSettled(entry, { version, name: this.#names.at(frame), ...this.#asked() })
  }

  #mend(frame: Frame, isUrgent: boolean): void {
    const entry = this.#entry(frame)
    const name = this.#names.at(frame)
    const isDone = isUrgent
      ? name !== undefined && this.#isSettled(frame, entry)
      : this.#isSettled(frame, entry)
    if (isDone || entry.failedVersion === this.#names.version || this.#isClosed) return
    const { work } = entry
    if (work?.version === this.#names.version) {
      if (isUrgent && !work.isUrgent) this.#promote(frame, entry, work)
      return
    }
    if (work && !isUrgent) return // of mends as they were: it may still be right
    work?.stop.abort()
    if (isUrgent) this.#makeRoom(frame)
    void this.#work(frame, entry, {
      version: this.#names.version,
      stop: new AbortController(),
      isUrgent,
      progress: 0,
    })
  }

  /** What was worked ahead is looked at now. */
  #promote(frame: Frame, entry: Entry, work: Work): void {
    work.isUrgent = true
    this.#ahead--
    this.#draft(frame, entry, work)
  }

  async #work(frame: Frame, entry: Entry, work: Work): Promise<void> {
    entry.work = work
    this.#changed(frame)
    if (!work.isUrgent) this.#ahead++
    else this.#draft(frame, entry, work)
    const begun = performance.now()
    let isTaken = false
    try {
      isTaken = await this.#make(this.#request(frame, false), entry, work)
      if (isTaken) this.#draftDelay.took(performance.now() - begun)
    } catch (cause) {
      if (!(cause instanceof StoppedError)) {
        entry.failedVersion = work.version
        this.#options.onProblem(`Frame ${frame} could not be mended: ${(cause as Error).message}`)
      }
    }
    work.stop.abort() // a draft that is still under way comes too late
    if (!work.isUrgent) this.#ahead--
    if (entry.work === work) {
      entry.work = null
      this.#changed(frame)
    }
    // More may have been asked of it meanwhile: what was passing is to be measured.
    if (isTaken && work.isUrgent && frame === this.#playhead) this.#mend(frame, true)
    this.#workAhead()
  }

  /** A draft on another worker, beside the full result; not where that is there as soon, as what is stored is. */
  #draft(frame: Frame, entry: Entry, work: Work): void {
    if (!hasDraft(this.#document, frame)) return
    const begin = () => {
      if (entry.work !== work || work.stop.signal.aborted) return
      this.#make(this.#request(frame, true), entry, work).catch((cause: unknown) => {
        if (!(cause instanceof StoppedError))
          this.#options.onProblem(`The draft of frame ${frame} failed: ${(cause as Error).message}`)
      })
    }
    const { ms } = this.#draftDelay
    if (ms > 0) setTimeout(begin, ms)
    else begin()
  }

  #request(frame: Frame, isDraft: boolean): EvaluateRequest {
    const { plate, documentId } = this.#options
    const asked = this.#asked()
    const next = isDraft || asked.isPassing || !this.#fillsAhead ? null : this.#nextAfter(frame)
    return { kind: 'evaluate', plate, documentId, frame, isDraft, ...asked, next }
  }

  #asked() {
    return { isPassing: this.#isPassing, showsSeen: this.#showsSeen, tellsCovered: this.#tellsCovered }
  }

  /** The frame that will be worked on after one, as things are. */
  #nextAfter(frame: Frame): Frame | null {
    for (const one of aheadOrder(this.#playhead, this.#range, this.#isPlaying, this.#room())) {
      const entry = this.#entries.get(one)
      if (one !== frame && !entry?.work && !(entry && this.#isSettled(one, entry))) return one
    }
    return null
  }

  /** @returns Whether what came was still wanted, and is shown now. */
  async #make(request: EvaluateRequest, entry: Entry, work: Work): Promise<boolean> {
    const { frame, isDraft } = request
    const { signal } = work.stop
    const answer = await this.#options.pool.run(request, {
      urgency: work.isUrgent ? URGENCY.playhead : URGENCY.ahead,
      signal,
      onShare: (done, total) => {
        if (isDraft || entry.work !== work) return
        work.progress = done / total
        this.#changed(frame)
      },
    })
    if (signal.aborted) return false
    const mended = await mendedPieces(answer, request)
    if (signal.aborted || entry.work !== work || this.#entries.get(frame) !== entry) {
      closePieces(mended)
      return false
    }
    this.#pieceBytes += bytesOfPieces(mended) - (entry.mended ? bytesOfPieces(entry.mended) : 0)
    closePieces(entry.mended)
    entry.mended = mended
    // All of it told at once: whoever shows the frame does so once.
    if (!isDraft) entry.work = null
    if (work.version === this.#names.version) this.#names.set(frame, mended.name)
    this.#changed(frame)
    return true
  }

  /** What is looked at does not wait for frames that may be looked at later: those that are not next are put off. */
  #makeRoom(wanted: Frame): void {
    const { pool } = this.#options
    const next = aheadOrder(this.#playhead, this.#range, this.#isPlaying, pool.size)
    for (const [frame, { work }] of this.#entries)
      if (frame !== wanted && work && !work.isUrgent && !next.includes(frame)) work.stop.abort()
  }

  /** Whether somebody waits for the frame at the playhead. */
  get #isAwaited(): boolean {
    if (this.#isPlaying) return false
    const entry = this.#entries.get(this.#playhead)
    return entry?.work?.isUrgent === true || this.#plates.isFetching(this.#playhead)
  }

  #stopAhead(): void {
    for (const { work } of this.#entries.values()) if (work && !work.isUrgent) work.stop.abort()
  }

  /** Fetches and mends frames around the playhead, within the budget. What is waited for has the way to the server to itself. */
  #workAhead(): void {
    if (this.#isClosed || !this.#document) return
    const { pool } = this.#options
    const isAwaited = this.#isAwaited
    if (!isAwaited && !this.#isPassing) this.#askNames()
    const atOnce = !isAwaited ? pool.size : pool.size - (this.#isStepping ? 1 : AWAITED_CORES)
    const order = aheadOrder(this.#playhead, this.#range, this.#isPlaying, this.#room())
    this.#evictAllBut(new Set(order))
    // Frames right beside are looked at against this one.
    const those = this.#fillsAhead ? order : order.slice(0, BESIDE)
    for (const [i, frame] of those.entries()) {
      const isPoolFull = this.#isPassing || !this.#fillsAhead || this.#ahead >= atOnce
      if (isPoolFull && (isAwaited || this.#plates.isBusy)) return
      if (!isAwaited || (this.#isStepping && i < pool.size)) this.#plates.fetch(frame)
      if (!isPoolFull) this.#mend(frame, false)
    }
  }

  /** How many frames there is room for. */
  #room(): number {
    const pieces = this.#pieceBytes / Math.max(1, this.#entries.size)
    return Math.max(3, Math.floor(BUDGET_BYTES / (this.#plates.bytesEach + pieces)))
  }

  #evictAllBut(kept: ReadonlySet<Frame>): void {
    this.#plates.evictAllBut(kept)
    for (const [frame, entry] of this.#entries) {
      if (kept.has(frame) || entry.work) continue
      if (entry.mended) this.#pieceBytes -= bytesOfPieces(entry.mended)
      closePieces(entry.mended)
      this.#entries.delete(frame)
      this.#changed(frame)
    }
  }
}
