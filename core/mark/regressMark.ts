/**
 * Opacity and colour of each pixel of a mark, by what frames show with it and, as far as they know, without it.
 *
 * Symbols: P the plate, S what is really there, a opacity, b colour times opacity: P = (1 − a) S + b. Least squares over frames and
 * channels give one a for all channels. A mark that fades has a strength g on each frame, P = S + g (b − a S): told by least squares over places in turn. S is known with an error: its variance is taken off the squares, as slopes come out too flat otherwise
 * (W. A. Fuller, "Measurement Error Models", 1987, 1.2). Frames that fit badly lose their say (Geman and McClure's weights). What neighbours tell
 * stands in where few brightnesses were seen: their opacity, and their colour C, as P = S = C lies on the same line.
 */
import { convolveSeparable, gaussianTaps } from '../image/convolve'
import { createRaster } from '../image/raster'
import type { MarkPicture } from '../image/markPicture'

/** What one frame shows of every place of the mark, in the mark's own places; channels interleaved. */
export interface MarkObservation {
  readonly plate: Float32Array
  readonly ground: Float32Array
  /** For each place: NOT_ASKED, GUESSED from what is around, or SEEN on other frames. */
  readonly known: Uint8Array
}
export const NOT_ASKED = 0
export const GUESSED = 1
export const SEEN = 2

export interface RegressedMark extends MarkPicture {
  /** Deviations of what the model leaves, in the plate's scale: where the ground was seen, and where it was guessed. */
  readonly residuals: Residuals
  /** For each place, by how many of its own deviations plate and ground differ on average: what is small may be no mark. */
  readonly clearness: Float32Array
  /** How many frames showed the ground at each place. */
  readonly seenCounts: Float32Array
  /** 1 for each place that may be the mark's, and of which hardly a frame tells more. */
  readonly untold: Uint8Array
  /** How much of the mark is there on each frame, 1 where it is whole; all 1 for a mark that does not fade. */
  readonly strengths: readonly number[]
}

export interface Residuals {
  readonly seen: number
  readonly guessed: number
}

const ROUNDS = 4
const TURNS = 3
/** Residuals from so many deviations on have a quarter of the say. */
const STRAY_DEVIATIONS = 2.5
/** What is usual before anything was fitted, in the plate's scale. */
const FIRST_RESIDUALS: Residuals = { seen: 0.008, guessed: 0.03 }
/** The error of ground that was seen, as a share of what the model leaves. */
const SEEN_ERROR_SHARE = 0.3
/** Neighbours' colours and opacities differ by so much, and are averaged over this distance, px. */
const COLOUR_DEVIATION = 0.06
const OPACITY_DEVIATION = 0.12
const NEAR_SIGMA_PX = 2.5
/** How much say the colour of all places has beside those near, as so many certain and opaque ones. */
const USUAL_SAY = 0.01
/** Fewer certain places near tell no opacity. */
const MIN_NEAR = 1e-3
const UNKNOWN = -1
/** An opacity whose deviation is this is half certain. */
const CERTAIN_DEVIATION = 0.01
/** An opacity below this is none. */
const MIN_OPACITY = 0.004
/** From so many deviations on what was only guessed is a mark. */
const CLEAR = 3.5
const ENOUGH_SEEN = 3
const FEW_SEEN_SAY = 0.05
/** Where hardly a frame shows the ground, neighbours have so many times the say. */
const FEW_SEEN_TRUST = 30
/** Where most places were seen on other frames, one that was not and is off by more deviations than this may be the mark's. */
const MAYBE = 1.5
const MOSTLY_SEEN = 0.4
/** Guessed ground is off in the same way on frames near each other: so many count as one. */
const ALIKE_FRAMES = 3

/** The mark is whole on frames where it is as strong as this share of them; weaker than so much of that, it fades. */
const WHOLE_SHARE = 0.9
const FADES_BELOW = 0.85
/** On fewer frames it is rather the ground that was taken for something else. */
const MIN_WEAKER = 2
const MIN_WEAKER_SHARE = 0.1
const MOST_STRENGTH = 1.2

type Shape = Pick<MarkPicture, 'width' | 'height' | 'channels'>

