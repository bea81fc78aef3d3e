/**
 * A pool of compute workers.
 *
 * Tasks wait in order of urgency; a stopped task leaves the queue at once, or is told through shared
 * memory when it already runs. A worker that dies fails its task and is replaced.
 */
import { v4 as newId } from 'uuid'
import type { TrackedFrame } from '../core/motion/runTrack'
import type { ShotDocument } from '../core/plan/shotDocument'
import { changeBetween } from './documents'
import type { AnswerTo, ComputeAnswer, ComputeRequest, FromWorker, ToWorker, WorkerMemory } from './protocol'

/** One worker as the pool sees it: a web worker or a Node thread. */
export interface WorkerHandle {
  post(message: ToWorker): void
  onMessage(listen: (message: FromWorker) => void): void
  onDeath(listen: (reason: string) => void): void
  terminate(): void
}

export class ComputeError extends Error {
  override readonly name = 'ComputeError'
  readonly code: string
  constructor(code: string, message: string) {
    super(message)
    this.code = code
  }
}

/** Thrown by a task that its caller stopped; never logged as a failure. */
export class StoppedError extends ComputeError {
  constructor() {
    super('stopped', 'Stopped.')
  }
}

const WORKER_MEMORY: WorkerMemory = { tiles: 192 * 2 ** 20, results: 256 * 2 ** 20 }

interface Task {
  readonly token: number
  readonly request: ComputeRequest
  readonly urgency: number
  readonly resolve: (answer: ComputeAnswer) => void
  readonly reject: (cause: Error) => void
  readonly onFrame?: (tracked: TrackedFrame) => void
  readonly onShare?: (done: number, total: number) => void
}

/** A draft leaves a frame's own worker to the full result, which is what is asked for again. */
const homeOf = (request: ComputeRequest): number =>
  request.kind === 'evaluate' ? request.frame + (request.isDraft ? 1 : 0) : 0

interface Slot {
  handle: WorkerHandle | null
  readonly stopFlag: Int32Array | null
  task: Task | null
  /** The documents that the worker has, as it has them. */
  readonly documents: Map<string, ShotDocument>
  /** Ends what gives no sign for too long. */
  watchdog?: ReturnType<typeof setTimeout>
}

/** Slow is not stuck: the hardest frames of large footage take a minute. One that takes this long never ends. */
const STUCK_MS = 600_000

export interface RunOptions {
  /** Higher goes first. */
  readonly urgency?: number
  /**
   * Stops the task. An evaluation is dropped at once; a track or a cling still answers with what it has held.
   */
  readonly signal?: AbortSignal
  /** Told of every frame that a track or a cling has done. */
  readonly onFrame?: (tracked: TrackedFrame) => void
  /** Told how much of long work is done. */
  readonly onShare?: (done: number, total: number) => void
}

export class ComputePool {
  readonly #slots: Slot[]
  readonly #waiting: Task[] = []
  readonly #documents = new Map<string, ShotDocument>()
  readonly #createWorker: () => WorkerHandle
  readonly #memory: WorkerMemory
  readonly #stuckMs: number
  #nextToken = 1
  #isClosed = false

