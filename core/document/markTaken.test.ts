import { sampleRecord } from '../../tests/fixtures/sampleMend'
import type { KeyedArea } from './areas'
import { takeMarkOff, type TakenMark } from './markTaken'

const box = (id: string, x: number, role: 'cover' | 'holdout' = 'cover'): KeyedArea => ({
  id,
  shape: 'box',
  role,
  interpolation: 'smooth',
  follow: null,
  keys: [{ frame: 1001, x, y: 40, widthPx: 20, heightPx: 10, turnDeg: 0, cornerPx: 0 }],
})
const mend = sampleRecord({
  kind: 'mark',
  name: 'Mark 1',
  areas: [box('a', 30), box('b', 60), box('c', 90, 'holdout')],
})
const mark: TakenMark = {
  name: 'mark:1',
  on: 1001,
  col: 18.5,
  row: 33,
  legs: [],
  fades: [{ frame: 0, level: 1 }],
  denseShare: 0,
  shownBy: 'undone',
}
const none = new Map()

test('a mark that rests gets its fill, where its picture lies, and its areas stay', () => {
  const { after } = takeMarkOff(mend, none, mark).changes[0]!
  expect(after!.fill).toMatchObject({
    methodId: 'unmix',
    params: { mark: 'mark:1', on: 1001, leftPx: 18.5, topPx: 33, fillFrom: 'near' },
  })
  expect(after!.areas).toEqual(mend.areas)
})

test('all its parts go along its legs, what is held out stays, and it is one step', () => {
  const legs = [
    { frame: 1001, dx: 0, dy: 0 },
    { frame: 1010, dx: 18, dy: -4 },
  ]
  const fades = [
    { frame: 1001, level: 0 },
    { frame: 1010, level: 1 },
  ]
  const { changes } = takeMarkOff(mend, none, { ...mark, legs, fades })
  expect(changes).toHaveLength(1)
  const { areas, fill } = changes[0]!.after!
  expect(areas.slice(0, 2)).toMatchObject([
    {
      interpolation: 'linear',
      keys: [
        { frame: 1001, x: 30 },
        { frame: 1010, x: 48, y: 36 },
      ],
    },
    {
      interpolation: 'linear',
      keys: [
        { frame: 1001, x: 60 },
        { frame: 1010, x: 78, y: 36 },
      ],
    },
  ])
  expect(areas[2]).toEqual(mend.areas[2])
  expect(fill.params['fades']).toEqual(fades)
})

test('an opaque one keeps its fill', () => {
  expect(takeMarkOff(mend, none, { ...mark, denseShare: 0.9 }).changes).toEqual([])
})

test('what measured best shows what is under it: other frames weighed in, or those alone', () => {
  const fillOf = (shownBy: TakenMark['shownBy']) =>
    takeMarkOff(mend, none, { ...mark, shownBy }).changes[0]!.after!.fill
  expect(fillOf('undone').params).toMatchObject({ others: 'no' })
  expect(fillOf('weighed')).toMatchObject({ methodId: 'unmix', params: { others: 'weighed' } })
  expect(fillOf('others').methodId).toBe('clean-plate')
})