export function regressMark(observations: readonly MarkObservation[], shape: Shape): RegressedMark {
  const size = shape.width * shape.height
  const { channels } = shape
  const seenCounts = countsOf(observations, size)
  const direction = directionOfChange(observations, channels)
  const fit = new LineFit(observations, seenCounts, direction)
  let clearness = clearnessOf(observations, fit.strengths, size, direction)
  const isReal = (at: number) => seenCounts[at]! >= ENOUGH_SEEN || clearness[at]! >= CLEAR
  let near: Neighbours | null = null
  for (let round = 0; round < ROUNDS; round++) {
    fit.solve(near)
    // Picture and strengths tell each other.
    for (let turn = 0; turn < TURNS && fit.fade(); turn++) fit.solve(near)
    if (fit.isFading) clearness = clearnessOf(observations, fit.strengths, size, direction)
    fit.reweigh()
    near = neighboursOf({ ...shape, ...fit }, fit, isReal)
  }
  fit.solve(near)
  const { added, opacity, residuals, strengths } = fit
  const untold = untoldOf(fit.asked, seenCounts, clearness)
  for (let at = 0; at < size; at++) {
    if (isReal(at) && opacity[at]! >= MIN_OPACITY) {
      untold[at] = 0
      continue
    }
    opacity[at] = 0
    added.fill(0, at * channels, (at + 1) * channels)
  }
  return { ...shape, added, opacity, residuals, clearness, seenCounts, strengths, untold }
}

/** What lies around each place on the average, of what changes the ground the same way. */
interface Neighbours {
  readonly colours: Float32Array
  readonly opacities: Float32Array
}

/** A line for each place, and how much say each observation has. */
class LineFit {
  readonly added: Float32Array
  readonly opacity: Float32Array
  /** 1 where the mark changes the ground on average as most of it does, mostly to be brighter; −1 where it does the opposite. */
  readonly brightens: Int8Array
  /** 0 to 1: how well frames alone tell the opacity of each place. */
  readonly certainty: Float32Array
  residuals: Residuals = FIRST_RESIDUALS
  /** How much of the mark is there on each frame. */
  strengths: readonly number[]
  isFading = false
  readonly #observations: readonly MarkObservation[]
  readonly #channels: number
  readonly #direction: Float64Array
  readonly #seenCounts: Float32Array
  readonly #say: readonly Float32Array[]
  /** Places that any frame is asked about. */
  readonly asked: Int32Array

