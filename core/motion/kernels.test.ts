/** The tracking kernels against loops that anyone can read. */
import fc from 'fast-check'
import { createPlane, type Plane } from '../image/raster'
import { createSamples } from '../image/samples'
import { kernels } from '../kernels/module'
import { withKernelMemory } from '../kernels/memory'
import { chooseCorners } from './chooseCorners'
import { trackerInputSchema, trackerPlane } from './input'
import { alignTemplate, cutTemplate, searchTemplate } from './template'
import { halved, windowRect } from './window'

function planeOf(width: number, height: number, value: (x: number, y: number) => number): Plane {
  const plane = createPlane(width, height)
  for (let i = 0; i < plane.data.length; i++)
    plane.data[i] = value((i % width) + 0.5, Math.floor(i / width) + 0.5)
  return plane
}
const waves = (x: number, y: number) =>
  0.5 + 0.2 * Math.sin(x / 3.1) * Math.cos(y / 2.7) + 0.1 * Math.sin((x + 2 * y) / 5)
const square = (half: number) => {
  const places: number[] = []
  for (let y = -half; y <= half; y++) for (let x = -half; x <= half; x++) places.push(x, y)
  return Float32Array.from(places)
}

function readPlain({ width, height, data }: Plane, x: number, y: number): number {
  const at = (col: number, row: number) =>
    data[Math.min(Math.max(row, 0), height - 1) * width + Math.min(Math.max(col, 0), width - 1)]!
  const [u, v] = [Math.min(Math.max(x - 0.5, 0), width - 1), Math.min(Math.max(y - 0.5, 0), height - 1)]
  const [col, row] = [Math.floor(u), Math.floor(v)]
  const [fu, fv] = [u - col, v - row]
  return (
    (1 - fv) * ((1 - fu) * at(col, row) + fu * at(col + 1, row)) +
    fv * ((1 - fu) * at(col, row + 1) + fu * at(col + 1, row + 1))
  )
}

test.each([false, true])('one step adds up what the plain loop adds up (robust %s)', (isRobust) => {
  const plane = planeOf(40, 30, waves)
  const template = cutTemplate(plane, 20.5, 15.5, square(4), new Float32Array(81).fill(0.7), 'similarity', 1)
  const matrix = [1.02, -0.03, 20.9, 0.04, 0.99, 15.1, 0.0005, 0, 1]
  const [gain, offset, scale, q] = [1.1, -0.02, 0.3, 6]
  const triangle = isRobust ? 21 : 0
  const got = withKernelMemory(1 << 20, (scope) => {
    const out = scope.pointerTo(new Float64Array(triangle + q + 8))
    kernels().alignStep(
      scope.pointerTo(plane.data), 40, 30, scope.pointerTo(Float64Array.from(matrix)), 81, scope.pointerTo(template.places), scope.pointerTo(template.values),
      scope.pointerTo(template.weights), scope.pointerTo(template.descent), 4, gain, offset, isRobust, scale, out,
    ) // prettier-ignore
    return Array.from(new Float64Array(kernels().memory.buffer, out, triangle + q + 8))
  })
  const normal: number[] = new Array<number>(triangle).fill(0)
  const right: number[] = new Array<number>(q).fill(0)
  const sums: number[] = new Array<number>(8).fill(0)
  for (let i = 0; i < 81; i++) {
    const [x, y, w] = [template.places[2 * i]!, template.places[2 * i + 1]!, template.weights[i]!]
    const z = matrix[6]! * x + matrix[7]! * y + matrix[8]!
    const value = readPlain(
      plane,
      (matrix[0]! * x + matrix[1]! * y + matrix[2]!) / z,
      (matrix[3]! * x + matrix[4]! * y + matrix[5]!) / z,
    )
    const t = template.values[i]!
    const e = value - gain * t - offset
    ;[w, w * t, w * value, w * t * t, w * value * value, w * t * value, w * e * e, w].forEach(
      (term, k) => (sums[k]! += term),
    )
    const used = isRobust ? w * Math.max(0, 1 - (e / scale) ** 2) ** 2 : w
    const row = [...template.descent.subarray(4 * i, 4 * i + 4), t, 1]
    let at = 0
    for (let r = 0; r < q; r++) {
      right[r]! += used * row[r]! * e
      if (isRobust) for (let s = r; s < q; s++) normal[at++]! += used * row[r]! * row[s]!
    }
  }
  ;[...normal, ...right, ...sums].forEach((value, i) => expect(got[i]).toBeCloseTo(value, 4))
})

