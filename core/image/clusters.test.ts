import { clustersOf, extentOf } from './clusters'

const maskOf = (...rows: string[]) => Uint8Array.from(rows.join(''), (one) => (one === '#' ? 1 : 0))

test('by 1 px, what touches by a side or a corner is one; the edge of the map parts', () => {
  const mask = maskOf('##..#', '..#..', '....#', '#...#')
  expect(clustersOf(mask, 5, 4, 1)).toEqual([[0, 1, 7], [4], [14, 19], [15]])
})

test('by more, what lies in cells that touch is one', () => {
  const mask = maskOf('#..#.....#', '..........')
  expect(clustersOf(mask, 10, 2, 2)).toEqual([[0, 3], [9]])
  expect(clustersOf(new Uint8Array(20), 10, 2, 2)).toEqual([])
})

test('the extent has all of them', () =>
  expect(extentOf([12, 27, 21], 10)).toEqual({ col: 1, row: 1, width: 7, height: 2 }))
