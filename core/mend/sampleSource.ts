/** A source over pictures in memory, and the whole way through the evaluator; for tests, bench and scores. */
import { cropSamples, type Samples } from '../image/samples'
import type { Rect } from '../image/rect'
import { evaluateFrame } from './evaluate'
import { finishedChannels, layPatches } from './finished'
import type { EvaluatedFrame, FrameSource } from './frameSource'
import { planFrame } from './place'
import type { Mend } from './schema'
import type { Tracks } from './tracks'
import type { FrameRange } from '../time'

export const NEVER_STOPS = { shouldStop: () => false }
const NO_TRACKS: Tracks = new Map()
export const ALL_FRAMES: FrameRange = { firstFrame: 0, lastFrame: 1_000_000 }

/** @param frames  One picture for every frame, or a function that paints them. @param reads  Takes every rectangle asked for. */
export function sourceOfSamples(
  frames: Samples | ((frame: number) => Samples),
  over: Partial<FrameSource> = {},
  reads: Rect[] = [],
): FrameSource {
  const painted = new Map<number, Samples>()
  const at = (frame: number): Samples => {
    if (typeof frames !== 'function') return frames
    let samples = painted.get(frame)
    if (!samples) painted.set(frame, (samples = frames(frame)))
    return samples
  }
  const { width, height, channels, data } = at(1001)
  return {
    plate: { width, height, channels, bitDepth: data.BYTES_PER_ELEMENT === 1 ? 8 : 16 },
    readRect: async (frame, rect) => {
      reads.push(rect)
      return cropSamples(at(frame), rect)
    },
    readMatte: async () => null,
    readStill: async () => null,
    ...over,
  }
}

/** A finished frame, with what was said of it. */
export async function mendSamples(
  source: FrameSource,
  mends: readonly Mend[],
  frame = 1001,
  tracks: Tracks = NO_TRACKS,
  range: FrameRange = ALL_FRAMES,
): Promise<EvaluatedFrame & { readonly finished: Samples }> {
  const done = await evaluateFrame(planFrame(mends, tracks, frame, range), source, NEVER_STOPS)
  const { width, height, channels } = source.plate
  const plate = await source.readRect(frame, { col: 0, row: 0, width, height })
  return { ...done, finished: layPatches(plate, done.patches, finishedChannels(channels, mends, true)) }
}

/** The largest difference between samples of two pictures, in code values. */
export function worstDifference(
  a: { readonly data: ArrayLike<number> },
  b: { readonly data: ArrayLike<number> },
): number {
  let worst = 0
  for (let i = 0; i < a.data.length; i++) worst = Math.max(worst, Math.abs(a.data[i]! - b.data[i]!))
  return worst
}
