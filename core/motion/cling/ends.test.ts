import { grainAt } from '../../finish/grain'
import type { Raster } from '../../image/raster'
import { findEnd, LineLook, stopCosts } from './ends'
import { endsOverTime, type EndCandidate } from './endsOverTime'
import { ACROSS_PX, type Straightened } from './ruler'

const WIDTH_PX = 3
const [ROWS, STEP_PX] = [240, 0.5]
const END_ROW = 150
const MIDDLE = 60

/** Ground that changes along and across: dark towards the end, as dark as the line in a stretch before it. */
const groundAt = (row: number, off: number) =>
  0.25 + 0.3 * (row < 100 ? 1 : row < 170 ? 0.02 : 0.5) + 0.03 * Math.sin(row / 9 + off / 5)
const LINE = 0.24

/** A strip along a line that stops at a row, dark and letting a share of its ground through. */
function strip(endRow: number, rows: readonly [number, number] = [0, ROWS]): Straightened {
  const columns = 2 * MIDDLE + 1
  const height = rows[1] - rows[0]
  const raster: Raster = {
    width: columns,
    height,
    channels: 3,
    data: new Float32Array(columns * height * 3),
  }
  for (let row = 0; row < height; row++)
    for (let column = 0; column < columns; column++)
      for (let c = 0; c < 3; c++) {
        const off = (column - MIDDLE) * ACROSS_PX
        const ground = groundAt(rows[0] + row, off)
        const cover = rows[0] + row < endRow && Math.abs(off) <= WIDTH_PX / 2 ? 0.7 : 0
        const grain = (1.5 / 255) * grainAt(3, 1001, column, rows[0] + row, c)
        raster.data[(row * columns + column) * 3 + c] = ground + cover * (LINE - ground) + grain
      }
  const arcs = Float64Array.from({ length: height }, (_, row) => (rows[0] + row) * STEP_PX)
  return { raster, middle: MIDDLE, arcs, isSeen: new Uint8Array(height).fill(1) }
}
const always = () => true

test('a thin line is told to its end, though before the end it is as dark as its ground', () => {
  const look = new LineLook(strip(END_ROW, [0, END_ROW]), WIDTH_PX, always)
  const whole = strip(END_ROW)
  const told = look.toldBy(whole)
  const mean = (from: number, to: number) =>
    told.slice(from, to).reduce((sum, one) => sum + one, 0) / (to - from)
  expect(mean(10, 90)).toBeGreaterThan(0.3) // before bright ground the line is plain
  expect(mean(175, 230)).toBeLessThan(-0.3) // before ground of the same kind beyond, its absence is
  const found = findEnd(told, whole.arcs, END_ROW * STEP_PX + 6, 1, 12)
  // In the stretch where both look alike the rows tell little; it is cut no further off than that begins.
  expect(Math.abs(found!.arcPx - END_ROW * STEP_PX)).toBeLessThan(12)
})

test('the likeliest stop has all that tells for the line before it, either way round', () => {
  const told = Float64Array.from([1, 1, -0.2, 0.5, -1, -1])
  const forward = stopCosts(told, 1)
  expect(forward.indexOf(0)).toBe(3)
  expect([...forward].map((cost) => Math.round(cost * 10) / 10)).toEqual([1.3, 0.3, 0.5, 0, 1, 2])
  expect(stopCosts(told.slice().reverse(), -1).indexOf(0)).toBe(1)
})

describe('over time', () => {
  /** Every 2 px along a line, what lies at `good` costing nothing. */
  const frame = (good: number, cost: (x: number) => number = () => 0): EndCandidate[] =>
    Array.from({ length: 60 }, (_, i) => ({
      place: { x: 2 * i, y: 0 },
      cost: Math.min(20, Math.abs(2 * i - good)) + cost(2 * i),
    }))

  test('a nearer stop on some frames that leads away is not taken', () => {
    const decoy = (x: number) => (x > 90 ? -25 : 0)
    const frames = Array.from({ length: 12 }, (_, i) => frame(40 + i, i === 5 || i === 6 ? decoy : undefined))
    const xs = endsOverTime(frames).map((index) => 2 * index)
    xs.forEach((x, i) => expect(Math.abs(x - (40 + i))).toBeLessThanOrEqual(3))
  })

  test('where nothing tells, it goes on as it went', () => {
    const nothing = Array.from({ length: 60 }, (_, i) => ({ place: { x: 2 * i, y: 0 }, cost: 0 }))
    const frames = Array.from({ length: 10 }, (_, i) => (i === 4 || i === 5 ? nothing : frame(30 + 4 * i)))
    expect(endsOverTime(frames).map((index) => 2 * index)).toEqual(
      Array.from({ length: 10 }, (_, i) => 30 + 4 * i),
    )
  })

  test('one frame alone, or none', () => {
    expect(endsOverTime([frame(50)])).toEqual([25])
    expect(endsOverTime([])).toEqual([])
  })
})