  constructor(observations: readonly MarkObservation[], seenCounts: Float32Array, direction: Float64Array) {
    const channels = direction.length
    const size = seenCounts.length
    this.#observations = observations
    this.#seenCounts = seenCounts
    this.#channels = channels
    this.#direction = direction
    this.added = new Float32Array(size * channels)
    this.opacity = new Float32Array(size)
    this.brightens = new Int8Array(size)
    this.certainty = new Float32Array(size)
    this.strengths = observations.map(() => 1)
    this.asked = askedOf(observations, size)
    const guessed = this.#guessedSay
    this.#say = observations.map(({ known }) =>
      Float32Array.from(known, (one, at) =>
        one === NOT_ASKED ? 0 : one === GUESSED ? guessed : this.#seenSay(at),
      ),
    )
  }

  /** What hardly a frame shows is often not what it shows: there the many guesses are better. */
  #seenSay(at: number): number {
    return this.#seenCounts[at]! < ENOUGH_SEEN ? FEW_SEEN_SAY : 1
  }

  /** Of a guess, beside what was seen: as their variances are. */
  get #guessedSay(): number {
    const { seen, guessed } = this.residuals
    return Math.min(1, (seen * seen) / (guessed * guessed))
  }

  solve(near: Neighbours | null): void {
    const channels = this.#channels
    const [observations, say] = [this.#observations, this.#say]
    const { seen, guessed } = this.residuals
    const [seenError, guessedError] = [SEEN_ERROR_SHARE * seen * seen, guessed * guessed]
    const [meansP, meansS] = [new Float64Array(channels), new Float64Array(channels)]
    for (const at of this.asked) {
      meansP.fill(0)
      meansS.fill(0)
      let [total, errors, off] = [0, 0, 0]
      for (let f = 0; f < observations.length; f++) {
        const strength = this.strengths[f]!
        const weight = say[f]![at]! * strength * strength
        if (weight === 0) continue
        const { plate, ground, known } = observations[f]!
        total += weight
        errors += weight * (known[at] === SEEN ? seenError : guessedError)
        for (let c = 0; c < channels; c++) {
          const i = at * channels + c
          const full = fullStrength(plate[i]!, ground[i]!, strength)
          meansP[c]! += weight * full
          meansS[c]! += weight * ground[i]!
          off += weight * this.#direction[c]! * (full - ground[i]!)
        }
      }
      this.brightens[at] = off < 0 ? -1 : 1
      if (total === 0) {
        this.opacity[at] = 0
        this.added.fill(0, at * channels, (at + 1) * channels)
        continue
      }
      const trust = this.#seenCounts[at]! < ENOUGH_SEEN ? FEW_SEEN_TRUST : 1
      const opacityCount = (trust * seen * seen) / (OPACITY_DEVIATION * OPACITY_DEVIATION)
      const colourDeviation = near ? COLOUR_DEVIATION * Math.max(0.05, this.opacity[at]!) : Infinity
      const colourCount = (trust * seen * seen) / (colourDeviation * colourDeviation)
      for (let c = 0; c < channels; c++) {
        const colour = near ? colourCount * near.colours[at * channels + c]! : 0
        meansP[c] = (meansP[c]! + colour) / (total + colourCount)
        meansS[c] = (meansS[c]! + colour) / (total + colourCount)
      }
      let [cross, square] = [0, 0]
      for (let f = 0; f < observations.length; f++) {
        const strength = this.strengths[f]!
        const weight = say[f]![at]! * strength * strength
        if (weight === 0) continue
        const { plate, ground } = observations[f]!
        for (let c = 0; c < channels; c++) {
          const i = at * channels + c
          const offS = ground[i]! - meansS[c]!
          cross += weight * (fullStrength(plate[i]!, ground[i]!, strength) - meansP[c]!) * offS
          square += weight * offS * offS
        }
      }
      square = Math.max(MIN_TRUE_SHARE * square, square - channels * errors)
      this.certainty[at] = square / (square + (seen * seen) / (CERTAIN_DEVIATION * CERTAIN_DEVIATION))
      if (near) {
        for (let c = 0; c < channels; c++) {
          const colour = near.colours[at * channels + c]!
          cross += colourCount * (colour - meansP[c]!) * (colour - meansS[c]!)
          square += colourCount * (colour - meansS[c]!) * (colour - meansS[c]!)
        }
        if (near.opacities[at] !== UNKNOWN) {
          cross += opacityCount * (1 - near.opacities[at]!)
          square += opacityCount
        }
      }
      const through = square > 1e-12 ? Math.min(1, Math.max(0, cross / square)) : 1
      this.opacity[at] = 1 - through
      for (let c = 0; c < channels; c++) this.added[at * channels + c] = meansP[c]! - through * meansS[c]!
    }
  }

  /** How much of the mark each frame shows, by what it changes there. @returns Whether it fades. */
  fade(): boolean {
    const { added, opacity } = this
    const mark = { added, opacity, channels: this.#channels }
    const told = this.#observations.map((one, f) => strengthsOf(one, mark, (at) => this.#say[f]![at]!))
    const strengths = told.map(middleOf)
    const whole = [...strengths].sort((a, b) => a - b)[Math.floor(WHOLE_SHARE * (strengths.length - 1))] ?? 1
    // A frame is weaker where all but its strongest part are.
    const isWeaker = (parts: readonly number[]) => (parts.at(-2) ?? parts[0] ?? 1) < FADES_BELOW * whole
    const weaker = told.filter(isWeaker).length
    const fades = whole > 0 && weaker >= Math.max(MIN_WEAKER, MIN_WEAKER_SHARE * strengths.length)
    this.isFading = fades
    this.strengths = strengths.map((one) => (fades ? Math.min(MOST_STRENGTH, Math.max(0, one / whole)) : 1))
    return fades
  }

  /** Gives observations their say anew by how well they fit. */
  reweigh(): void {
    const squares = this.#observations.map((one, f) => this.#squaresOf(one, this.strengths[f]!))
    this.residuals = {
      seen: this.#deviation(squares, SEEN) ?? this.residuals.seen,
      guessed: this.#deviation(squares, GUESSED) ?? this.residuals.guessed,
    }
    const { seen, guessed } = this.residuals
    const guessedSay = this.#guessedSay
    this.#observations.forEach(({ known }, f) => {
      const say = this.#say[f]!
      for (const at of this.asked) {
        if (known[at] === NOT_ASKED) continue
        const limit = STRAY_DEVIATIONS * (known[at] === SEEN ? seen : guessed)
        const fits = 1 / (1 + squares[f]![at]! / (limit * limit))
        say[at] = (known[at] === SEEN ? this.#seenSay(at) : guessedSay) * fits * fits
      }
    })
  }

  #squaresOf({ plate, ground, known }: MarkObservation, strength: number): Float32Array {
    const channels = this.#channels
    const out = new Float32Array(known.length)
    for (const at of this.asked) {
      if (known[at] === NOT_ASKED) continue
      for (let c = 0; c < channels; c++) {
        const i = at * channels + c
        const off = plate[i]! - ground[i]! - strength * (this.added[i]! - this.opacity[at]! * ground[i]!)
        out[at]! += (off * off) / channels
      }
    }
    return out
  }

  /** Mean deviation of one sort of ground; null where there is none of it. */
  #deviation(squares: readonly Float32Array[], sort: number): number | null {
    let [sum, count] = [0, 0]
    this.#observations.forEach(({ known }, f) => {
      const say = this.#say[f]!
      for (const at of this.asked) {
        if (known[at] !== sort) continue
        sum += say[at]! * Math.sqrt(squares[f]![at]!)
        count += say[at]!
      }
    })
    return count > 0 ? Math.max(1e-4, (DEVIATION_OF_MEAN * sum) / count) : null
  }
}

