/** The model of a mark against marks that were laid by the same equation: opacities, colours, noise, what is hardly seen. */
import { createRandom } from '../../tests/random'
import { GUESSED, NOT_ASKED, SEEN, type MarkObservation } from './observation'
import { regressMark } from './regressMark'

const shape = { width: 12, height: 10, channels: 3 }
const SIZE = shape.width * shape.height

interface Laid {
  readonly opacity: (at: number) => number
  readonly colour: readonly [number, number, number]
  readonly grain?: number
  readonly frames?: number
  /** How far the ground goes from frame to frame. */
  readonly spread?: number
  readonly rounds?: boolean
  readonly known?: number
  /** How far what is known of the ground is off. */
  readonly groundError?: number
  /** How much of the mark is there on a frame. */
  readonly strength?: (frame: number) => number
}

function observationsOf({
  opacity,
  colour,
  grain = 0.004,
  frames = 16,
  spread = 0.5,
  rounds = false,
  known = SEEN,
  groundError = 0,
  strength = () => 1,
}: Laid): MarkObservation[] {
  const random = createRandom(3)
  const noise = () => random() + random() + random() + random() - 2 // deviation 0.577
  return Array.from({ length: frames }, (_, frame) => {
    const [plate, ground] = [new Float32Array(3 * SIZE), new Float32Array(3 * SIZE)]
    for (let at = 0; at < SIZE; at++) {
      const level = 0.15 + spread * random()
      const error = (groundError / 0.577) * noise()
      for (let c = 0; c < 3; c++) {
        const under = level * (0.8 + 0.1 * c)
        ground[3 * at + c] = under + error
        const share = strength(frame) * opacity(at)
        const mixed = (1 - share) * (under + (grain / 0.577) * noise()) + share * colour[c]!
        plate[3 * at + c] = rounds ? Math.round(255 * mixed) / 255 : mixed
      }
    }
    return { plate, ground, known: new Uint8Array(SIZE).fill(known) }
  })
}

const isMark = (at: number) => at % shape.width >= 3 && at % shape.width < 9
/** Mean difference of opacities where the mark is, and where it is not. */
function errorsOf(found: Float32Array, opacity: (at: number) => number) {
  let [on, off, marked] = [0, 0, 0]
  for (let at = 0; at < SIZE; at++) {
    const error = Math.abs(found[at]! - opacity(at))
    if (isMark(at)) {
      on += error
      marked++
    } else off += error
  }
  return { on: on / marked, off: off / (SIZE - marked) }
}

test.each([
  [0.1, [1, 1, 1]],
  [0.35, [1, 1, 1]],
  [0.35, [0, 0, 0]],
  [0.6, [0.2, 0.5, 0.9]],
  [0.8, [0.9, 0.3, 0.2]],
  [0.95, [1, 1, 1]],
] as const)('opacity %d in colour %j comes back, from 8-bit samples with grain', (value, colour) => {
  const opacity = (at: number) => (isMark(at) ? value : 0)
  const found = regressMark(observationsOf({ opacity, colour, rounds: true }), shape)
  const { on, off } = errorsOf(found.opacity, opacity)
  expect(on).toBeLessThan(0.012)
  expect(off).toBeLessThan(0.012)
  for (let at = 0; at < SIZE; at++) {
    if (!isMark(at)) continue
    for (let c = 0; c < 3; c++)
      expect(Math.abs(found.added[3 * at + c]! - value * colour[c]!)).toBeLessThan(0.03)
  }
})

test.each([0.002, 0.008, 0.02])('with grain of %d the opacity is within 0.03', (grain) => {
  const opacity = (at: number) => (isMark(at) ? 0.45 : 0)
  const found = regressMark(observationsOf({ opacity, colour: [1, 1, 1], grain, frames: 24 }), shape)
  expect(errorsOf(found.opacity, opacity).on).toBeLessThan(0.03)
})

test('a gradient of opacity is followed from place to place', () => {
  const opacity = (at: number) => (isMark(at) ? 0.2 + 0.06 * (at % shape.width) : 0)
  const found = regressMark(observationsOf({ opacity, colour: [0.9, 0.9, 1] }), shape)
  expect(errorsOf(found.opacity, opacity).on).toBeLessThan(0.012)
})

test('ground that is known with an error makes no mark look denser than it is', () => {
  const opacity = (at: number) => (isMark(at) ? 0.4 : 0)
  const observations = observationsOf({
    opacity,
    colour: [1, 1, 1],
    spread: 0.12,
    groundError: 0.03,
    known: GUESSED,
    frames: 24,
  })
  const found = regressMark(observations, shape)
  let [ours, plain] = [0, 0]
  for (let at = 0; at < SIZE; at++) {
    if (!isMark(at)) continue
    ours += Math.abs(found.opacity[at]! - 0.4) / (SIZE / 2)
    plain += Math.abs(1 - plainSlope(observations, at) - 0.4) / (SIZE / 2)
  }
  expect(plain).toBeGreaterThan(0.2)
  expect(ours).toBeLessThan(0.6 * plain)
})

