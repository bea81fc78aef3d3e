import { WaysOverTime } from './overTime'

/** A line straight down at x. */
const line = (x: number) => [0, 50, 100].map((y) => ({ x, y, widthPx: 4 }))
const found = (x: number, quality = 1) => ({ points: line(x), quality })

test('a line that travels steadily stays itself where it meets another that looks clearer', () => {
  const ways = new WaysOverTime(line(0))
  // It moves 10 px a frame to the right; another rests at 30 and fits a little better.
  for (let i = 1; i <= 6; i++) ways.add([found(30, 1), found(10 * i, 0.95)])
  expect(ways.best().map(({ points }) => points[0]!.x)).toEqual([10, 20, 30, 40, 50, 60])
})

test('unseen for a frame it goes where it was heading, and is said to be unseen', () => {
  const ways = new WaysOverTime(line(0))
  for (const x of [4, 8, null, 16, 20]) ways.add(x === null ? [found(90, 0.4)] : [found(x)])
  const best = ways.best()
  expect(best.map(({ points }) => points[0]!.x)).toEqual([4, 8, 12, 16, 20])
  expect(best.map(({ quality }) => quality)).toEqual([1, 1, 0, 1, 1])
})

test('it tells where to look next: where it is, and where it leads', () => {
  const ways = new WaysOverTime(line(0))
  ways.add([found(7)])
  expect(ways.leads.map(([top]) => top!.x).slice(0, 2)).toEqual([7, 14])
})
