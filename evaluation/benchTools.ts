/** What the benches share: a clock, a median, a line of JSON, a picture. */
import { readFileSync, writeFileSync } from 'node:fs'
import { createSamples, type Samples } from '../core/image/samples'

export const median = (values: number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!
export const round = (value: number): number => Math.round(value * 100) / 100

interface Figure {
  readonly figure: string
  readonly value: number
  readonly unit: string
  readonly [more: string]: unknown
}

const figures: Figure[] = []

export function print(figure: string, value: number, unit: string, more: Record<string, unknown> = {}): void {
  const line = { figure, value: round(value), unit, ...more }
  figures.push(line)
  console.log(JSON.stringify(line))
}

/** The figures of the last version, with the machine's own reference measured in the same run. */
const KEPT = 'docs/bench.json'
/** How fast this machine is just now: the same library, on the same picture. */
const REFERENCE = 'telea-ms'
const SLOWER = 1.25
/** Figures of these units are better when they are greater. */
const GREATER_IS_BETTER = ['fps', 'Mpx/s', 'times']

const nameOf = ({ figure, value: _value, unit: _unit, ratio: _ratio, ...more }: Figure): string =>
  `${figure} ${JSON.stringify(Object.entries(more).filter(([, one]) => typeof one === 'string'))}`

export const keepFigures = (): void => writeFileSync(KEPT, `${JSON.stringify(figures, null, 2)}\n`)

/** Says what has become slower by more than a quarter, as this machine is now. */
export function compareWithLast(): void {
  const last = JSON.parse(readFileSync(KEPT, 'utf8')) as Figure[]
  const of = (list: readonly Figure[]) => list.find(({ figure }) => figure === REFERENCE)?.value
  const machine = (of(figures) ?? 1) / (of(last) ?? of(figures) ?? 1)
  const known = new Map(last.map((one) => [nameOf(one), one.value]))
  for (const one of figures) {
    const before = known.get(nameOf(one))
    if (before === undefined || !/ms|fps|Mpx|times/.test(one.unit)) continue
    const times = GREATER_IS_BETTER.includes(one.unit)
      ? before / (one.unit === 'times' ? one.value : one.value * machine)
      : one.value / (before * machine)
    if (times > SLOWER)
      console.log(JSON.stringify({ slower: one.figure, times: round(times), before, now: one.value }))
  }
}

/** Median of the times that `work` takes, in ms. */
export async function timed(runs: number, work: () => unknown): Promise<number> {
  const times: number[] = []
  for (let run = 0; run < runs + 3; run++) {
    const begun = performance.now()
    await work()
    if (run >= 3) times.push(performance.now() - begun) // the first runs compile
  }
  return median(times)
}

/** Texture with grain: easy pictures would flatter. */
export function benchPicture(w: number, h: number, seed = 7): Samples {
  const samples = createSamples(w, h, 3, 8)
  let state = seed
  for (let i = 0; i < samples.data.length; i++) {
    state = (Math.imul(state, 1664525) + 1013904223) | 0
    const pixel = Math.floor(i / 3)
    samples.data[i] =
      120 + 60 * Math.sin((pixel % w) / 9) * Math.cos(Math.floor(pixel / w) / 7) + ((state >>> 24) % 12)
  }
  return samples
}
