/**
 * A plate's samples in tiles, brought together from far and kept near.
 *
 * What a frame's neighbours ask overlaps, and so does what a handle asks on its way: every tile comes once, as long as
 * there is room.
 */
import { LRUCache } from 'lru-cache'
import type { FrameRect, PlateShape } from '../core/shot/clip'
import { intersectRects, uniteRects, wholePicture, type Rect } from '../core/image/rect'
import { copyRectInto, createSamples, cropSamples, type Samples } from '../core/image/samples'

/** Wide and low: rows are copied whole, and what is asked lies often in columns. */
const TILE = { width: 256, height: 64 } as const

/** Reads rectangles that lie inside the picture, in the order asked. */
export type ReadRects = (wanted: readonly FrameRect[]) => Promise<readonly Samples[]>

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

  /** @param maxBytes  Room for tiles. */
  constructor(plate: PlateShape, maxBytes: number, read: ReadRects) {
    this.#plate = plate
    this.#read = read
    const pixelBytes = (plate.channels * plate.bitDepth) / 8
    this.#tiles = new LRUCache({
      maxSize: maxBytes,
      sizeCalculation: ({ rect }) => rect.width * rect.height * pixelBytes,
    })
  }

  /** Bytes of all tiles that are here. */
  get bytes(): number {
    return this.#tiles.calculatedSize
  }

  /** Has what is missing of all rectangles brought in one reading. */
  prefetch(wanted: readonly FrameRect[]): void {
    void this.#bring(wanted)
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
      const coming = reading.then((pieces) => {
        const { rect: around } = missing[i]!
        for (const tile of tiles) {
          const { col, row, width, height } = tile.rect
          tile.samples = cropSamples(pieces[i]!, {
            col: col - around.col,
            row: row - around.row,
            width,
            height,
          })
        }
      })
      // Whoever reads the tile is told; asked again it is read again.
      coming.catch(() => this.#forget(tiles))
      for (const tile of tiles) tile.coming = coming
    })
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
        yield [`${frame} ${x} ${y}`, intersectRects(place, whole)!]
      }
    }
  }
}
