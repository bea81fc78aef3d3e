/**
 * Which places belong to a mark of one colour that nothing passes under, by its own edges: undone where it lies, and nowhere else, the picture has none
 * of them. Each place is given the share of the mark with which what is left jumps least from place to place, by belief propagation: P. F. Felzenszwalb and
 * D. P. Huttenlocher, "Efficient belief propagation for early vision", IJCV 70(1), 2006; in sweeps along rows and columns as in M. F. Tappen and W. T.
 * Freeman, "Comparison of graph cuts with belief propagation for stereo", ICCV 2003.
 */
import type { Raster } from '../image/raster'

/** What a mark of one colour does where it lies whole: `1 − opacity` of the picture stays. */
export interface MarkLine {
  /** 0 to 1. */
  readonly opacity: number
  /** For each channel, in the plate's scale. */
  readonly colour: readonly number[]
}

export interface ToldShares {
  /** For each place, 0 to 1. */
  readonly shares: Float32Array
  /** How much the picture without the mark jumps, in sum: of two lines, the one that leaves less is the better. */
  readonly jumps: number
}

/** Shares that a place may have, from none to all: at its rim a mark covers part of a pixel. */
const LABELS = 5
/** The shares have settled after so many sweeps; lines can be told apart after a few. */
const SWEEPS = { all: 12, few: 3 }
/** A jump, summed over channels, is as bad as any larger one: the picture has edges of its own. */
const MOST_JUMP = 0.5
/** Half covered places are few. */
const PARTLY_COST = 0.01
/** Marks have few edges: for each label that two neighbours differ by. */
const EDGE_COST = 0.01
/** What is left must be a colour: for each unit outside 0 to 1. */
const OUTSIDE_COST = 4

/**
 * @param plate  With the mark; 1 is white.
 * @param asked  1 where the share is wanted.
 * @param known  Shares of the other places.
 * @param sweeps  All that are needed, or a few for a first look.
 */
export function tellShares(
  plate: Raster,
  asked: Uint8Array,
  line: MarkLine,
  known: Float32Array,
  sweeps: keyof typeof SWEEPS,
): ToldShares {
  const beliefs = new Beliefs(plate, pictureLeft(plate, asked, line, known))
  for (let sweep = 0; sweep < SWEEPS[sweeps]; sweep++) beliefs.sweep()
  const labels = beliefs.best()
  const shares = known.map((one, at) => (asked[at] === 1 ? labels[at]! / (LABELS - 1) : one))
  return { shares, jumps: beliefs.costOf(labels) }
}

interface PictureLeft {
  /** For each place, label and channel, the picture without the mark. */
  readonly values: Float32Array
  /** For each place and label. */
  readonly costs: Float32Array
}

/** What each label leaves; of places that are not asked all labels leave the same. */
function pictureLeft(
  { data, channels }: Raster,
  asked: Uint8Array,
  { opacity, colour }: MarkLine,
  known: Float32Array,
): PictureLeft {
  const values = new Float32Array(asked.length * LABELS * channels)
  const costs = new Float32Array(asked.length * LABELS)
  for (let at = 0; at < asked.length; at++) {
    for (let label = 0; label < LABELS; label++) {
      const share = asked[at] === 1 ? label / (LABELS - 1) : known[at]!
      const covered = share * opacity
      let cost = share > 0 && share < 1 ? PARTLY_COST : 0
      for (let c = 0; c < channels; c++) {
        const under = (data[at * channels + c]! - covered * colour[c]!) / (1 - covered)
        values[(at * LABELS + label) * channels + c] = under
        cost += OUTSIDE_COST * Math.max(0, -under, under - 1)
      }
      if (asked[at] === 1) costs[at * LABELS + label] = cost
    }
  }
  return { values, costs }
}

/** Costs of all pairs of labels of two neighbours. */
const PAIRS = LABELS * LABELS

/** What places hear from their neighbours about their labels. */
class Beliefs {
  readonly #width: number
  readonly #height: number
  readonly #costs: Float32Array
  /** For each place, its label and that of the next one to the right, below. */
  readonly #across: Float32Array
  readonly #down: Float32Array
  readonly #fromLeft: Float32Array
  readonly #fromRight: Float32Array
  readonly #fromAbove: Float32Array
  readonly #fromBelow: Float32Array
  readonly #own = new Float32Array(LABELS)

