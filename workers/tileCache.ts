/**
 * A plate's samples in tiles, brought together from far and kept near.
 *
 * What a frame's neighbours ask overlaps, and so does what a handle asks on its way: every tile comes once, as long as
 * there is room. Where memory can be shared, what one worker has brought is there for all of them.
 */
import { LRUCache } from 'lru-cache'
import type { FrameRect, PlateShape } from '../core/shot/clip'
import { intersectRects, uniteRects, wholePicture, type Rect } from '../core/image/rect'
import { copyRectInto, createSamples, type Samples } from '../core/image/samples'

/** Wide and low: rows are copied whole, and what is asked lies often in columns. */
const TILE = { width: 256, height: 64 } as const

const keyOf = (frame: number, x: number, y: number): string => `${frame} ${x} ${y}`

/** Reads rectangles that lie inside the picture, in the order asked. */
export type ReadRects = (wanted: readonly FrameRect[]) => Promise<readonly Samples[]>

/** Tiles of a frame that came together: their samples lie one after the other in memory that workers share. */
export interface SharedTiles {
  readonly frame: number
  readonly rects: readonly Rect[]
  readonly buffer: SharedArrayBuffer
}

interface Tile {
  readonly rect: Rect
  /** Once they have come. */
  samples: Samples | null
  coming: Promise<void>
}

export class TileCache {
  readonly #plate: PlateShape
  readonly #read: ReadRects
  readonly #tiles: LRUCache<string, Tile>
  readonly #onCome: ((tiles: SharedTiles) => void) | null

  /**
   * @param maxBytes  Room for tiles.
   * @param onCome  Told of tiles that have come, for others to take; nobody takes them when it is left out.
   */
  constructor(
    plate: PlateShape,
    maxBytes: number,
    read: ReadRects,
    onCome?: ((tiles: SharedTiles) => void) | null,
  ) {
    this.#plate = plate
    this.#read = read
    this.#onCome = onCome ?? null
    this.#tiles = new LRUCache({ maxSize: maxBytes, sizeCalculation: ({ rect }) => this.#bytesOf(rect) })
  }

  /** Bytes of all tiles that are here. */
  get bytes(): number {
    return this.#tiles.calculatedSize
  }

  /** Has what is missing of all rectangles brought in one reading. */
  prefetch(wanted: readonly FrameRect[]): void {
    void this.#bring(wanted)
  }

  /** Tiles that another worker has brought. */
  take({ frame, rects, buffer }: SharedTiles): void {
    let at = 0
    for (const rect of rects) {
      const samples = this.#samplesAt(buffer, at, rect)
      at += samples.data.byteLength
      const key = keyOf(frame, rect.col / TILE.width, rect.row / TILE.height)
      if (!this.#tiles.has(key)) this.#tiles.set(key, { rect, samples, coming: Promise.resolve() })
    }
  }

  async readRect(frame: number, rect: Rect): Promise<Samples> {
    const { channels, bitDepth } = this.#plate
    const tiles = this.#bring([{ frame, rect }])
    await Promise.all(tiles.map(({ coming }) => coming))
    const out = createSamples(rect.width, rect.height, channels, bitDepth)
    for (const { rect: whole, samples } of tiles) {
      const shared = intersectRects(whole, rect)!
      const from = { ...shared, col: shared.col - whole.col, row: shared.row - whole.row }
      copyRectInto(out, shared.col - rect.col, shared.row - rect.row, samples!, from)
    }
    return out
  }

  /** The tiles of all rectangles; those that were missing are on their way. */
  #bring(wanted: readonly FrameRect[]): Tile[] {
    const all = new Map<string, Tile>()
    const missing: FrameRect[] = []
    const begun: Tile[][] = []
    for (const { frame, rect } of wanted) {
      const own: Tile[] = []
      for (const [key, place] of this.#placesIn(frame, rect)) {
        let tile = all.get(key) ?? this.#tiles.get(key)
        if (!tile) {
          tile = { rect: place, samples: null, coming: Promise.resolve() }
          own.push(tile)
          this.#tiles.set(key, tile)
        }
        all.set(key, tile)
      }
      if (own.length === 0) continue
      missing.push({ frame, rect: own.map((tile) => tile.rect).reduce(uniteRects) })
      begun.push(own)
    }
    if (missing.length > 0) this.#fill(missing, begun)
    return [...all.values()]
  }

  #fill(missing: readonly FrameRect[], begun: readonly (readonly Tile[])[]): void {
    const reading = this.#read(missing)
    begun.forEach((tiles, i) => {
      const coming = reading.then((pieces) => this.#cut(pieces[i]!, missing[i]!, tiles))
      // Whoever reads the tile is told; asked again it is read again.
      coming.catch(() => this.#forget(tiles))
      for (const tile of tiles) tile.coming = coming
    })
  }

  /** Cuts what has come into tiles. @param around  Where it lies. */
  #cut(piece: Samples, { frame, rect: around }: FrameRect, tiles: readonly Tile[]): void {
    const rects = tiles.map(({ rect }) => rect)
    const bytes = rects.reduce((sum, rect) => sum + this.#bytesOf(rect), 0)
    const buffer = this.#onCome ? new SharedArrayBuffer(bytes) : new ArrayBuffer(bytes)
    let at = 0
    for (const tile of tiles) {
      const { col, row, width, height } = tile.rect
      const samples = this.#samplesAt(buffer, at, tile.rect)
      at += samples.data.byteLength
      copyRectInto(samples, 0, 0, piece, { col: col - around.col, row: row - around.row, width, height })
      tile.samples = samples
    }
    if (buffer instanceof ArrayBuffer) return
    this.#onCome?.({ frame, rects, buffer })
  }

  #bytesOf({ width, height }: Rect): number {
    const { channels, bitDepth } = this.#plate
    return (width * height * channels * bitDepth) / 8
  }

  #samplesAt(buffer: ArrayBufferLike, at: number, { width, height }: Rect): Samples {
    const { channels, bitDepth } = this.#plate
    const length = width * height * channels
    const data = bitDepth === 8 ? new Uint8Array(buffer, at, length) : new Uint16Array(buffer, at, length)
    return { width, height, channels, data }
  }

  #forget(tiles: readonly Tile[]): void {
    for (const [key, tile] of [...this.#tiles.entries()]) if (tiles.includes(tile)) this.#tiles.delete(key)
  }

  *#placesIn(frame: number, rect: Rect): Generator<[string, Rect]> {
    const whole = wholePicture(this.#plate)
    const [left, top] = [Math.floor(rect.col / TILE.width), Math.floor(rect.row / TILE.height)]
    for (let y = top; y * TILE.height < rect.row + rect.height; y++) {
      for (let x = left; x * TILE.width < rect.col + rect.width; x++) {
        const place = { col: x * TILE.width, row: y * TILE.height, ...TILE }
        yield [keyOf(frame, x, y), intersectRects(place, whole)!]
      }
    }
  }
}
