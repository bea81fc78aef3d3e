/** What frames are called with the mends as they are: worked out by workers, kept until the mends change. */
import type { Frame } from '../../core/time'
import { StoppedError } from '../../workers/pool'
import type { NamesRequest } from '../../workers/protocol'
import type { FrameCacheOptions } from './frameState'

/** Frames whose names are asked for at once. */
const AT_ONCE = 32

export class FrameNames {
  readonly #options: Pick<FrameCacheOptions, 'plate' | 'documentId' | 'pool' | 'onProblem'>
  readonly #onName: (frame: Frame) => void
  readonly #names = new Map<Frame, string>()
  /** Goes up when none of the names holds any more. */
  #version = 0
  #firstVersion = 0
  #askedVersion = 0
  #stop = new AbortController()

  /** @param onName  Called when the name of a frame has become known. */
  constructor(options: FrameCacheOptions, onName: (frame: Frame) => void) {
    this.#options = options
    this.#onName = onName
  }

  get version(): number {
    return this.#version
  }

  forget(): void {
    this.#version++
    this.#names.clear()
    this.#stop.abort() // nobody wants the old ones any more
    this.#stop = new AbortController()
  }

  at(frame: Frame): string | undefined {
    return this.#names.get(frame)
  }

  set(frame: Frame, name: string): void {
    if (this.#names.get(frame) === name) return
    this.#names.set(frame, name)
    this.#onName(frame)
  }

  /** Whether they were asked for since the mends have changed. */
  get areAsked(): boolean {
    return this.#askedVersion === this.#version
  }

  /** Asks for the name of the frame that is looked at, once for each version, before any other. */
  async askFirst(frame: Frame, urgency: number): Promise<void> {
    if (this.#firstVersion === this.#version || this.areAsked) return
    this.#firstVersion = this.#version
    await this.#fetch([frame], urgency)
  }

  /** Asks for the names of frames, once for each version. @param onSome  Called when some more are known. */
  async ask(frames: readonly Frame[], urgency: number, onSome: () => void): Promise<void> {
    if (this.areAsked) return
    this.#askedVersion = this.#version
    const unnamed = frames.filter((frame) => !this.#names.has(frame))
    for (let first = 0; first < unnamed.length; first += AT_ONCE) {
      if (!(await this.#fetch(unnamed.slice(first, first + AT_ONCE), urgency))) return
      onSome()
    }
  }

  /** @returns Whether they are known now. */
  async #fetch(frames: readonly Frame[], urgency: number): Promise<boolean> {
    const version = this.#version
    const { plate, documentId, pool, onProblem } = this.#options
    const request: NamesRequest = { kind: 'names', plate, documentId, frames }
    try {
      const names = await pool.run(request, { urgency, signal: this.#stop.signal })
      if (version !== this.#version) return false
      for (const { frame, key } of names) this.set(frame, key)
      return true
    } catch (cause) {
      if (!(cause instanceof StoppedError))
        onProblem(`Frames could not be looked through again: ${(cause as Error).message}`)
      return false
    }
  }
}
