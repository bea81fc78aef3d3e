import { recipeOf } from '../../core/document/recipes'
import { fillOf, sampleEllipse, sampleRecord } from '../../tests/fixtures/sampleMend'
import { DEFAULT_FINISH, startingFill, type MendRecord } from '../../core/document/mend'
import { geometryOf, mendFromDrawing } from './finishDrawing'

const PICTURE = { width: 1280, height: 720 }
const RANGE = { firstFrame: 1001, lastFrame: 1048 }
const dust = sampleRecord({
  id: 'd',
  kind: 'dust',
  name: 'Dust 1',
  areas: [sampleEllipse()],
  fill: fillOf('median'),
  finish: { ...DEFAULT_FINISH, featherOutPx: 9 },
})
const recipe = recipeOf(dust, 'Soft specks')
const records = (...mends: readonly MendRecord[]) => new Map(mends.map((mend) => [mend.id, mend]))
const ellipse = geometryOf('ellipse', [{ x: 300, y: 200 }, { x: 310, y: 208 }], 10, PICTURE) // prettier-ignore

test('a drawing becomes a mend as its kind starts, or as a recipe says, in one step', () => {
  const plain = mendFromDrawing(records(), 'dust', ellipse, RANGE, 1001, null)
  expect(plain.edit.changes).toMatchObject([
    { before: null, after: { kind: 'dust', name: 'Dust 1', fill: startingFill('dust') } },
  ])
  const cooked = mendFromDrawing(records(), 'dust', ellipse, RANGE, 1001, null, recipe)
  expect(cooked.edit).toMatchObject({
    label: 'New Dust 1, Soft specks',
    changes: [{ before: null, after: { fill: dust.fill, finish: dust.finish } }],
  })
  expect(cooked.edit.changes[0]!.after!.areas).toHaveLength(1)
})

test('dust joins the selected dust; by a recipe only dust that is still done so', () => {
  const joined = mendFromDrawing(records(dust), 'dust', ellipse, RANGE, 1001, 'd')
  expect(joined).toMatchObject({ mendId: 'd', edit: { changes: [{ before: dust }] } })
  expect(mendFromDrawing(records(dust), 'dust', ellipse, RANGE, 1001, 'd', recipe).mendId).toBe('d')
  const harder = { ...dust, finish: { ...dust.finish, featherOutPx: 1 } }
  expect(mendFromDrawing(records(harder), 'dust', ellipse, RANGE, 1001, 'd', recipe).mendId).not.toBe('d')
  // Other kinds never join, nor does anything join what is not selected.
  expect(mendFromDrawing(records(dust), 'pixel', ellipse, RANGE, 1001, 'd').mendId).not.toBe('d')
  expect(mendFromDrawing(records(dust), 'dust', ellipse, RANGE, 1001, null).mendId).not.toBe('d')
})

test('a clicked pixel is three whole pixels each way', () => {
  expect(geometryOf('box', [{ x: 10.9, y: 20.1 }], 10, PICTURE)).toMatchObject({
    shape: 'box',
    x: 10.5,
    y: 20.5,
    widthPx: 3,
    heightPx: 3,
  })
})

describe('a path that is drawn up to the edge', () => {
  const drawn = (...places: { x: number; y: number }[]) => {
    const geometry = geometryOf('path', places, 8, PICTURE)
    if (geometry.shape !== 'path') throw new Error('a path was drawn')
    return geometry.points
  }

  test('runs out of the picture along its own line, at either end', () => {
    const [top, bottom] = drawn({ x: 400, y: 9 }, { x: 430, y: 712 })
    expect(top!.y).toBeLessThan(-7)
    expect(bottom!.y).toBeGreaterThan(727)
    // Still on the same line.
    const slope = 30 / 703
    for (const { x, y } of [top!, bottom!]) expect(x - 400).toBeCloseTo(slope * (y - 9), 6)
  })

  test('stays as drawn where it ends inside, runs along the edge, or is out already', () => {
    const plain = (...places: { x: number; y: number }[]) =>
      expect(drawn(...places).map(({ x, y }) => ({ x, y }))).toEqual(places)
    plain({ x: 400, y: 200 }, { x: 430, y: 500 })
    plain({ x: 300, y: 5 }, { x: 900, y: 6 })
    plain({ x: 400, y: -12 }, { x: 430, y: 735 })
    plain({ x: 5, y: 5 }, { x: 5, y: 5 })
  })
})
