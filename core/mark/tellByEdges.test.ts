/** Marks on ground that never moves, told by their own edges alone. */
import { createRandom } from '../../tests/random'
import { GUESSED, SEEN, type MarkObservation } from './observation'
import type { RegressedMark } from './regressMark'
import { tellByEdges, withEdges } from './tellByEdges'

const shape = { width: 72, height: 40, channels: 3 }
const SIZE = shape.width * shape.height

/** Bars and a ring; half covered at the rim of the ring. */
function shareAt(at: number): number {
  const [x, y] = [at % shape.width, Math.floor(at / shape.width)]
  if (y >= 8 && y < 32 && ((x >= 8 && x < 14) || (x >= 58 && x < 64))) return 1
  return Math.min(1, Math.max(0, 3.5 - Math.abs(Math.sqrt((x - 36) ** 2 + (y - 20) ** 2) - 9)))
}

/** A slope of light with an edge of its own, and some grain. */
function groundOf(grain: number): Float32Array {
  const random = createRandom(5)
  const out = new Float32Array(3 * SIZE)
  for (let at = 0; at < SIZE; at++) {
    const [x, y] = [at % shape.width, Math.floor(at / shape.width)]
    const level = (x + y < 44 ? 0.2 : 0.55) + 0.002 * x + 0.0015 * y
    for (let c = 0; c < 3; c++)
      out[3 * at + c] = level * (1 - 0.2 * c) + grain * (random() + random() + random() + random() - 2)
  }
  return out
}

interface Laid {
  readonly opacity: number
  readonly colour: readonly [number, number, number]
}

function observationsOf({ opacity, colour }: Laid, known = GUESSED): MarkObservation[] {
  const ground = groundOf(0.004)
  const plate = ground.map((under, i) => {
    const covered = opacity * shareAt(Math.floor(i / 3))
    return (1 - covered) * under + covered * colour[i % 3]!
  })
  return [{ plate, ground, known: new Uint8Array(SIZE).fill(known) }]
}

const told = (mark: RegressedMark, observations: readonly MarkObservation[]) =>
  tellByEdges(mark, observations, () => false)
const unsure = (certainty = 0, seen = 0): RegressedMark => ({
  ...shape,
  added: new Float32Array(3 * SIZE),
  opacity: new Float32Array(SIZE),
  residuals: { seen: 0.01, guessed: 0.03 },
  clearness: new Float32Array(SIZE),
  certainty: new Float32Array(SIZE).fill(certainty),
  seenCounts: new Float32Array(SIZE).fill(seen),
  untold: new Uint8Array(SIZE).fill(1),
  strengths: [1],
})

test.each([
  [0.5, [1, 1, 1]],
  [0.2, [1, 1, 1]],
  [0.4, [0, 0, 0]],
  [0.7, [0.9, 0.3, 0.1]],
] as const)('opacity %d in colour %j, and where it lies', (opacity, colour) => {
  const found = told(unsure(), observationsOf({ opacity, colour }))!
  expect(Math.abs(found.line.opacity - opacity)).toBeLessThan(0.02)
  found.line.colour.forEach((one, c) => expect(Math.abs(one - colour[c]!)).toBeLessThan(0.05))
  let off = 0
  for (let at = 0; at < SIZE; at++) off += Math.abs(found.shares[at]! - shareAt(at))
  expect(off / SIZE).toBeLessThan(0.012)
  expect(found.opacityDeviation).toBeLessThan(0.03)
})

test('its picture takes the place of what was guessed, but not where frames are sure by now', () => {
  const laid: Laid = { opacity: 0.5, colour: [1, 1, 1] }
  const edges = told(unsure(), observationsOf(laid))!
  const inBar = 20 * shape.width + 10
  const { opacity, added, untold } = withEdges(unsure(), edges)
  expect(opacity[inBar]).toBeCloseTo(0.5, 1)
  expect(added[3 * inBar]).toBeCloseTo(0.5, 1)
  expect(untold[inBar]).toBe(0)
  expect(withEdges(unsure(0.95), edges).opacity[inBar]).toBe(0)
})

test('ground without a mark, or one that frames tell, or a mark that fades, is left to frames', () => {
  const laid: Laid = { opacity: 0.5, colour: [1, 1, 1] }
  expect(told(unsure(), observationsOf({ ...laid, opacity: 0 }))).toBeNull()
  expect(told(unsure(0, 5), observationsOf(laid, SEEN))).toBeNull()
  expect(told(unsure(0.8), observationsOf(laid))).toBeNull()
  expect(told({ ...unsure(), strengths: [1, 0.6] }, observationsOf(laid))).toBeNull()
})
