import { eachPiece, markRunsInto, runsOf } from './runs'

test('runs say where marks begin and how long they are, over the ends of rows', () => {
  expect([...runsOf(Uint8Array.of(0, 1, 1, 0, 0, 1, 1, 1, 0, 1))]).toEqual([1, 2, 5, 3, 9, 1])
  expect([...runsOf(new Uint8Array(4))]).toEqual([])
  expect([...runsOf(new Uint8Array(4).fill(1))]).toEqual([0, 4])
})

test('runs of a rectangle come back as marks of the picture, line by line', () => {
  const at = { col: 2, row: 1, width: 3 }
  const runs = runsOf(Uint8Array.of(0, 1, 1, 1, 0, 1))
  const pieces: number[][] = []
  eachPiece(runs, at, (row, begin, end) => void pieces.push([row, begin, end]))
  expect(pieces).toEqual([[1, 3, 5], [2, 2, 3], [2, 4, 5]]) // prettier-ignore
  const marks = new Uint8Array(6 * 4)
  markRunsInto(marks, 6, runs, at)
  expect([...marks].flatMap((mark, i) => (mark ? [i] : []))).toEqual([9, 10, 14, 16])
})
