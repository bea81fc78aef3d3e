import fc from 'fast-check'
import { loadOpenCv } from '../../evaluation/opencv'
import { estimateMotion, estimateMotionRobust, MIN_PAIRS, motionModels } from './estimate'
import { solveSymmetric } from './linear'
import {
  apply,
  compose,
  IDENTITY,
  invert,
  keepParts,
  localParts,
  normalised,
  similarity,
  translationBy,
  type Matrix3,
} from './transform'

const through = (m: Matrix3, points: readonly number[]) => {
  const out: number[] = []
  for (let i = 0; i < points.length; i += 2) {
    const { x, y } = apply(m, points[i]!, points[i + 1]!)
    out.push(x, y)
  }
  return out
}
const close = (a: ArrayLike<number>, b: ArrayLike<number>, digits: number) => {
  expect(a).toHaveLength(b.length)
  for (let i = 0; i < a.length; i++) expect(a[i]).toBeCloseTo(b[i]!, digits)
}
const spots = [12, 8, 205, 20, 190, 160, 30, 140, 110, 75, 60, 110]
const bent: Matrix3 = [1.1, 0.08, 12, -0.05, 0.94, -7, 0.0004, -0.0003, 1]

test('a transform and its inverse cancel, and two in a row are their product', () => {
  close(
    compose(bent, invert(bent)!).map((value, _i, all) => value / all[8]!),
    IDENTITY,
    10,
  )
  const both = compose(bent, similarity(2, 0.3, 5, 6))
  const once = apply(similarity(2, 0.3, 5, 6), 7, 9)
  close(Object.values(apply(both, 7, 9)), Object.values(apply(bent, once.x, once.y)), 10)
  expect(invert([1, 2, 3, 2, 4, 6, 0, 0, 1])).toBeNull()
})

test('the parts near a place are those of the difference quotient', () => {
  const step = 1e-5
  const [a, right, below] = [apply(bent, 50, 60), apply(bent, 50 + step, 60), apply(bent, 50, 60 + step)]
  const { linear } = localParts(bent, 50, 60)
  close(
    linear,
    [(right.x - a.x) / step, (below.x - a.x) / step, (right.y - a.y) / step, (below.y - a.y) / step],
    4,
  )
  const turn = localParts(similarity(1.5, 0.4, 3, 4), 9, 9)
  expect([turn.scale, turn.turnRad].map((value) => Math.round(value * 1e9) / 1e9)).toEqual([1.5, 0.4])
  const pivot = { x: 50, y: 60 }
  const none = keepParts(bent, pivot, { position: false, rotation: false, scale: false, skew: false })
  close(normalised(none), IDENTITY, 10)
  const place = keepParts(bent, pivot, { position: true, rotation: false, scale: false, skew: false })
  close(Object.values(apply(place, 50, 60)), Object.values(apply(bent, 50, 60)), 10)
})

test.each(motionModels)(
  '%s is found exactly from pairs without error, and from the fewest that fix it',
  (model) => {
    const m: Matrix3 = {
      translation: translationBy(4, -3),
      similarity: similarity(1.2, 0.3, 4, 5),
      affine: [1.1, 0.2, 3, -0.1, 0.9, 4, 0, 0, 1] as Matrix3,
      perspective: bent,
    }[model]
    const few = spots.slice(0, 2 * MIN_PAIRS[model])
    for (const from of [spots, few]) close(estimateMotion(model, from, through(m, from))!, m, 7)
    expect(estimateMotion(model, few.slice(2), few.slice(2))).toBeNull()
  },
)

test('places in one line do not fix a plane', () => {
  const line = [0, 0, 10, 10, 20, 20, 30, 30, 40, 40]
  expect(estimateMotion('affine', line, line)).toBeNull()
  expect(estimateMotion('perspective', line, line)).toBeNull()
})

test('the worked example of Umeyama 1991 (quoted from memory): scale, turn and shift of three points', () => {
  // S. Umeyama, IEEE PAMI 13(4), 1991, section IV: R = (0.832 0.555; -0.555 0.832), scale 0.721, shift (-0.8, 0.4).
  const m = estimateMotion('similarity', [0, 0, 1, 0, 0, 2], [0, 0, -1, 0, 0, 2])!
  close(m, [0.721 * 0.832, 0.721 * 0.555, -0.8, -0.721 * 0.555, 0.721 * 0.832, 0.4, 0, 0, 1], 3)
})