/** Parts of a mark, from its top to its foot, that tell its strength each by itself. */
const PARTS = 5
/** A part that changes less than this share of what all do tells nothing. */
const MIN_PART = 0.04

/**
 * How much of a mark a frame shows, told by each of its parts by least squares, in rising order: what passes over one part makes the others no weaker.
 * @param say  How much each place counts.
 */
export function strengthsOf(
  { plate, ground, known }: MarkObservation,
  { added, opacity, channels }: Pick<MarkPicture, 'added' | 'opacity' | 'channels'>,
  say: (at: number) => number,
): number[] {
  const [crosses, squares] = [new Float64Array(PARTS), new Float64Array(PARTS)]
  for (let at = 0; at < known.length; at++) {
    if (known[at] === NOT_ASKED || opacity[at] === 0) continue
    const part = Math.floor((at * PARTS) / known.length)
    const weight = say(at)
    for (let c = 0; c < channels; c++) {
      const i = at * channels + c
      const change = added[i]! - opacity[at]! * ground[i]!
      crosses[part]! += weight * (plate[i]! - ground[i]!) * change
      squares[part]! += weight * change * change
    }
  }
  const all = squares.reduce((sum, one) => sum + one, 0)
  return Array.from(crosses, (cross, part) => cross / squares[part]!)
    .filter((_, part) => squares[part]! > MIN_PART * all)
    .sort((a, b) => a - b)
}

/** The middle one of what its parts tell; none where there is no part. */
export const middleOf = (strengths: readonly number[]): number => strengths[strengths.length >> 1] ?? 0

/** What the plate would show if the mark were whole there. */
const fullStrength = (plate: number, ground: number, strength: number): number =>
  strength === 1 ? plate : ground + (plate - ground) / strength

/** Of a normal distribution, the deviation over the mean of what is off. */
const DEVIATION_OF_MEAN = 1.2533
/** Of what ground varies by, at least so much is taken for true. */
const MIN_TRUE_SHARE = 0.1

/**
 * What darkens and what brightens are different parts of a mark, a letter and its shadow, and know nothing of each other. Where nothing
 * is near, what darkens is black, and what brightens has the colour of all that does.
 */
function neighboursOf(
  { width, height, channels, added, opacity }: MarkPicture,
  { brightens, certainty }: Pick<LineFit, 'brightens' | 'certainty'>,
  isReal: (at: number) => boolean,
): Neighbours {
  const colours = new Float32Array(opacity.length * channels)
  const opacities = new Float32Array(opacity.length)
  const taps = gaussianTaps(NEAR_SIGMA_PX)
  for (const sign of [-1, 1]) {
    // Colour by how opaque it is; opacity by how many are near.
    const planes = channels + 3
    const sums = createRaster(width, height, planes)
    const all = new Float64Array(planes)
    for (let at = 0; at < opacity.length; at++) {
      const share = opacity[at]!
      if (share < MIN_OPACITY || brightens[at] !== sign || !isReal(at)) continue
      const weight = certainty[at]! * certainty[at]!
      for (let c = 0; c < channels; c++)
        sums.data[at * planes + c] = weight * added[at * channels + c]! * share
      sums.data[at * planes + channels] = weight * share * share
      sums.data[at * planes + channels + 1] = weight * share
      sums.data[at * planes + channels + 2] = weight
      for (let p = 0; p < planes; p++) all[p]! += sums.data[at * planes + p]!
    }
    const { data } = convolveSeparable(sums, taps, taps)
    for (let at = 0; at < opacity.length; at++) {
      if (brightens[at] !== sign) continue
      const begin = at * planes
      // Of all that does the same, as far as what is certain near is little.
      const usual = all[channels]! > 0 ? USUAL_SAY / all[channels]! : 0
      const total = data[begin + channels]! + usual * all[channels]!
      for (let c = 0; c < channels; c++) {
        const sum = data[begin + c]! + usual * all[c]!
        colours[at * channels + c] = total > 0 ? Math.min(1, Math.max(0, sum / total)) : sign > 0 ? 1 : 0
      }
      const certain = data[begin + channels + 2]!
      opacities[at] = certain > MIN_NEAR ? data[begin + channels + 1]! / certain : UNKNOWN
    }
  }
  return { colours, opacities }
}