  /**
   * @param size  How many workers. Without shared memory a running task is not interrupted, only forgotten.
   * @param memory  Of each worker. @param stuckMs  A task that has neither been done nor shown a part of its work for so long fails; its worker is ended.
   */
  constructor(
    size: number,
    createWorker: () => WorkerHandle,
    memory: WorkerMemory = WORKER_MEMORY,
    stuckMs = STUCK_MS,
  ) {
    if (!Number.isInteger(size) || size < 1)
      throw new RangeError(`size must be a whole number above 0. Received ${size}`)
    this.#createWorker = createWorker
    this.#memory = memory
    this.#stuckMs = stuckMs
    this.#slots = Array.from({ length: size }, () => {
      const stopFlag =
        typeof SharedArrayBuffer === 'undefined' ? null : new Int32Array(new SharedArrayBuffer(4))
      return { handle: null, stopFlag, task: null, documents: new Map<string, ShotDocument>() }
    })
  }

  /** What tasks on this document work on from now on. Each worker is told of what has changed before its next one. */
  setDocument(documentId: string, document: ShotDocument): void {
    this.#documents.set(documentId, document)
  }

  /** No task works on it any more. */
  dropDocument(documentId: string): void {
    this.#documents.delete(documentId)
    for (const slot of this.#slots) {
      if (slot.documents.delete(documentId)) slot.handle?.post({ kind: 'document', documentId, change: null })
    }
  }

  /** Gives the workers a document for as long as some work takes. */
  async withDocument<T>(document: ShotDocument, work: (documentId: string) => Promise<T>): Promise<T> {
    const documentId = newId()
    this.setDocument(documentId, document)
    try {
      return await work(documentId)
    } finally {
      this.dropDocument(documentId)
    }
  }

  /** Starts all workers: what comes first does not wait for them. */
  warm(): void {
    for (const slot of this.#slots) if (!slot.handle && !this.#isClosed) this.#startWorker(slot)
  }

  /** Runs a task on the next free worker. @throws StoppedError after `signal`; ComputeError when the worker fails. */
  run<R extends ComputeRequest>(
    request: R,
    { urgency = 0, signal, onFrame, onShare }: RunOptions = {},
  ): Promise<AnswerTo<R>> {
    if (signal?.aborted || this.#isClosed) return Promise.reject(new StoppedError())
    return new Promise<AnswerTo<R>>((resolve, reject) => {
      const stop = () => this.#stop(task)
      const settle =
        <T>(finish: (value: T) => void) =>
        (value: T) => {
          signal?.removeEventListener('abort', stop)
          finish(value)
        }
      const task: Task = {
        token: this.#nextToken++,
        request,
        urgency,
        // The worker answers in kind: `compute` in serve.ts.
        resolve: settle(resolve as (answer: ComputeAnswer) => void),
        reject: settle(reject),
        onFrame,
        onShare,
      }
      signal?.addEventListener('abort', stop, { once: true })
      const later = this.#waiting.findIndex((other) => other.urgency < urgency)
      this.#waiting.splice(later < 0 ? this.#waiting.length : later, 0, task)
      this.#advance()
    })
  }

  /** How many tasks run at once. */
  get size(): number {
    return this.#slots.length
  }

  /** How many tasks wait or run. */
  get load(): number {
    return this.#waiting.length + this.#slots.filter((slot) => slot.task).length
  }

  close(): void {
    this.#isClosed = true
    for (const task of this.#waiting.splice(0)) task.reject(new StoppedError())
    for (const slot of this.#slots) {
      slot.task?.reject(new StoppedError())
      slot.task = null
      clearTimeout(slot.watchdog)
      slot.handle?.terminate()
      slot.handle = null
    }
  }

  #stop(task: Task): void {
    const at = this.#waiting.indexOf(task)
    if (at >= 0) this.#waiting.splice(at, 1)
    const slot = this.#slots.find((one) => one.task === task)
    if (slot?.stopFlag) Atomics.store(slot.stopFlag, 0, task.token)
    if (slot?.stopFlag && task.request.kind !== 'evaluate') return // it answers with what it has
    task.reject(new StoppedError())
  }

  #startWorker(slot: Slot): WorkerHandle {
    const handle = this.#createWorker()
    slot.handle = handle
    slot.documents.clear()
    handle.onMessage((message) => {
      if (message.kind === 'tiles') {
        for (const other of this.#slots) if (other !== slot) other.handle?.post(message)
        return
      }
      const task = slot.task
      if (slot.handle !== handle || !task || task.token !== message.token) return
      this.#watch(slot, handle)
      if (message.kind === 'progress') {
        task.onFrame?.(message.tracked)
        return
      }
      if (message.kind === 'share') {
        task.onShare?.(message.done, message.total)
        return
      }
      slot.task = null
      clearTimeout(slot.watchdog)
      if (message.kind === 'done') task.resolve(message.answer)
      else task.reject(new ComputeError(message.error.code, message.error.message))
      this.#advance()
    })
    handle.onDeath((reason) => {
      if (this.#isClosed || slot.handle !== handle) return
      const task = slot.task
      slot.task = null
      slot.handle = null
      clearTimeout(slot.watchdog)
      task?.reject(new ComputeError('worker-lost', `A compute worker ended: ${reason}`))
      this.#advance()
    })
    handle.post({
      kind: 'start',
      stopFlag: (slot.stopFlag?.buffer as SharedArrayBuffer | undefined) ?? null,
      memory: this.#memory,
    })
    return handle
  }

  /** Begins to wait for a sign of life anew. */
  #watch(slot: Slot, handle: WorkerHandle): void {
    clearTimeout(slot.watchdog)
    slot.watchdog = setTimeout(() => {
      if (slot.handle !== handle) return
      const task = slot.task
      slot.task = null
      slot.handle = null
      handle.terminate()
      task?.reject(
        new ComputeError('stuck', `It was given up after ${this.#stuckMs / 1000} s without an end.`),
      )
      this.#advance()
    }, this.#stuckMs)
  }

  #advance(): void {
    for (let task = this.#waiting[0]; task; task = this.#waiting[0]) {
      const slot = this.#slotFor(task.request)
      if (!slot) return
      this.#waiting.shift()
      slot.task = task
      const handle = slot.handle ?? this.#startWorker(slot)
      if ('documentId' in task.request) this.#tellDocument(slot, handle, task.request.documentId)
      this.#watch(slot, handle)
      handle.post({ kind: 'task', token: task.token, request: task.request })
    }
  }

  #tellDocument(slot: Slot, handle: WorkerHandle, documentId: string): void {
    const document = this.#documents.get(documentId)
    if (!document) return // the worker says that it has none
    const known = slot.documents.get(documentId) ?? null
    if (known === document) return
    handle.post({ kind: 'document', documentId, change: changeBetween(known, document) })
    slot.documents.set(documentId, document)
  }

  /** Each worker keeps what it has worked out: a frame goes to the one that had it before, if that is free. */
  #slotFor(request: ComputeRequest): Slot | undefined {
    const own = this.#slots[homeOf(request) % this.#slots.length]!
    return own.task ? this.#slots.find((slot) => !slot.task) : own
  }
}
