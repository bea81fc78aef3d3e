/** The plate's frames as pictures, fetched a few at a time. */
import type { Size } from '../../core/image/rect'
import type { Frame } from '../../core/time'
import { EXACT } from './mendedPieces'

const FETCHES_AT_ONCE = 2

interface Listener {
  /** A frame has come, or has gone. */
  onChange(frame: Frame): void
  /** There is room for another one. */
  onSettled(): void
  onProblem(message: string): void
}

export class FramePlates {
  readonly #location: string
  readonly #size: Size
  readonly #listener: Listener
  readonly #pictures = new Map<Frame, ImageBitmap>()
  readonly #fetching = new Set<Frame>()
  /** Failed once: tried again only when somebody looks at it. */
  readonly #failed = new Set<Frame>()
  #isClosed = false

  /** @param location  Of the plate. */
  constructor(location: string, size: Size, listener: Listener) {
    this.#location = location
    this.#size = size
    this.#listener = listener
  }

  at(frame: Frame): ImageBitmap | null {
    return this.#pictures.get(frame) ?? null
  }

  get isBusy(): boolean {
    return this.#fetching.size >= FETCHES_AT_ONCE
  }

  isFetching(frame: Frame): boolean {
    return this.#fetching.has(frame)
  }

  /** @param isUrgent  Somebody looks at it. */
  fetch(frame: Frame, isUrgent = false): void {
    if (isUrgent) this.#failed.delete(frame)
    const isKnown = this.#pictures.has(frame) || this.#fetching.has(frame) || this.#failed.has(frame)
    if (isKnown || this.#isClosed || (this.isBusy && !isUrgent)) return
    this.#fetching.add(frame)
    void this.#load(frame).finally(() => {
      this.#fetching.delete(frame)
      this.#listener.onSettled()
    })
  }

  async #load(frame: Frame): Promise<void> {
    try {
      const response = await fetch(`${this.#location}/frames/${frame}?as=rgba8`)
      if (!response.ok) throw new Error(`Frame ${frame} could not be fetched (${response.status}).`)
      const pixels = new Uint8ClampedArray(await response.arrayBuffer())
      const bitmap = await createImageBitmap(
        new ImageData(pixels, this.#size.width, this.#size.height),
        EXACT,
      )
      if (this.#isClosed) return bitmap.close()
      this.#pictures.set(frame, bitmap)
      this.#listener.onChange(frame)
    } catch (cause) {
      this.#failed.add(frame)
      this.#listener.onProblem(`${(cause as Error).message} It is asked for again when you come back to it.`)
    }
  }

  evictAllBut(kept: ReadonlySet<Frame>): void {
    for (const [frame, picture] of this.#pictures) {
      if (kept.has(frame)) continue
      picture.close()
      this.#pictures.delete(frame)
      this.#listener.onChange(frame)
    }
  }

  close(): void {
    this.#isClosed = true
    for (const picture of this.#pictures.values()) picture.close()
    this.#pictures.clear()
  }
}
