/**
 * The plate's frames as pictures, fetched a few at a time. Of large plates proxies are fetched; a frame that is rested on is fetched whole, and of
 * those the last ones are kept.
 */
import { hasProxies, proxySize } from '../../core/view/proxy'
import type { Size } from '../../core/image/rect'
import type { Frame } from '../../core/time'
import { EXACT } from './mendedPieces'

const FETCHES_AT_ONCE = 2
/** Longer than frames follow each other when one steps or drags. */
const REST_MS = 150
/** Of plates that have proxies. */
const WHOLE_KEPT = 3

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
  readonly #hasProxies: boolean
  /** What is fetched ahead: whole pictures, or proxies. */
  readonly #pictures = new Map<Frame, ImageBitmap>()
  /** Beside proxies, the latest last. */
  readonly #whole = new Map<Frame, ImageBitmap>()
  readonly #fetching = new Set<Frame>()
  /** Failed once: tried again only when somebody looks at it. */
  readonly #failed = new Set<Frame>()
  #resting: { readonly frame: Frame; readonly timer: ReturnType<typeof setTimeout> } | null = null
  #isClosed = false

  /** @param location  Of the plate. */
  constructor(location: string, size: Size, listener: Listener) {
    this.#location = location
    this.#size = size
    this.#listener = listener
    this.#hasProxies = hasProxies(size)
  }

  at(frame: Frame): ImageBitmap | null {
    return this.#whole.get(frame) ?? this.#pictures.get(frame) ?? null
  }

  get isBusy(): boolean {
    return this.#fetching.size >= FETCHES_AT_ONCE
  }

  /** What a frame that is fetched ahead takes. */
  get bytesEach(): number {
    const { width, height } = this.#hasProxies ? proxySize(this.#size) : this.#size
    return 4 * width * height
  }

  /** What all pictures take. */
  get bytes(): number {
    return this.#pictures.size * this.bytesEach + this.#whole.size * 4 * this.#size.width * this.#size.height
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
    void this.#load(frame, this.#pictures, this.#hasProxies).finally(() => {
      this.#fetching.delete(frame)
      this.#listener.onSettled()
    })
  }

  /** Somebody looks at a frame that stays for now: after a moment it is shown from all its samples. Null: nothing rests. */
  rest(frame: Frame | null): void {
    if (!this.#hasProxies || this.#resting?.frame === frame) return
    clearTimeout(this.#resting?.timer)
    this.#resting = null
    if (frame === null) return
    const known = this.#whole.get(frame)
    if (known) {
      this.#whole.delete(frame)
      this.#whole.set(frame, known)
      return
    }
    const timer = setTimeout(
      () => void this.#load(frame, this.#whole, false).then(() => this.#dropWhole()),
      REST_MS,
    )
    this.#resting = { frame, timer }
  }

  #dropWhole(): void {
    for (const [frame, picture] of this.#whole) {
      if (this.#whole.size <= WHOLE_KEPT) return
      picture.close()
      this.#whole.delete(frame)
      this.#listener.onChange(frame)
    }
  }

  async #load(frame: Frame, to: Map<Frame, ImageBitmap>, isProxy: boolean): Promise<void> {
    try {
      const response = await fetch(`${this.#location}/frames/${frame}?as=${isProxy ? 'proxy' : 'rgba8'}`)
      if (!response.ok) throw new Error(`Frame ${frame} could not be fetched (${response.status}).`)
      const pixels = new Uint8ClampedArray(await response.arrayBuffer())
      const { width, height } = isProxy ? proxySize(this.#size) : this.#size
      const bitmap = await createImageBitmap(new ImageData(pixels, width, height), EXACT)
      if (this.#isClosed) return bitmap.close()
      to.set(frame, bitmap)
      this.#listener.onChange(frame)
    } catch (cause) {
      this.#failed.add(frame)
      this.#listener.onProblem(`${(cause as Error).message} It is asked for again when you come back to it.`)
    }
  }

  evictAllBut(kept: ReadonlySet<Frame>): void {
    for (const pictures of [this.#pictures, this.#whole]) {
      for (const [frame, picture] of pictures) {
        if (kept.has(frame)) continue
        picture.close()
        pictures.delete(frame)
        this.#listener.onChange(frame)
      }
    }
  }

  close(): void {
    this.#isClosed = true
    this.rest(null)
    for (const pictures of [this.#pictures, this.#whole]) {
      for (const picture of pictures.values()) picture.close()
      pictures.clear()
    }
  }
}