function askedOf(observations: readonly MarkObservation[], size: number): Int32Array {
  const out = new Int32Array(size)
  let count = 0
  for (let at = 0; at < size; at++)
    if (observations.some(({ known }) => known[at] !== NOT_ASKED)) out[count++] = at
  return out.slice(0, count)
}

/** Steps of the power method; its start, all colours alike, is what most marks change. */
const POWER_STEPS = 24

/**
 * The mixture of colours in which the mark changes the ground most, of length 1: brightness for white and black ones, what sets its colour apart for a
 * coloured one. The first eigenvector of the second moments, by the power method.
 */
function directionOfChange(observations: readonly MarkObservation[], channels: number): Float64Array {
  const moments = new Float64Array(channels * channels)
  for (const { plate, ground, known } of observations) {
    for (let at = 0; at < known.length; at++) {
      if (known[at] === NOT_ASKED) continue
      const from = at * channels
      for (let a = 0; a < channels; a++)
        for (let b = 0; b < channels; b++)
          moments[a * channels + b]! +=
            (plate[from + a]! - ground[from + a]!) * (plate[from + b]! - ground[from + b]!)
    }
  }
  let direction = new Float64Array(channels).fill(1)
  for (let step = 0; step < POWER_STEPS; step++) {
    const next = direction.map((_, a) =>
      direction.reduce((sum, one, b) => sum + moments[a * channels + b]! * one, 0),
    )
    const length = Math.sqrt(next.reduce((sum, one) => sum + one * one, 0))
    if (!(length > 0)) break
    direction = next.map((one) => one / length)
  }
  const sum = direction.reduce((total, one) => total + one, 0)
  return sum < 0 ? direction.map((one) => -one) : direction
}

function untoldOf(asked: Int32Array, seenCounts: Float32Array, clearness: Float32Array): Uint8Array {
  const untold = new Uint8Array(seenCounts.length)
  let seen = 0
  for (const at of asked) if (seenCounts[at]! >= ENOUGH_SEEN) seen++
  if (seen < MOSTLY_SEEN * asked.length) return untold
  for (const at of asked) if (seenCounts[at]! < ENOUGH_SEEN && clearness[at]! >= MAYBE) untold[at] = 1
  return untold
}

function countsOf(observations: readonly MarkObservation[], size: number): Float32Array {
  const counts = new Float32Array(size)
  for (const { known } of observations)
    for (let at = 0; at < size; at++) if (known[at] === SEEN) counts[at]!++
  return counts
}

function clearnessOf(
  observations: readonly MarkObservation[],
  strengths: readonly number[],
  size: number,
  direction: Float64Array,
): Float32Array {
  const channels = direction.length
  const out = new Float32Array(size)
  for (let at = 0; at < size; at++) {
    let [count, sum, squares] = [0, 0, 0]
    for (let f = 0; f < observations.length; f++) {
      const { plate, ground, known } = observations[f]!
      const strength = strengths[f]!
      if (known[at] === NOT_ASKED || strength === 0) continue
      let off = 0
      for (let c = 0; c < channels; c++) {
        const i = at * channels + c
        off += direction[c]! * (fullStrength(plate[i]!, ground[i]!, strength) - ground[i]!)
      }
      const weight = strength * strength
      count += weight
      sum += weight * off
      squares += weight * off * off
    }
    if (count < 2) continue
    const mean = sum / count
    const variance = Math.max(1e-7, squares / count - mean * mean) * (ALIKE_FRAMES / count)
    out[at] = Math.abs(mean) / Math.sqrt(variance)
  }
  return out
}
