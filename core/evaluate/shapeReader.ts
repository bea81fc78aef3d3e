import type { PlacedShape } from '../plan/placedArea'
import type { Clip } from '../shot/clip'
import type { ReadShape } from './readShape'

/** Reads the pictures of mattes, each once; other shapes are what they are. */
export class ShapeReader {
  readonly #clip: Clip
  readonly #mattes = new Map<string, Promise<ReadShape | null>>()

  constructor(clip: Clip) {
    this.#clip = clip
  }

  async all(shapes: readonly PlacedShape[], frame: number): Promise<ReadShape[]> {
    if (!shapes.some(({ shape }) => shape === 'matte')) return shapes as ReadShape[]
    const read = await Promise.all(shapes.map((shape) => this.#one(shape, frame)))
    return read.filter((shape) => shape !== null)
  }

  async #one(shape: PlacedShape, frame: number): Promise<ReadShape | null> {
    if (shape.shape !== 'matte') return shape
    const key = `${frame} ${shape.pattern}`
    let reading = this.#mattes.get(key)
    if (!reading) {
      reading = this.#clip.readMatte(shape.pattern, frame).then((matte) => matte && { shape: 'matte', matte })
      this.#mattes.set(key, reading)
    }
    return reading
  }
}
