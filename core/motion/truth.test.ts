/** Trackers against exact truth, beside an independent library on the same points and frames, in a process of its own. */
import { execFileSync } from 'node:child_process'

interface Errors {
  readonly mean: number
  readonly p95: number
  readonly count: number
}
interface Line {
  readonly motion: string
  readonly ours: Errors
  readonly opencv: Errors
}

const MEAN_PX = 0.08
const P95_PX = 0.25
const GRAIN_FLOOR_PX = 0.02 // both are this near where nothing but grain is left to err by

test('thirty points keep to the truth through every motion, and no worse than the library does', () => {
  const out = execFileSync('node', ['--import', 'tsx', 'evaluation/trackers.ts'], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'ignore'],
  })
  const lines = out
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Line)
  expect(lines.map(({ motion }) => motion)).toEqual([
    'translation',
    'rotation and scale',
    'perspective',
    'exposure, one stop',
    'blur',
  ])
  for (const { ours, opencv } of lines) {
    expect(ours.count).toBeGreaterThan(800)
    expect(ours.mean).toBeLessThanOrEqual(MEAN_PX)
    expect(ours.p95).toBeLessThanOrEqual(P95_PX)
    expect(ours.mean).toBeLessThanOrEqual(Math.max(opencv.mean, GRAIN_FLOOR_PX))
  }
}, 180_000)