test('the unit square onto a quadrilateral is Heckbert’s closed form', () => {
  // P. Heckbert, "Fundamentals of texture mapping and image warping", 1989, section 2.2.3.
  const quad = [2, 1, 9, 2, 8, 7, 1, 6]
  const [x0, y0, x1, y1, x2, y2, x3, y3] = quad as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ]
  const [dx1, dy1, dx2, dy2, sx, sy] = [
    x1 - x2,
    y1 - y2,
    x3 - x2,
    y3 - y2,
    x0 - x1 + x2 - x3,
    y0 - y1 + y2 - y3,
  ]
  const g = (sx * dy2 - dx2 * sy) / (dx1 * dy2 - dx2 * dy1)
  const h = (dx1 * sy - sx * dy1) / (dx1 * dy2 - dx2 * dy1)
  const closed = [x1 - x0 + g * x1, x3 - x0 + h * x3, x0, y1 - y0 + g * y1, y3 - y0 + h * y3, y0, g, h, 1]
  close(estimateMotion('perspective', [0, 0, 1, 0, 1, 1, 0, 1], quad)!, closed, 8)
})

test('solving agrees with an independent library', async () => {
  const { cv } = await loadOpenCv()
  const noisy = through(bent, spots).map((value, i) => value + 0.2 * Math.sin(7 * i))
  const mat = (values: readonly number[]) => cv.matFromArray(values.length / 2, 1, cv.CV_32FC2, values)
  const four = [
    cv.matFromArray(4, 1, cv.CV_32FC2, spots.slice(0, 8)),
    cv.matFromArray(4, 1, cv.CV_32FC2, noisy.slice(0, 8)),
  ]
  const exact = cv.getPerspectiveTransform(four[0], four[1])
  const four64 = estimateMotion(
    'perspective',
    spots.slice(0, 8),
    Array.from(four[1].data32F as Float32Array),
  )!
  for (let i = 0; i < 9; i++)
    expect(Math.abs(four64[i]! - exact.data64F[i])).toBeLessThan(1e-4 * Math.max(1, Math.abs(four64[i]!)))
  const [from, to] = [mat(spots), mat(noisy)]
  const theirs = cv.findHomography(from, to, 0)
  const ours = estimateMotion('perspective', spots, noisy)!
  // Theirs goes on to minimise the distance itself: corners agree to a tenth of the noise.
  for (let i = 0; i < spots.length; i += 2) {
    const [a, b] = [
      apply(ours, spots[i]!, spots[i + 1]!),
      apply(Array.from(theirs.data64F as Float64Array) as unknown as Matrix3, spots[i]!, spots[i + 1]!),
    ]
    expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeLessThan(0.05)
  }
  for (const one of [...four, exact, from, to, theirs]) one.delete()
})

test('a third of wild pairs has no say, and the same pairs give the same answer', () => {
  const from: number[] = []
  for (let i = 0; i < 30; i++) from.push((i % 6) * 30, Math.floor(i / 6) * 40)
  const to = through(bent, from)
  for (let i = 0; i < 10; i++) [to[6 * i], to[6 * i + 1]] = [to[6 * i]! + 15 + i, to[6 * i + 1]! - 20]
  const fit = estimateMotionRobust('perspective', from, to, 1.5)!
  expect(fit.inliers).toBe(20)
  expect(fit.residualPx).toBeLessThan(1e-6)
  close(fit.matrix, bent, 6)
  expect(estimateMotionRobust('perspective', from, to, 1.5)).toEqual(fit)
  const wild = from.map((value, i) => value + 60 * Math.sin(91.7 * i))
  expect(estimateMotionRobust('affine', from, wild, 1)).toBeNull()
})

test('symmetric systems are solved, and those without a single answer are refused', () => {
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: -3, max: 3, noNaN: true }), { minLength: 12, maxLength: 12 }),
      (values) => {
        const rows = [
          values.slice(0, 3),
          values.slice(3, 6),
          values.slice(6, 9),
          [1, 0, 0],
          [0, 1, 0],
          [0, 0, 1],
        ]
        const x = values.slice(9)
        const upper: number[] = []
        for (let i = 0; i < 3; i++)
          for (let j = i; j < 3; j++) upper.push(rows.reduce((sum, row) => sum + row[i]! * row[j]!, 0))
        const right = [0, 1, 2].map((i) =>
          rows.reduce((sum, row) => sum + row[i]! * (row[0]! * x[0]! + row[1]! * x[1]! + row[2]! * x[2]!), 0),
        )
        close(solveSymmetric(upper, right)!, x, 6)
      },
    ),
    { seed: 5, numRuns: 50 },
  )
  expect(solveSymmetric([1, 1, 1], [1, 2])).toBeNull()
})
