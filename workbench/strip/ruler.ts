const MAX_LABELS = 14
const STEPS = [1, 2, 4, 5, 10, 20, 24, 25, 50, 100, 200, 250, 500, 1000, 2000, 5000, 10_000, 20_000] as const

/** Frames that get a number on the ruler: evenly spaced, the first one among them. */
export function rulerLabels(firstFrame: number, lastFrame: number): number[] {
  const count = lastFrame - firstFrame + 1
  const step = STEPS.find((one) => count / one <= MAX_LABELS) ?? STEPS[STEPS.length - 1]!
  return Array.from({ length: Math.ceil(count / step) }, (_, i) => firstFrame + i * step)
}
