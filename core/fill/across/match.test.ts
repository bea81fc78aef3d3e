import { withKernelMemory, type KernelScope } from '../../kernels/memory'
import { kernels } from '../../kernels/module'
import { matchMemory, matchSides, prepareMatch, type SideMatch } from './match'
import { MATCHED_LEVEL, stripBytes, type Strips } from './strips'

const [COLUMNS, ROWS] = [120, 3]
type Brightness = (arc: number) => number

/** Two sides whose brightness runs along the path as is said, the same on every row outwards. */
function stripsOf(left: Brightness, right: Brightness, scope: KernelScope): Strips {
  const [leftSide, rightSide] = [left, right].map((value) => {
    const strips = scope.reserve((MATCHED_LEVEL + 1) * stripBytes(COLUMNS, ROWS))
    const places = new Float32Array(
      kernels().memory.buffer,
      strips + MATCHED_LEVEL * stripBytes(COLUMNS, ROWS),
      4 * COLUMNS * ROWS,
    )
    for (let i = 0; i < COLUMNS * ROWS; i++) places[4 * i] = value(i % COLUMNS)
    return { strips, isSeen: new Uint8Array(COLUMNS).fill(1) }
  })
  return { columns: COLUMNS, rows: ROWS, channels: 1, left: leftSide!, right: rightSide! }
}

const GAP_PX = 9
const WITHIN_PX = 1 // a straighter join is preferred between nearly equal ones

function match(
  left: Brightness,
  right: Brightness,
  maxShift = 8,
  beside: [Brightness, Brightness][] = [],
): SideMatch {
  const range = { maxShift, gapPx: GAP_PX }
  const memory = 8 * (stripBytes(COLUMNS, ROWS) + matchMemory({ columns: COLUMNS, rows: ROWS }, range))
  const others = beside.map(([a, b]) =>
    withKernelMemory(memory, (scope) => prepareMatch(stripsOf(a, b, scope), range, scope)),
  )
  return withKernelMemory(memory, (scope) => {
    const { shifts, agreement } = matchSides(stripsOf(left, right, scope), range, others, scope)
    return { shifts: shifts.slice(), agreement: agreement.slice() }
  })
}

const bumps = (arc: number) => 0.5 + 0.2 * Math.sin(arc / 3.1) + 0.2 * Math.sin(arc / 7.7 + 1)
const shifted = (by: number) => (arc: number) => bumps(arc - by)
const flat = () => 0.4
const inner = (values: Float32Array) => [...values.slice(20, 100)]

test.each([0, 3, -4, 6])('a shift of %i px between the sides is found along the whole path', (shift) => {
  const { shifts, agreement } = match(bumps, shifted(shift))
  for (const found of inner(shifts)) expect(Math.abs(found - shift)).toBeLessThanOrEqual(WITHIN_PX)
  for (const share of inner(agreement)) expect(share).toBeGreaterThan(0.7)
})

test('a shift that grows along the path is followed', () => {
  const growing = (arc: number) => arc / 30
  const { shifts } = match(bumps, (arc) => bumps(arc - growing(arc)))
  inner(shifts).forEach((found, i) =>
    expect(Math.abs(found - growing(i + 20))).toBeLessThanOrEqual(1.5 * WITHIN_PX),
  )
})

test('between equals the straight join is taken, and flat sides agree on nothing', () => {
  const { shifts, agreement } = match(flat, flat)
  expect([...shifts].every((shift) => shift === 0)).toBe(true)
  expect([...agreement].every((share) => share === 0)).toBe(true)
})

test('unrelated sides agree little', () => {
  let state = 3
  const noise = () => {
    state = (Math.imul(state, 1664525) + 1013904223) | 0
    return (state >>> 8) / 2 ** 24
  }
  const { agreement } = match(noise, noise)
  expect(inner(agreement).reduce((sum, share) => sum + share, 0) / 80).toBeLessThan(0.2)
})

test('without any shift allowed the sides stay straight across', () => {
  expect([...match(bumps, shifted(5), 0).shifts].every((shift) => shift === 0)).toBe(true)
})

test('frames beside have the same say: where this frame shows nothing, theirs is taken', () => {
  const beside: [Brightness, Brightness][] = [
    [bumps, shifted(4)],
    [bumps, shifted(4)],
  ]
  const { shifts, agreement } = match(flat, flat, 8, beside)
  for (const found of inner(shifts)) expect(Math.abs(found - 4)).toBeLessThanOrEqual(WITHIN_PX)
  const alone = match(bumps, shifted(4)).agreement
  inner(agreement).forEach((share, i) => expect(share).toBeCloseTo((2 / 3) * alone[i + 20]!, 1))
})
