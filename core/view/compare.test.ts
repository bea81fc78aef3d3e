import { COMPARISONS, compareOfText, NO_COMPARISON, showDifference, textOfCompare, wipedPart, type Compare } from './compare' // prettier-ignore

const SIZE = { width: 200, height: 100 }
const wipe = (over: Partial<Compare>): Compare => ({ ...NO_COMPARISON, mode: 'wipe', ...over })

/** Twice the area of a polygon, by the shoelace formula. */
const doubleArea = (corners: readonly number[]): number => {
  let sum = 0
  for (let i = 0; i < corners.length; i += 2) {
    const [x, y, nextX, nextY] = [corners[i]!, corners[i + 1]!, corners[(i + 2) % corners.length]!, corners[(i + 3) % corners.length]!] // prettier-ignore
    sum += x * nextY - nextX * y
  }
  return Math.abs(sum)
}

test('what is said in an address is read back; what does not hold compares nothing', () => {
  for (const mode of COMPARISONS) {
    const compare: Compare = { ...NO_COMPARISON, mode }
    expect(compareOfText(textOfCompare(compare))).toEqual(compare)
  }
  const set = wipe({ wipeX: 0.25, wipeY: 0.75, turnDeg: -30 })
  expect(textOfCompare(set)).toBe('wipe,0.25,0.75,-30')
  expect(compareOfText(textOfCompare(set))).toEqual(set)
  expect(compareOfText('difference,16,signed')).toMatchObject({
    mode: 'difference',
    times: 16,
    sign: 'signed',
  })
  const version = '7d444840-9dc0-11d1-b245-5ffdce74fad2'
  for (const against of ['kept', 'now', version] as const) {
    expect(textOfCompare({ ...set, against })).toBe(`wipe,0.25,0.75,-30,${against}`)
    expect(compareOfText(`wipe,0.25,0.75,-30,${against}`)).toEqual({ ...set, against })
  }
  expect(compareOfText(`beside,${version}`)).toMatchObject({ mode: 'beside', against: version })
  expect(compareOfText('matte,alone')).toMatchObject({ mode: 'matte', matteAs: 'alone', against: 'plate' })
  expect(textOfCompare({ ...NO_COMPARISON, mode: 'seen', against: 'kept' })).toBe('seen')
  for (const wrong of [
    'beside,version 3',
    'flip,2,../x',
    'matte,sideways',
    null,
    '',
    'wipes',
    'wipe,2',
    'wipe,x',
    'difference,16,sideways',
    'flip,1000',
  ])
    expect(compareOfText(wrong)).toEqual(NO_COMPARISON)
})

test('the line shares the picture: left of it lies the plate, however it is turned', () => {
  expect(wipedPart(SIZE, wipe({ wipeX: 0.25 }))).toEqual([0, 0, 50, 0, 50, 100, 0, 100])
  const level = wipedPart(SIZE, wipe({ wipeY: 0.3, turnDeg: 90 }))
  expect(doubleArea(level)).toBeCloseTo(2 * 200 * 30, 6)
  expect(Math.max(...level.filter((_, i) => i % 2 === 1))).toBeCloseTo(30, 6)
  // Through the middle it halves the picture; turned round it is the other half.
  for (const turnDeg of [0, 17, 45, 90, 133, -60]) {
    const part = wipedPart(SIZE, wipe({ turnDeg }))
    expect(doubleArea(part)).toBeCloseTo(200 * 100, 6)
    const other = wipedPart(SIZE, wipe({ wipeX: 0.3, turnDeg: turnDeg > 0 ? turnDeg - 180 : turnDeg + 180 }))
    expect(doubleArea(other) + doubleArea(wipedPart(SIZE, wipe({ wipeX: 0.3, turnDeg })))).toBeCloseTo(2 * 200 * 100, 6) // prettier-ignore
  }
  expect(wipedPart(SIZE, wipe({ wipeX: 0, turnDeg: 0 })).length).toBeGreaterThanOrEqual(0)
  expect(doubleArea(wipedPart(SIZE, wipe({ wipeX: 0 })))).toBe(0)
  expect(doubleArea(wipedPart(SIZE, wipe({ wipeX: 1 })))).toBe(2 * 200 * 100)
})

test('a difference is enlarged, by its size or with its sign, and is opaque', () => {
  const picture = (...data: number[]) => ({ width: 1, height: 1, data: Uint8ClampedArray.from(data) })
  const plate = picture(100, 100, 100, 255)
  const shown = (over: Partial<Compare>, ...result: number[]) => {
    const out = picture(...result)
    showDifference(out, plate, { ...NO_COMPARISON, mode: 'difference', ...over })
    return [...out.data]
  }
  expect(shown({ times: 8 }, 101, 98, 100, 0)).toEqual([8, 16, 0, 255])
  expect(shown({ times: 8, sign: 'signed' }, 101, 98, 100, 0)).toEqual([136, 112, 128, 255])
  expect(shown({ times: 64 }, 110, 90, 100, 255)).toEqual([255, 255, 0, 255])
  expect(shown({ times: 64, sign: 'signed' }, 110, 90, 100, 255)).toEqual([255, 0, 128, 255])
})
