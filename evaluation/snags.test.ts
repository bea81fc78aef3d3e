/** What scores the snags is itself looked at: how visible an error is, and the faults that are planted. */
import { createSamples, type Samples } from '../core/image/samples'
import { sampleEllipse, sampleMend, samplePath } from '../tests/fixtures/sampleMend'
import { faultsOf } from './faults'
import { NOTICED, visibleErrors, worstAdded, worstOf } from './visible'

const RECT = { col: 0, row: 0, width: 40, height: 30 }

function grey(change: (col: number, row: number) => number): Samples {
  const samples = createSamples(RECT.width, RECT.height, 3, 8)
  for (let i = 0; i < RECT.width * RECT.height; i++)
    samples.data.fill(120 + change(i % RECT.width, Math.floor(i / RECT.width)), 3 * i, 3 * i + 3)
  return samples
}
const truth = grey(() => 0)
const errorOf = (made: Samples) => worstOf(visibleErrors(made, truth, RECT))

test('nothing differs from itself; a step that everybody sees is above what is noticed', () => {
  expect(errorOf(truth)).toBe(0)
  expect(errorOf(grey((col) => (col > 20 ? 20 : 0)))).toBeGreaterThan(NOTICED)
  expect(errorOf(grey((col) => (col > 20 ? 1 : 0)))).toBeLessThan(1)
})

test('what the eye does not resolve is not seen: grain, and a single pixel', () => {
  expect(errorOf(grey((col, row) => ((col + row) % 2 === 0 ? 6 : -6)))).toBeLessThan(1)
  expect(errorOf(grey((col, row) => (col === 20 && row === 15 ? 60 : 0)))).toBeLessThan(NOTICED)
  expect(errorOf(grey((col, row) => (Math.abs(col - 20) < 6 && Math.abs(row - 15) < 6 ? 60 : 0)))).toBeGreaterThan(NOTICED) // prettier-ignore
})

test('only what a fault has made worse counts as its own', () => {
  const before = visibleErrors(
    grey((col) => (col > 30 ? 40 : 0)),
    truth,
    RECT,
  )
  const after = visibleErrors(
    grey((col) => (col > 30 ? 40 : col < 12 ? 20 : 0)),
    truth,
    RECT,
  )
  expect(worstAdded(before, before)).toBe(0)
  expect(worstAdded(after, before)).toBeGreaterThan(NOTICED)
  expect(worstAdded(after, before)).toBeLessThan(worstOf(before))
})

const FRAMES = Array.from({ length: 24 }, (_, i) => 1001 + i)
const points = (frame: number) => [
  { x: 20 + frame - 1001, y: 10, widthPx: 8 },
  { x: 22 + frame - 1001, y: 60, widthPx: 8 },
]
const wire = sampleMend({
  areas: [samplePath({ keys: FRAMES.map((frame) => ({ frame, points: points(frame) })) })],
})

test('a seed plants the same faults again, another one others; each on frames of the shot', () => {
  const told = (seed: number) => faultsOf(FRAMES, [wire], seed).map(({ kind, size, firstFrame, lastFrame }) => [kind, size, firstFrame, lastFrame]) // prettier-ignore
  expect(told(7)).toEqual(told(7))
  expect(told(7)).not.toEqual(told(8))
  expect(new Set(told(7).map(([kind]) => kind)).size).toBe(12)
  for (const [, , first, last] of told(7)) {
    expect(Number(first)).toBeGreaterThanOrEqual(1001)
    expect(Number(last)).toBeLessThanOrEqual(1024)
  }
})

test('a fault changes its own frame and no other; what is no path or outline stays', () => {
  const off = faultsOf(FRAMES, [wire], 3).find(({ kind }) => kind === 'area-off')!
  const changed = off.mendAt!(wire, off.firstFrame)
  const keysOf = (mend: typeof wire) => (mend.areas[0] as { keys: readonly { frame: number }[] }).keys
  const differ = keysOf(changed).flatMap((key, i) => (JSON.stringify(key) === JSON.stringify(keysOf(wire)[i]) ? [] : [key.frame])) // prettier-ignore
  expect(differ).toEqual([off.firstFrame])
  const spot = sampleMend({ areas: [sampleEllipse({})] })
  const moved = faultsOf(FRAMES, [wire], 3).find(({ kind }) => kind === 'track-slipped')!
  expect(moved.mendAt!(spot, moved.firstFrame).areas).toEqual(spot.areas)
})

test('a soft fill is soft where a mend has been, and nowhere else', () => {
  const soft = faultsOf(FRAMES, [wire], 3).find(({ kind }) => kind === 'soft')!
  const made = grey((col) => (col % 2 === 0 ? 30 : -30))
  const mended = new Uint8Array(RECT.width * RECT.height)
  mended.fill(1, 200, 400)
  const { data } = soft.pixelsAt!(made, mended, soft.firstFrame)
  for (let i = 0; i < mended.length; i++) {
    if (mended[i] === 0) expect(data[3 * i]).toBe(made.data[3 * i])
    else expect(Math.abs(data[3 * i]! - 120)).toBeLessThan(25)
  }
})

test('a mend whose end is not held out runs on straight; an outline has no such end', () => {
  const missing = faultsOf(FRAMES, [wire], 3).find(({ kind }) => kind === 'holdout-missing')!
  const keyAt = (frame: number) => {
    const [area] = missing.mendAt!(wire, frame).areas
    return (area as { keys: { frame: number; points: { x: number; y: number }[] }[] }).keys.find((key) => key.frame === frame)!.points // prettier-ignore
  }
  const [begin, end] = keyAt(missing.firstFrame)
  const [from, last] = points(missing.firstFrame)
  expect(begin).toEqual(from)
  const px = Math.sqrt((end!.x - last!.x) ** 2 + (end!.y - last!.y) ** 2)
  expect(px).toBeGreaterThanOrEqual(15)
  expect(px).toBeLessThanOrEqual(40)
  expect((end!.x - from!.x) / (end!.y - from!.y)).toBeCloseTo((last!.x - from!.x) / (last!.y - from!.y), 6)
  const outline = sampleMend({ areas: [sampleEllipse()] })
  expect(faultsOf(FRAMES, [outline], 3).map(({ kind }) => kind)).not.toContain('holdout-missing')
})

test('frozen grain is that of the first frame, where something was mended, over what each frame shows', () => {
  const frozen = faultsOf(FRAMES, [wire], 3).find(({ kind }) => kind === 'grain-frozen')!
  const mended = Uint8Array.from({ length: RECT.width * RECT.height }, (_, i) =>
    i % RECT.width < 20 ? 1 : 0,
  )
  const grainOf = (seed: number) => (col: number, row: number) => ((col * 7 + row * 13 + seed * 29) % 11) - 5
  const first = grey(grainOf(1))
  const once = frozen.pixelsAt!(first, mended, frozen.firstFrame)
  expect(Math.max(...once.data.map((value, i) => Math.abs(value - first.data[i]!)))).toBeLessThanOrEqual(1)
  const later = frozen.pixelsAt!(
    grey((col, row) => 30 + grainOf(4)(col, row)),
    mended,
    frozen.firstFrame + 1,
  )
  const at = (samples: Samples, col: number) => samples.data[3 * (15 * RECT.width + col)]!
  for (let col = 4; col < 16; col++)
    expect(Math.abs(at(later, col) - at(first, col) - 30)).toBeLessThanOrEqual(5)
  for (let col = 24; col < 36; col++) expect(at(later, col)).toBe(150 + grainOf(4)(col, 15))
})
