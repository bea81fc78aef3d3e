/** A run of frames that are ready, from `begin` to before `end`. */
export interface FrameRun {
  readonly begin: number
  readonly end: number
}

export function cachedRuns(
  firstFrame: number,
  lastFrame: number,
  isReady: (frame: number) => boolean,
): FrameRun[] {
  const runs: { begin: number; end: number }[] = []
  for (let frame = firstFrame; frame <= lastFrame; frame++) {
    if (!isReady(frame)) continue
    const open = runs.at(-1)
    if (open?.end === frame) open.end = frame + 1
    else runs.push({ begin: frame, end: frame + 1 })
  }
  return runs
}
