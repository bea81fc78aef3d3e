/** Across on the demo film, keyed by hand from the exact geometry: in a process of its own, beside two references. */
import { execFileSync } from 'node:child_process'

test('on LM_010 it beats both references by a decibel, and the ends are no worse than the rest of the band', () => {
  const out = execFileSync('node', ['--import', 'tsx', 'evaluation/lm010.ts'], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'ignore'],
  })
  const lines = out
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Record<string, number | string>)
  const zone = (name: string) =>
    lines.find((line) => line['reference'] === 'truth' && line['zone'] === name) as {
      across: number
      telea: number
      navierStokes: number
    }
  expect(zone('all').across).toBeGreaterThanOrEqual(Math.max(zone('all').telea, zone('all').navierStokes) + 1)
  expect(zone('ends').across).toBeGreaterThanOrEqual(zone('elsewhere').across)
}, 120_000)
