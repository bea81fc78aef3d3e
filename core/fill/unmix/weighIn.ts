/**
 * What was undone and what other frames show of the same place, weighed with each other by how sure each is.
 *
 * Symbols: U undone, G gathered, D = U − G, a the mark's opacity. U and G err by themselves, so that the variance of D is the sum of theirs. G errs by α g² (1 + k) + β |∇G|², g the grain of a
 * frame, k the share of it that is left in G; β is what frames lie beside each other by, squared. U errs by some amount for each degree of a. All of these are fitted at once.
 * Source: the weighted mean of least variance, common practice (inverse-variance weighting).
 */
import type { Gathered } from '../../plate/gatherInput'
import { addEquation, solveNotNegative } from '../../geometry/linear'
import { medianOf } from '../../image/median'
import type { WeighedMeasure } from '../../measure/mendMeasure'
import type { FillInput } from '../method'

/** A mark as faint as this changes nothing: the plate shows what is there. */
export const NO_MARK = 0.004
/** Places that fewer frames have shown, or about which these agree less, have no say. */
const MIN_SEEN = 3
const MIN_AGREE = 0.5
/** Fewer places without a mark tell nothing of how well frames lie over this one. */
const MIN_FREE = 60
/** Degrees of opacity; what was undone errs by another amount in each, and by at least so much of what it usually differs by. */
const DEGREES = 10
const MIN_SHARE = 0.05
/** Squares beyond so many times the usual one are not of the mark. */
const MAX_TIMES_USUAL = 9

/** What was undone, entry by entry of the field. */
export interface UndonePlaces {
  readonly values: Float32Array
  readonly grainKept: Float32Array
  /** How much of each place the mark covers on this frame, 0 to 1, and what it adds there, channels interleaved. */
  readonly shares: Float32Array
  readonly added: Float32Array
  /** 1 where nothing can be undone. */
  readonly isDense: Uint8Array
}

/**
 * Weighs what was gathered into what was undone, in place; dense places and those without a mark are left alone.
 * @param hidden  Entries of the field, those that were gathered.
 * @returns null where too little is there to tell how sure other frames are: nothing was changed.
 */
export function weighIn(
  input: FillInput,
  undone: UndonePlaces,
  gathered: Gathered,
  hidden: Int32Array,
): WeighedMeasure | null {
  const { channels } = input.picture
  const differences = differencesOf(input, undone, gathered, hidden)
  const fitted = fitVariances(differences)
  if (!fitted) return null
  const { places, noises, slopes, degrees } = differences
  const ghost = new Ghost()
  const sums = { undone: 0, others: 0, weighed: 0, count: 0 }
  for (let i = 0; i < places.length; i++) {
    if (degrees[i]! < 0) continue
    const k = places[i]!
    const entry = hidden[k]!
    const own = Math.max(1e-12, fitted.undone[degrees[i]!]!)
    const theirs = Math.max(1e-12, fitted.noise * noises[i]! + fitted.off * slopes[i]!)
    const say = theirs / (own + theirs)
    for (let c = 0; c < channels; c++) {
      const [at, from] = [entry * channels + c, k * channels + c]
      const shown = gathered.values[from]!
      undone.values[at] = say * undone.values[at]! + (1 - say) * shown
      ghost.add(undone.values[at] - shown, undone.added[at]! - undone.shares[entry]! * shown)
    }
    undone.grainKept[entry] =
      say * say * undone.grainKept[entry]! + (1 - say) * (1 - say) * Math.min(1, gathered.variance[k]!)
    sums.undone += own
    sums.others += theirs
    sums.weighed += own * say
    sums.count++
  }
  if (sums.count === 0) return null
  const rootOf = (sum: number) => Math.sqrt(sum / sums.count)
  return {
    undone: rootOf(sums.undone),
    others: rootOf(sums.others),
    weighed: rootOf(sums.weighed),
    ...ghost.told(),
  }
}

/** Values beside each other are alike, and count as fewer. */
const ALIKE = 4

/** The share of the mark by which the result differs from other frames: a line through nothing, with errors that allow for unequal variances (H. White, Econometrica 48, 1980). */
class Ghost {
  #cross = 0
  #square = 0
  // Of the squares that are left over, times the changes': as sums that do not need the share beforehand.
  #offs = 0
  #mixed = 0
  #changes = 0

  add(off: number, change: number): void {
    const [offs, changes] = [off * off, change * change]
    this.#cross += off * change
    this.#square += changes
    this.#offs += offs * changes
    this.#mixed += off * change * changes
    this.#changes += changes * changes
  }

