/** The wires of the demo film, keyed by hand from the exact geometry and clung from a rough drawing, beside two references. */
import { execFileSync } from 'node:child_process'

/** What an evaluation prints. In a process of its own: test runners make heavy loops several times slower. */
const linesOf = (...script: string[]) =>
  execFileSync('node', ['--import', 'tsx', ...script], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'ignore'],
  })
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Record<string, number | string>)

let keyed: Record<string, number | string>[]
beforeAll(() => {
  keyed = linesOf('evaluation/lm010.ts', '--across')
}, 240_000)

const zone = (name: string) =>
  keyed.find((line) => line['reference'] === 'truth' && line['zone'] === name) as {
    across: number
    telea: number
    navierStokes: number
  }

test('keyed by hand, Across beats both references by a decibel, and the ends are no worse than the rest of the band', () => {
  expect(zone('all').across).toBeGreaterThanOrEqual(Math.max(zone('all').telea, zone('all').navierStokes) + 1)
  expect(zone('ends').across).toBeGreaterThanOrEqual(zone('elsewhere').across)
})

test('one rough drawing a thread, no keys, both ends on the wings, the result as good as keyed by hand', () => {
  const lines = linesOf('evaluation/cling.ts')
  const threads = lines.filter((line) => line['figure'] === 'cling-lm010')
  expect(threads.map((line) => [line['thread'], line['frames']])).toEqual([
    ['left', 48],
    ['right', 48],
  ])
  for (const line of threads) {
    expect(line['meanPx']).toBeLessThanOrEqual(0.5)
    expect(line['maxPx']).toBeLessThanOrEqual(2)
    expect(line['width']).toBeLessThanOrEqual(0.15)
    expect(line['endPx']).toBeLessThanOrEqual(2)
  }
  const score = lines.find((line) => line['figure'] === 'psnr-in-clung-area-db')!
  expect(score['all']).toBeGreaterThanOrEqual(zone('all').across) // six keys a thread from the exact geometry, the same truth
  expect(score['snags']).toBe(0)
}, 120_000)
