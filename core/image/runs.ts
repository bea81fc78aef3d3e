/** Pixels that are set, as runs in reading order: where each begins and how long it is, in pairs. */

/** @param marks  Not 0 where a pixel is set. Runs go on over the ends of rows. Cost: two searches a run. */
export function runsOf(marks: Uint8Array): Int32Array {
  const runs: number[] = []
  for (let begin = marks.indexOf(1); begin >= 0;) {
    const end = marks.indexOf(0, begin)
    const past = end < 0 ? marks.length : end
    runs.push(begin, past - begin)
    begin = end < 0 ? -1 : marks.indexOf(1, end)
  }
  return Int32Array.from(runs)
}

/** Sets the pixels of runs in a rectangle of a whole picture's marks. @param width  Of the rectangle. */
export function markRunsInto(
  marks: Uint8Array,
  runs: Int32Array,
  { col, row, width }: { readonly col: number; readonly row: number; readonly width: number },
  pictureWidth: number,
): void {
  for (let i = 0; i < runs.length; i += 2) {
    let begin = runs[i]!
    const past = begin + runs[i + 1]!
    while (begin < past) {
      const down = Math.floor(begin / width)
      const end = Math.min(past, (down + 1) * width)
      const from = (row + down) * pictureWidth + col + begin - down * width
      marks.fill(1, from, from + end - begin)
      begin = end
    }
  }
}