  told(): Pick<WeighedMeasure, 'ghost' | 'ghostSure'> {
    if (this.#square === 0) return { ghost: 0, ghostSure: 0 }
    const ghost = this.#cross / this.#square
    const spread = this.#offs - 2 * ghost * this.#mixed + ghost * ghost * this.#changes
    const deviation = (ALIKE * Math.sqrt(Math.max(0, spread))) / this.#square
    return { ghost, ghostSure: Math.abs(ghost) / Math.max(1e-9, deviation) }
  }
}

/** Places that are told, one after the other. */
interface Differences {
  /** Which of the hidden ones each is. */
  readonly places: Int32Array
  /** Mean square of D over all channels. */
  readonly squares: Float32Array
  /** g² (1 + k), and the mean square of the slopes. */
  readonly noises: Float32Array
  readonly slopes: Float32Array
  /** Of a; −1 where there is no mark. */
  readonly degrees: Int8Array
}

function differencesOf(
  input: FillInput,
  undone: UndonePlaces,
  gathered: Gathered,
  hidden: Int32Array,
): Differences {
  const { channels } = input.picture
  const { seen, agree, variance, grainDeviations } = gathered
  const isTold = (k: number) =>
    seen[k]! >= MIN_SEEN && agree[k]! >= MIN_AGREE && undone.isDense[hidden[k]!] === 0
  const places = Int32Array.from(hidden.keys()).filter(isTold)
  const grain = grainDeviations.reduce((sum, one) => sum + one * one, 0) / channels
  const slopes = slopesOf(input, gathered, hidden)
  return {
    places,
    squares: Float32Array.from(places, (k) => squareAt(undone.values, gathered, hidden[k]!, k, channels)),
    noises: Float32Array.from(places, (k) => grain * (1 + Math.min(1, variance[k]!))),
    slopes: Float32Array.from(places, (k) => slopes[k]!),
    degrees: Int8Array.from(places, (k) => {
      const share = undone.shares[hidden[k]!]!
      return share <= NO_MARK ? -1 : Math.min(DEGREES - 1, Math.floor(share * DEGREES))
    }),
  }
}

/** Mean square of the slopes across and down at each hidden place, over all channels: of what was gathered, beside it of the plate. */
function slopesOf({ field, picture }: FillInput, gathered: Gathered, hidden: Int32Array): Float32Array {
  const { width, height, channels } = picture
  const shown = picture.data.slice()
  for (let k = 0; k < hidden.length; k++) {
    if (gathered.seen[k] === 0) continue
    const to = field.pixels[hidden[k]!]! * channels
    for (let c = 0; c < channels; c++) shown[to + c] = gathered.values[k * channels + c]!
  }
  const out = new Float32Array(hidden.length)
  for (let k = 0; k < hidden.length; k++) {
    const pixel = field.pixels[hidden[k]!]!
    const row = (pixel / width) | 0
    const col = pixel - row * width
    const left = (pixel - (col > 0 ? 1 : 0)) * channels
    const right = (pixel + (col + 1 < width ? 1 : 0)) * channels
    const above = (pixel - (row > 0 ? width : 0)) * channels
    const below = (pixel + (row + 1 < height ? width : 0)) * channels
    let sum = 0
    for (let c = 0; c < channels; c++) {
      const across = 0.5 * (shown[right + c]! - shown[left + c]!)
      const down = 0.5 * (shown[below + c]! - shown[above + c]!)
      sum += across * across + down * down
    }
    out[k] = sum / channels
  }
  return out
}

/** Before anything is fitted frames are taken to lie so many px beside each other. */
const USUAL_OFF_PX = 0.1

interface FittedVariances {
  /** α and β. */
  readonly noise: number
  readonly off: number
  /** Of what was undone, for each degree of opacity. */
  readonly undone: Float64Array
}

/** Least squares of squared differences. @returns null where too little without a mark is there to tell the two apart. */
function fitVariances({ squares, noises, slopes, degrees }: Differences): FittedVariances | null {
  const free = degrees.reduce((count, degree) => (degree < 0 ? count + 1 : count), 0)
  if (free < MIN_FREE || free === degrees.length) return null
  const usual = Float64Array.from({ length: DEGREES }, (_, degree) => {
    const some = squares.filter((_square, i) => degrees[i] === degree)
    return some.length === 0 ? 0 : medianOf(some)
  })
  const count = 2 + DEGREES
  const [upper, right] = [new Float64Array((count * (count + 1)) / 2), new Float64Array(count)]
  const row = new Float64Array(count)
  for (let i = 0; i < squares.length; i++) {
    const degree = degrees[i]!
    const expected = noises[i]! + USUAL_OFF_PX * USUAL_OFF_PX * slopes[i]! + (degree < 0 ? 0 : usual[degree]!)
    const square = Math.min(MAX_TIMES_USUAL * expected, squares[i]!)
    row.fill(0)
    row[0] = noises[i]!
    row[1] = slopes[i]!
    if (degree >= 0) row[2 + degree] = 1
    addEquation(upper, right, row, square, 1 / (expected * expected))
  }
  const [noise, off, ...own] = solveNotNegative(upper, right)
  const undone = Float64Array.from(own, (one, degree) => Math.max(one, MIN_SHARE * usual[degree]!))
  return { noise: noise!, off: off!, undone }
}

/** Mean square by which what was gathered of a place is off, over all channels. */
function squareAt(
  values: Float32Array,
  gathered: Gathered,
  entry: number,
  k: number,
  channels: number,
): number {
  let sum = 0
  for (let c = 0; c < channels; c++) {
    const off = values[entry * channels + c]! - gathered.values[k * channels + c]!
    sum += off * off
  }
  return sum / channels
}
