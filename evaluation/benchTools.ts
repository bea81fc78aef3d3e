/** What the benches share: a clock, a median, a line of JSON, a picture. */
import { createSamples, type Samples } from '../core/image/samples'

export const median = (values: number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!
export const round = (value: number): number => Math.round(value * 100) / 100
export const print = (figure: string, value: number, unit: string, more: Record<string, unknown> = {}) =>
  console.log(JSON.stringify({ figure, value: round(value), unit, ...more }))

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
