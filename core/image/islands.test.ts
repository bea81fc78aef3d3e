import { islandsOf } from './islands'

const maskOf = (...rows: string[]) => Uint8Array.from(rows.join(''), (one) => (one === '#' ? 1 : 0))

test('parts that touch by a side or a corner are one; the edge of the picture parts them', () => {
  const mask = maskOf(
    '##..#', // prettier-ignore
    '..#..',
    '....#',
    '#...#',
  )
  const { labels, count } = islandsOf(mask, 5)
  expect(count).toBe(4)
  expect([...labels]).toEqual([0, 0, -1, -1, 1, -1, -1, 0, -1, -1, -1, -1, -1, -1, 2, 3, -1, -1, -1, 2])
})

test('a large part needs no recursion; nothing is no part', () => {
  expect(islandsOf(new Uint8Array(250_000).fill(1), 500).count).toBe(1)
  expect(islandsOf(new Uint8Array(9), 3)).toEqual({ labels: new Int32Array(9).fill(-1), count: 0 })
})