/** Ordinary least squares, which takes what is known of the ground for exact. */
function plainSlope(observations: readonly MarkObservation[], at: number): number {
  let [cross, square] = [0, 0]
  for (let c = 0; c < 3; c++) {
    const pairs = observations.map(({ plate, ground }) => [ground[3 * at + c]!, plate[3 * at + c]!] as const)
    const mean = [0, 1].map((k) => pairs.reduce((sum, pair) => sum + pair[k]!, 0) / pairs.length)
    for (const [ground, plate] of pairs) {
      cross += (ground - mean[0]!) * (plate - mean[1]!)
      square += (ground - mean[0]!) ** 2
    }
  }
  return cross / square
}

test('frames on which something else passes have no say', () => {
  const opacity = (at: number) => (isMark(at) ? 0.5 : 0)
  const observations = observationsOf({ opacity, colour: [1, 1, 1], frames: 20 })
  for (const { plate } of observations.slice(0, 3)) plate.fill(0.02)
  expect(errorsOf(regressMark(observations, shape).opacity, opacity).on).toBeLessThan(0.02)
})

test('what is not asked is no mark, and what is only guessed has to be clear', () => {
  const opacity = (at: number) => (isMark(at) ? 0.4 : 0)
  const observations = observationsOf({
    opacity,
    colour: [1, 1, 1],
    known: GUESSED,
    groundError: 0.02,
    frames: 24,
  })
  for (const { known } of observations) known.fill(NOT_ASKED, 0, shape.width)
  const { opacity: found, seenCounts } = regressMark(observations, shape)
  expect(found.subarray(0, shape.width).every((one) => one === 0)).toBe(true)
  expect(seenCounts.every((one) => one === 0)).toBe(true)
  let ghosts = 0
  for (let at = shape.width; at < SIZE; at++) if (!isMark(at) && found[at]! > 0.05) ghosts++
  expect(ghosts).toBeLessThanOrEqual(2)
})

test('a mark that fades in, or pulses, is one mark: its picture is that of full strength, each frame has a strength', () => {
  const opacity = (at: number) => (isMark(at) ? 0.5 : 0)
  const laws = [(frame: number) => Math.min(1, frame / 8), (frame: number) => 0.7 + 0.3 * Math.sin(frame)]
  for (const strength of laws) {
    const observations = observationsOf({ opacity, colour: [1, 1, 1], strength, frames: 20 })
    const { opacity: found, strengths } = regressMark(observations, shape)
    expect(errorsOf(found, opacity).on).toBeLessThan(0.03)
    strengths.forEach((one, frame) => expect(Math.abs(one - strength(frame))).toBeLessThan(0.05))
  }
})

test('a mark that does not fade has strength 1 on all frames, also where something else passes', () => {
  const opacity = (at: number) => (isMark(at) ? 0.3 : 0)
  const { strengths } = regressMark(observationsOf({ opacity, colour: [1, 1, 1], grain: 0.02 }), shape)
  expect(strengths.every((one) => one === 1)).toBe(true)
})

test('what hardly a frame has shown, and may be the mark’s, is said to be untold; not where nothing was seen at all', () => {
  const opacity = (at: number) => (isMark(at) ? 0.5 : 0)
  const hidden = (at: number) => at % shape.width >= 6 && Math.floor(at / shape.width) < 4
  const observations = observationsOf({ opacity, colour: [0, 0, 0], frames: 12, groundError: 0.01 })
  const random = createRandom(12)
  for (const { ground, known } of observations) {
    for (let at = 0; at < SIZE; at++) {
      if (!hidden(at)) continue
      known[at] = GUESSED
      // A guess that is far off, now to one side and now to the other.
      const off = 0.5 * (random() - 0.5)
      for (let c = 0; c < 3; c++) ground[3 * at + c]! += off
    }
  }
  const { untold } = regressMark(observations, shape)
  let [marked, beside] = [0, 0]
  for (let at = 0; at < SIZE; at++) {
    if (untold[at] === 0) continue
    expect(hidden(at)).toBe(true)
    if (isMark(at)) marked++
    else beside++
  }
  expect(marked).toBeGreaterThan(0)
  expect(beside).toBeLessThanOrEqual(marked)
  for (const { known } of observations) known.fill(GUESSED)
  expect(regressMark(observations, shape).untold.every((one) => one === 0)).toBe(true)
})
