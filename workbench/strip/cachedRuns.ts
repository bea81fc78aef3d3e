/** Runs of frames that are ready, as half-open ranges [begin, end). */
export function cachedRuns(
  firstFrame: number,
  lastFrame: number,
  isReady: (frame: number) => boolean,
): { begin: number; end: number }[] {
  const runs: { begin: number; end: number }[] = []
  for (let frame = firstFrame; frame <= lastFrame; frame++) {
    if (!isReady(frame)) continue
    const open = runs.at(-1)
    if (open?.end === frame) open.end = frame + 1
    else runs.push({ begin: frame, end: frame + 1 })
  }
  return runs
}
