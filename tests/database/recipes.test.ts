/** Recipes kept, renamed, deleted; mends copied to other shots, one step in the history of each. */
import { randomUUID } from 'node:crypto'
import { addMend } from '../../core/document/commands'
import { recipeOf } from '../../core/document/recipes'
import { sampleEllipse, samplePath, sampleRecord } from '../fixtures/sampleMend'
import { DEMO_PRODUCTION_ID, OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { plates, shots } from '../../server/db/schema'
import { changeRecipes, copyMends, copyTargets, listRecipes } from '../../server/recipes.server'
import { loadHistory, loadMends } from '../../server/shots.server'
import { saveEdit } from '../../server/saveEdit.server'
import { startTestServer, type TestServer } from './testServer'

const RANGE = { firstFrame: 1001, lastFrame: 1012 }
let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
  const { db } = server.context.database
  for (const [id, productionId, width, height] of [
    ['a', OWN_PRODUCTION_ID, 640, 360],
    ['same', OWN_PRODUCTION_ID, 640, 360],
    ['double', DEMO_PRODUCTION_ID, 1280, 720],
    ['square', OWN_PRODUCTION_ID, 360, 360],
  ] as const) {
    await db.insert(shots).values({ id, productionId, name: id.toUpperCase() })
    const shape = {
      width,
      height,
      channels: 3,
      bitDepth: 8,
      rateNum: 24,
      rateDen: 1,
      firstFrame: 1001,
      frameCount: 12,
    }
    await db.insert(plates).values({ id: randomUUID(), shotId: id, sourceName: 'made', ...shape })
  }
  const wire = addMend(new Map(), 'wire', 'w1', [samplePath()], RANGE)
  await saveEdit(db, 'a', { editId: randomUUID(), baseRevision: 0, role: 'do', targetId: null, edit: wire })
  const dust = addMend(new Map(), 'dust', 'd1', [sampleEllipse()], RANGE)
  await saveEdit(db, 'a', { editId: randomUUID(), baseRevision: 1, role: 'do', targetId: null, edit: dust })
})
afterAll(() => server.close())

const ask = (change: unknown) => changeRecipes(server.context.database.db, change)
const list = () => listRecipes(server.context.database.db)

test('a recipe is kept by its name, replaced by one of the same name, renamed and deleted', async () => {
  const recipe = recipeOf(sampleRecord(), 'Thread at dusk')
  expect(await ask({ intent: 'keep', shotId: 'a', recipe })).toMatchObject({ ok: true })
  const softer = { ...recipe, finish: { ...recipe.finish, featherOutPx: 6 } }
  expect(await ask({ intent: 'keep', shotId: 'same', recipe: softer })).toMatchObject({ ok: true })
  expect((await list()).map((one) => one.recipe)).toEqual([softer])
  // Another production has names of its own.
  await ask({ intent: 'keep', shotId: 'double', recipe })
  await ask({ intent: 'keep', shotId: 'a', recipe: { ...recipe, name: 'Another' } })
  const another = (await list()).find(({ recipe: { name } }) => name === 'Another')!
  expect(await ask({ intent: 'rename', id: another.id, name: 'Thread at dusk' })).toMatchObject({ ok: false })
  expect(await ask({ intent: 'rename', id: another.id, name: ' Thread at noon ' })).toMatchObject({
    ok: true,
  })
  expect((await list()).map((one) => one.recipe.name)).toEqual([
    'Thread at dusk',
    'Thread at dusk',
    'Thread at noon',
  ])
  expect(await ask({ intent: 'remove', id: another.id })).toMatchObject({ ok: true })
  expect(await ask({ intent: 'remove', id: another.id })).toMatchObject({ ok: false })
  expect(await list()).toHaveLength(2)
})

test('what is no recipe is refused in words', async () => {
  const recipe = recipeOf(sampleRecord(), 'Thread')
  for (const asked of [
    null,
    { intent: 'keep', shotId: 'nowhere', recipe },
    { intent: 'keep', shotId: 'a', recipe: { ...recipe, fill: { ...recipe.fill, methodId: 'magic' } } },
    { intent: 'keep', shotId: 'a', recipe: { ...recipe, areas: [] } },
  ]) {
    expect(await ask(asked)).toMatchObject({
      ok: false,
      message: expect.stringMatching(/Nothing (has changed|was kept)/) as string,
    })
  }
  expect(await list()).toHaveLength(2)
})

test('shots of another shape are no targets; the others get copies as one step each', async () => {
  const { db } = server.context.database
  expect(await copyTargets(db, 'nowhere')).toBeNull()
  expect((await copyTargets(db, 'a'))!.map(({ name, scale }) => [name, scale])).toEqual(expect.arrayContaining([['SAME', 1], ['DOUBLE', 2], ['SQUARE', null]])) // prettier-ignore
  const answer = await copyMends(db, 'a', {
    mendIds: ['w1', 'd1'],
    shotIds: ['same', 'double', 'square', 'a', 'gone'],
  })
  expect(answer).toMatchObject({
    ok: true,
    words: expect.stringContaining('4 mends copied to 2 shots') as string,
  })
  expect(answer).toMatchObject({
    words: expect.stringContaining('SQUARE has a picture of another shape; gone is gone') as string,
  })
  expect((await loadMends(db, 'same')).map(({ name }) => name).sort()).toEqual(['Dust 1', 'Wire 1'])
  const dust = (await loadMends(db, 'double')).find(({ kind }) => kind === 'dust')!
  expect(dust.areas[0]).toMatchObject({ keys: [{ x: 100, y: 80, radiusXPx: 24, radiusYPx: 16 }] })
  expect((await loadHistory(db, 'same')).map(({ edit }) => edit.label)).toEqual([
    'Copy 2 mends from another shot',
  ])
  expect(await loadMends(db, 'a')).toHaveLength(2)
})

test('dust that is there already is said, not copied again; what is gone is said too', async () => {
  const { db } = server.context.database
  expect(await copyMends(db, 'a', { mendIds: ['d1'], shotIds: ['same'] })).toEqual({
    ok: false,
    message: 'Nothing was copied. Left out: Dust 1: all of its places are mended there already.',
  })
  expect(await copyMends(db, 'a', { mendIds: ['nothing'], shotIds: ['same'] })).toMatchObject({ ok: false })
  expect(await copyMends(db, 'a', { mendIds: [], shotIds: ['same'] })).toMatchObject({
    ok: false,
    message: expect.stringContaining('mendIds') as string,
  })
})
