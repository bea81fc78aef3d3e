/**
 * Opacity and colour of each pixel of a mark, by what frames show with it and, as far as they know, without it.
 *
 * Symbols: P the plate, S what is really there, a opacity, b colour times opacity: P = (1 − a) S + b. Least squares over frames and
 * channels give one a for all channels. A mark that fades has a strength g on each frame, P = S + g (b − a S): told by least squares over places in turn. S is known with an error: its variance is taken off the squares, as slopes come out too flat otherwise
 * (W. A. Fuller, "Measurement Error Models", 1987, 1.2). Frames that fit badly lose their say (Geman and McClure's weights). What neighbours tell
 * stands in where few brightnesses were seen: their opacity, and their colour C, as P = S = C lies on the same line.
 */
import type { MarkPicture } from '../image/markPicture'
import { clearnessOf, directionOfChange, ENOUGH_SEEN, untoldOf } from './evidence'
import { MIN_OPACITY, neighboursOf, UNKNOWN, type Neighbours } from './neighbours'
import { askedOf, countsOf, GUESSED, NOT_ASKED, SEEN, type MarkObservation } from './observation'
import { fullStrength, middleOf, strengthsOf } from './strengths'

export interface RegressedMark extends MarkPicture {
  /** Deviations of what the model leaves, in the plate's scale: where the ground was seen, and where it was guessed. */
  readonly residuals: Residuals
  /** For each place, by how many of its own deviations plate and ground differ on average: what is small may be no mark. */
  readonly clearness: Float32Array
  /** 0 to 1: how well frames alone tell the opacity of each place. */
  readonly certainty: Float32Array
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
/** Neighbours' colours and opacities differ by so much. */
const COLOUR_DEVIATION = 0.06
const OPACITY_DEVIATION = 0.12
/** An opacity whose deviation is this is half certain. */
const CERTAIN_DEVIATION = 0.01
/** From so many deviations on what was only guessed is a mark. */
const CLEAR = 3.5
const FEW_SEEN_SAY = 0.05
/** Where hardly a frame shows the ground, neighbours have so many times the say. */
const FEW_SEEN_TRUST = 30
/** Of a normal distribution, the deviation over the mean of what is off. */
const DEVIATION_OF_MEAN = 1.2533
/** Of what ground varies by, at least so much is taken for true. */
const MIN_TRUE_SHARE = 0.1
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
  const { added, opacity, certainty, residuals, strengths } = fit
  const untold = untoldOf(fit.asked, seenCounts, clearness)
  for (let at = 0; at < size; at++) {
    if (isReal(at) && opacity[at]! >= MIN_OPACITY) {
      untold[at] = 0
      continue
    }
    opacity[at] = 0
    added.fill(0, at * channels, (at + 1) * channels)
  }
  return { ...shape, added, opacity, certainty, residuals, clearness, seenCounts, strengths, untold }
}

/** A line for each place, and how much say each observation has. */
class LineFit {
  readonly added: Float32Array
  readonly opacity: Float32Array
  /** 1 where the mark changes the ground on average as most of it does, mostly to be brighter; −1 where it does the opposite. */
  readonly brightens: Int8Array
  /** 0 to 1: how well frames alone tell the opacity of each place. */
  readonly certainty: Float32Array
  /** Places that any frame is asked about. */
  readonly asked: Int32Array
  residuals: Residuals = FIRST_RESIDUALS
  /** How much of the mark is there on each frame. */
  strengths: readonly number[]
  isFading = false
  readonly #observations: readonly MarkObservation[]
  readonly #channels: number
  readonly #direction: Float64Array
  readonly #seenCounts: Float32Array
  readonly #say: readonly Float32Array[]

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