test('aligning finds a shift, a turn and a scale back, through gain and offset', () => {
  fc.assert(
    fc.property(
      fc.double({ min: -1.5, max: 1.5, noNaN: true }),
      fc.double({ min: -1.5, max: 1.5, noNaN: true }),
      fc.double({ min: -0.05, max: 0.05, noNaN: true }),
      (dx, dy, turn) => {
        const seen = planeOf(60, 60, (x, y) => {
          const [c, s] = [Math.cos(turn), Math.sin(turn)]
          const [u, v] = [x - 30.5 - dx, y - 30.5 - dy]
          return 0.7 * waves(30.5 + c * u + s * v, 30.5 - s * u + c * v) + 0.1
        })
        const template = cutTemplate(
          planeOf(60, 60, waves),
          30.5,
          30.5,
          square(10),
          new Float32Array(441).fill(1),
          'affine',
          1,
        )
        const found = alignTemplate(template, seen, [1, 0, 30.5, 0, 1, 30.5, 0, 0, 1], {
          iterations: 30,
          unitPx: 1,
        })!
        // Reading between pixels of so fine a wave costs a few hundredths of a px.
        expect(Math.abs(found.windowFromTemplate[2] - 30.5 - dx)).toBeLessThan(0.05)
        expect(Math.abs(found.windowFromTemplate[5] - 30.5 - dy)).toBeLessThan(0.05)
        expect(Math.abs(found.windowFromTemplate[3] - Math.sin(turn))).toBeLessThan(0.01)
        expect(Math.abs(found.gain - 0.7)).toBeLessThan(0.03)
      },
    ),
    { seed: 3, numRuns: 12 },
  )
})

test('searching finds the best of many shifts', () => {
  const wide = (x: number, y: number) => Math.sin(x * 0.9 + (y * y) / 40) + Math.cos(y * 0.7 - (x * x) / 50)
  const template = cutTemplate(
    planeOf(60, 60, wide),
    30.5,
    30.5,
    square(5),
    new Float32Array(121).fill(1),
    'translation',
    1,
  )
  const seen = planeOf(60, 60, (x, y) => 0.5 * wide(x - 9, y + 6) + 3)
  expect(searchTemplate(template, seen, [1, 0, 30.5, 0, 1, 30.5, 0, 0, 1], 12, 1)).toEqual({
    dx: 9,
    dy: -6,
    correlation: expect.closeTo(1, 4),
  })
})

test('halving keeps ramps where they are, and a constant constant', () => {
  const ramp = halved(planeOf(16, 12, (x, y) => x + 10 * y))
  expect([ramp.width, ramp.height]).toEqual([8, 6])
  // Pixel (col, row) of the half covers two by two pixels: its middle lies at 2 col + 1.
  for (let row = 1; row < 5; row++)
    for (let col = 1; col < 7; col++)
      expect(ramp.data[row * 8 + col]).toBeCloseTo(2 * col + 1 + 10 * (2 * row + 1), 4)
  expect([...halved(planeOf(7, 5, () => 0.25)).data]).toEqual(new Array(12).fill(0.25))
})

test('corners are where two edges meet, spread out, and only where wanted', () => {
  const checks = planeOf(80, 80, (x, y) => ((Math.floor(x / 20) + Math.floor(y / 20)) % 2 === 0 ? 0.2 : 0.8))
  const found = chooseCorners(checks, (x) => x < 60, 20)
  expect(found.length).toBeGreaterThanOrEqual(5)
  for (const { x, y } of found) {
    expect(x).toBeLessThan(60)
    expect(Math.abs(x - 20 * Math.round(x / 20))).toBeLessThan(6)
    expect(Math.abs(y - 20 * Math.round(y / 20))).toBeLessThan(6)
  }
  expect(
    chooseCorners(
      planeOf(40, 40, (x) => x / 40),
      () => true,
      5,
    ),
  ).toHaveLength(0)
})

test('the tracker sees the channel it was told to, and boost evens contrast out without touching the picture', () => {
  const samples = createSamples(40, 40, 3, 8)
  for (let i = 0; i < 1600; i++) samples.data.set([100, 100 + (i % 3), (i % 40) * 5], 3 * i)
  const before = samples.data.slice()
  const settings = trackerInputSchema.parse({})
  expect(trackerPlane(samples, { ...settings, channel: 'red' }).data[77]).toBeCloseTo(100 / 255, 5)
  expect(trackerPlane(samples, { ...settings, channel: 'blue' }).data[39]).toBeCloseTo(195 / 255, 5)
  const spread = (data: Float32Array) => Math.max(...data) - Math.min(...data)
  const green = { ...settings, channel: 'green' as const }
  expect(spread(trackerPlane(samples, { ...green, boost: 1 }).data)).toBeGreaterThan(
    4 * spread(trackerPlane(samples, green).data),
  )
  expect(spread(trackerPlane(samples, { ...green, degrainPx: 3 }).data)).toBeLessThan(
    0.5 * spread(trackerPlane(samples, green).data),
  )
  expect(samples.data).toEqual(before)
})

test('windows lie on a grid inside the picture', () => {
  expect(windowRect(100, 100, 100, 100, 20, { width: 640, height: 480 })).toEqual({
    col: 64,
    row: 64,
    width: 64,
    height: 64,
  })
  expect(windowRect(5, 5, 5, 5, 20, { width: 640, height: 480 })).toMatchObject({ col: 0, row: 0 })
  expect(windowRect(900, 5, 900, 5, 20, { width: 640, height: 480 })).toBeNull()
})
