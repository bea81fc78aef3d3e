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

/** Where a rectangle lies in a picture. */
interface At {
  readonly col: number
  readonly row: number
  readonly width: number
}

/** Tells the pieces of runs of a rectangle line by line: row and columns of the picture, the last one excluded. */
export function eachPiece(
  runs: Int32Array,
  { col, row, width }: At,
  tell: (row: number, begin: number, end: number) => void,
): void {
  for (let i = 0; i < runs.length; i += 2) {
    let begin = runs[i]!
    const past = begin + runs[i + 1]!
    while (begin < past) {
      const down = Math.floor(begin / width)
      const end = Math.min(past, (down + 1) * width)
      tell(row + down, col + begin - down * width, col + end - down * width)
      begin = end
    }
  }
}

/** Sets the pixels of runs of a rectangle in a whole picture's marks. */
export function markRunsInto(marks: Uint8Array, pictureWidth: number, runs: Int32Array, at: At): void {
  eachPiece(runs, at, (row, begin, end) =>
    marks.fill(1, row * pictureWidth + begin, row * pictureWidth + end),
  )
}
