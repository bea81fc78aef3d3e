import { EVERY_SHOT, shotFilterSchema, shotsShown, type ListedShot } from './shotList'

const shot = (name: string, more: Partial<ListedShot> = {}): ListedShot => ({
  name,
  title: '',
  productionId: 'p',
  productionName: 'Moth',
  mends: { all: 0 },
  notes: 0,
  standing: null,
  ...more,
})
const SHOTS = [
  shot('LM_10', { title: 'The lamp', mends: { all: 2 } }),
  shot('LM_9', { productionId: 'q', productionName: 'Other', notes: 1 }),
  shot('AB_1', { mends: { all: 5 }, standing: { state: 'approved' } }),
]
const names = (over: object) => shotsShown(SHOTS, { ...EVERY_SHOT, ...over }).map(({ name }) => name)

test('every word must be in the name, the title or the production', () => {
  expect(names({ find: 'lm' })).toEqual(['LM_10', 'LM_9'])
  expect(names({ find: 'LAMP moth' })).toEqual(['LM_10'])
  expect(names({ find: 'lamp other' })).toEqual([])
})

test('by production and by state', () => {
  expect(names({ production: 'q' })).toEqual(['LM_9'])
  expect(names({ state: 'untouched' })).toEqual(['LM_9'])
  expect(names({ state: 'mended' })).toEqual(['LM_10', 'AB_1'])
  expect(names({ state: 'notes' })).toEqual(['LM_9'])
  expect(names({ state: 'approved' })).toEqual(['AB_1'])
})

test('orders; numbers in names count as numbers, and the list that came in stays as it was', () => {
  expect(names({ order: 'name' })).toEqual(['AB_1', 'LM_9', 'LM_10'])
  expect(names({ order: 'latest' })).toEqual(['AB_1', 'LM_9', 'LM_10'])
  expect(names({ order: 'mends' })).toEqual(['AB_1', 'LM_10', 'LM_9'])
  expect(SHOTS.map(({ name }) => name)).toEqual(['LM_10', 'LM_9', 'AB_1'])
})

test('an address that says nothing of use shows every shot', () => {
  expect(shotFilterSchema.parse({ state: 'nonsense', order: 3 })).toEqual(EVERY_SHOT)
})