  constructor({ width, height, channels }: Raster, { values, costs }: PictureLeft) {
    this.#width = width
    this.#height = height
    this.#costs = costs
    this.#across = jumpsTo(values, channels, 1, width * height)
    this.#down = jumpsTo(values, channels, width, width * height)
    const none = () => new Float32Array(width * height * LABELS)
    this.#fromLeft = none()
    this.#fromRight = none()
    this.#fromAbove = none()
    this.#fromBelow = none()
  }

  /** Along all rows, there and back, then along all columns. */
  sweep(): void {
    const [width, height] = [this.#width, this.#height]
    for (let row = 0; row < height; row++) {
      const first = row * width
      for (let at = first; at + 1 < first + width; at++)
        this.#tell(at, this.#fromRight, this.#fromLeft, at + 1, this.#across, at, LABELS, 1)
      for (let at = first + width - 1; at > first; at--)
        this.#tell(at, this.#fromLeft, this.#fromRight, at - 1, this.#across, at - 1, 1, LABELS)
    }
    for (let at = 0; at < width * (height - 1); at++)
      this.#tell(at, this.#fromBelow, this.#fromAbove, at + width, this.#down, at, LABELS, 1)
    for (let at = width * height - 1; at >= width; at--)
      this.#tell(at, this.#fromAbove, this.#fromBelow, at - width, this.#down, at - width, 1, LABELS)
  }

  /**
   * @param back  What the sender hears from the receiver: not told it again.
   * @param mine  Step of the table of jumps for each label of the sender.
   * @param theirs  The same of the receiver.
   */
  #tell(
    at: number,
    back: Float32Array,
    into: Float32Array,
    to: number,
    jumps: Float32Array,
    table: number,
    mine: number,
    theirs: number,
  ): void {
    const own = this.#own
    for (let label = 0; label < LABELS; label++)
      own[label] = this.#sumAt(at * LABELS + label) - back[at * LABELS + label]!
    let least = Infinity
    for (let heard = 0; heard < LABELS; heard++) {
      let best = Infinity
      for (let label = 0; label < LABELS; label++) {
        const cost = own[label]! + jumps[table * PAIRS + label * mine + heard * theirs]!
        if (cost < best) best = cost
      }
      into[to * LABELS + heard] = best
      if (best < least) least = best
    }
    for (let heard = 0; heard < LABELS; heard++) into[to * LABELS + heard]! -= least
  }

  #sumAt(i: number): number {
    return (
      this.#costs[i]! + this.#fromLeft[i]! + this.#fromRight[i]! + this.#fromAbove[i]! + this.#fromBelow[i]!
    )
  }

  best(): Uint8Array {
    return Uint8Array.from({ length: this.#width * this.#height }, (_, at) => {
      let best = 0
      for (let label = 1; label < LABELS; label++)
        if (this.#sumAt(at * LABELS + label) < this.#sumAt(at * LABELS + best)) best = label
      return best
    })
  }

  costOf(labels: Uint8Array): number {
    const width = this.#width
    let sum = 0
    labels.forEach((label, at) => {
      sum += this.#costs[at * LABELS + label]!
      if ((at + 1) % width !== 0) sum += this.#across[at * PAIRS + label * LABELS + labels[at + 1]!]!
      if (at + width < labels.length) sum += this.#down[at * PAIRS + label * LABELS + labels[at + width]!]!
    })
    return sum
  }
}

/** For each place, each label of it and of the place so many further on, how much the picture jumps between them. */
function jumpsTo(values: Float32Array, channels: number, step: number, count: number): Float32Array {
  const out = new Float32Array(count * PAIRS)
  for (let at = 0; at + step < count; at++) {
    for (let label = 0; label < LABELS; label++) {
      const here = (at * LABELS + label) * channels
      for (let other = 0; other < LABELS; other++) {
        const there = ((at + step) * LABELS + other) * channels
        let jump = 0
        for (let c = 0; c < channels; c++) jump += Math.abs(values[here + c]! - values[there + c]!)
        out[at * PAIRS + label * LABELS + other] =
          Math.min(MOST_JUMP, jump) + EDGE_COST * Math.abs(label - other)
      }
    }
  }
  return out
}
