import { likelyPlace, layMark, placeMarkAt } from './layMark'

const mark = {
  name: 'Channel',
  picture: 'mark:1',
  width: 40,
  height: 20,
  place: { leftPx: 580, topPx: 10, width: 640, height: 360 },
}
const plate = { width: 1920, height: 1080, firstFrame: 1001, lastFrame: 1048 }
const newId = () => 'new'

test('a mark lies as far from the nearest edges as it did; one that never lay anywhere, in the lower right corner', () => {
  expect(likelyPlace(mark, { width: 640, height: 360 })).toEqual({ x: 580, y: 10 })
  expect(likelyPlace(mark, plate)).toEqual({ x: 1860, y: 10 })
  const { x, y } = likelyPlace({ ...mark, place: null }, plate)
  expect(x + mark.width).toBeLessThan(1920)
  expect(y + mark.height).toBeGreaterThan(1000)
  expect(likelyPlace({ ...mark, place: null }, { width: 30, height: 10 })).toEqual({ x: 0, y: 0 })
})

test('laid on a shot it is a mend that takes it off, with a box around it; a second time it is there already', () => {
  const edit = layMark(new Map(), mark, plate, newId)!
  const { after } = edit.changes[0]!
  expect(after).toMatchObject({
    kind: 'mark',
    fill: { methodId: 'unmix', params: { mark: 'mark:1', leftPx: 1860, topPx: 10, on: 1001 } },
    areas: [{ shape: 'box', keys: [{ frame: 1001, x: 1880, y: 20, widthPx: 46, heightPx: 26 }] }],
  })
  expect(layMark(new Map([['new', after!]]), mark, plate, newId)).toBeNull()
})

test('found elsewhere, box and picture go there together', () => {
  const mend = layMark(new Map(), mark, plate, newId)!.changes[0]!.after!
  const edit = placeMarkAt(mend, mend.areas[0]!.id, { width: 40, height: 20, x: 100.4, y: 50, on: 1007 })
  expect(edit.changes[0]!.after).toMatchObject({
    fill: { params: { on: 1007, leftPx: 100.4, topPx: 50 } },
    areas: [{ interpolation: 'linear', keys: [{ frame: 1007, x: 120.4, y: 60 }] }],
  })
})
