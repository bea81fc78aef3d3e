import { fillMethods } from '../fill/registry'
import { applyEdit, invertEdit } from './edits'
import { applyRecipe, cooked, recipeOf, recipeSchema, suits } from './recipes'
import { fillOf, sampleEllipse, samplePath, sampleRecord } from '../../tests/fixtures/sampleMend'
import { DEFAULT_FINISH, mendRecordSchema } from './mend'

const wire = sampleRecord({
  fill: { ...fillOf('across'), params: { ...fillOf('across').params, reachPx: 33 } },
  finish: { ...DEFAULT_FINISH, featherOutPx: 4, strength: 0.5 },
  source: {
    keys: [{ frame: 1001, dx: 40, dy: 0, turnDeg: 0, scale: 1 }],
    interpolation: 'smooth',
    follow: null,
  },
  span: { rampInFrames: 3 },
})
const other = sampleRecord({
  id: 'wire-2',
  name: 'Wire 2',
  areas: [samplePath({ id: 'a2' })],
  span: { firstFrame: 1010, lastFrame: 1020, rampOutFrames: 2 },
})

test('a recipe holds what a mend is done with, and none of its place', () => {
  const recipe = recipeOf(wire, 'Thin thread')
  expect(recipeSchema.parse(JSON.parse(JSON.stringify(recipe)))).toEqual(recipe)
  expect(recipe).toMatchObject({
    name: 'Thin thread',
    kind: 'wire',
    rampInFrames: 3,
    fill: { methodId: 'across', params: { reachPx: 33 } },
  })
  expect(Object.keys(recipe).sort()).toEqual([
    'fill',
    'finish',
    'format',
    'kind',
    'name',
    'rampInFrames',
    'rampOutFrames',
    'version',
  ])
  expect(() => recipeSchema.parse({ ...recipe, name: '  ' })).toThrow('A recipe needs a name.')
})

test('applied, the settings are the recipe’s, and place, frames, name and source the mend’s own; one undo takes it back', () => {
  const records = new Map([wire, other].map((mend) => [mend.id, mend]))
  const edit = applyRecipe([other], recipeOf(wire, 'Thin thread'), 1012)!
  expect(edit.label).toBe('Thin thread for Wire 2')
  const state = { records, tracks: new Map() }
  const after = applyEdit(state, edit)
  const now = after.records.get('wire-2')!
  expect(mendRecordSchema.parse(now)).toEqual(now)
  expect(now).toMatchObject({
    fill: wire.fill,
    finish: wire.finish,
    name: 'Wire 2',
    areas: other.areas,
    source: null,
  })
  expect(now.span).toEqual({ firstFrame: 1010, lastFrame: 1020, rampInFrames: 3, rampOutFrames: 0 })
  expect(after.records.get('wire-1')).toBe(wire)
  expect(applyEdit(after, invertEdit(edit)).records.get('wire-2')).toEqual(other)
})

test('several mends are one step; those that the fill cannot fill are left alone', () => {
  const blob = sampleRecord({
    id: 'dust-1',
    kind: 'dust',
    name: 'Dust 1',
    areas: [sampleEllipse()],
    fill: fillOf('median'),
  })
  const recipe = recipeOf(wire, 'Thin thread')
  expect(suits(recipe, blob)).toBe(false)
  expect(applyRecipe([blob], recipe, 1001)).toBeNull()
  const edit = applyRecipe([blob, wire, other], recipe, 1001)!
  expect(edit.changes.map(({ id }) => id)).toEqual(['wire-1', 'wire-2'])
  expect(edit.label).toBe('Thin thread for 2 mends')
  // What needs no path suits all.
  expect(suits(recipeOf(blob, 'Specks'), wire)).toBe(true)
})

test('pictures and frames of one shot do not go into a recipe: they are where the next shot looks', () => {
  const { params } = fillOf('still')
  const mend = sampleRecord({
    fill: {
      ...fillOf('still'),
      params: { ...params, shows: 'picture', still: 'plate-of-this-shot.png', frame: 1031 },
    },
  })
  const recipe = recipeOf(mend, 'From a picture')
  expect(recipe.fill.params).toEqual({ ...params, shows: 'picture' })
  expect(cooked(other, recipe, 1012).fill.params).toEqual({
    ...params,
    shows: 'picture',
    frame: 1012,
    on: 1012,
  })
})

test.each(fillMethods.map(({ id }) => id))('settings of %s come through a recipe as they are', (id) => {
  const mend = sampleRecord({ fill: fillOf(id) })
  expect(recipeOf(mend, 'Same').fill).toEqual(mend.fill)
})

test('how a mark fades belongs to its shot: a recipe starts without', () => {
  const fades = [
    { frame: 1001, level: 0 },
    { frame: 1010, level: 1 },
  ]
  const unmix = fillOf('unmix')
  const mark = sampleRecord({
    kind: 'mark',
    fill: { ...unmix, params: { ...unmix.params, opacity: 0.8, fades } },
  })
  expect(recipeOf(mark, 'Bug').fill.params).toMatchObject({ opacity: 0.8, fades: [{ frame: 0, level: 1 }] })
})
