/** Views of all-round shots: what is refused, what a version takes of them. */
import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { sampleEllipse, sampleRecord } from '../fixtures/sampleMend'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { plates, shots, views } from '../../server/db/schema'
import { UPRIGHT, type SpherePose } from '../../server/media/sphere.server'
import { saveEdit } from '../../server/saveEdit.server'
import { allRoundOf, aroundRequestSchema, changeAround, listViews } from '../../server/views.server'
import { findVersion, makeVersion } from '../../server/versions.server'
import { startTestServer, type TestServer } from './testServer'

let server: TestServer
const view = { headingDeg: 0, pitchDeg: -90, angleDeg: 90 }
const order = { intent: 'make', name: 'Down', view } as const

async function addShot(
  id: string,
  width: number,
  height: number,
  sphere: SpherePose | null = null,
): Promise<void> {
  const { db } = server.context.database
  await db.insert(shots).values({ id, productionId: OWN_PRODUCTION_ID, name: id })
  const shape = {
    width,
    height,
    channels: 3,
    bitDepth: 8,
    rateNum: 24,
    rateDen: 1,
    firstFrame: 1001,
    frameCount: 2,
    sphere,
  }
  await db.insert(plates).values({ id: randomUUID(), shotId: id, sourceName: 'made', ...shape })
}

beforeAll(async () => {
  server = await startTestServer()
  await addShot('around', 1024, 512)
  await addShot('flat', 640, 360)
  await addShot('around-down', 326, 326)
  await addShot('said', 900, 500, UPRIGHT)
})
afterAll(() => server.close())

test('only what is twice as wide as high, or says of itself that it is, is all-round, and only what is said to be gets views', async () => {
  const { db } = server.context.database
  expect(await changeAround(db, 'flat', { intent: 'confirm', isAllRound: true })).toMatchObject({ ok: false, message: expect.stringContaining('640×360') }) // prettier-ignore
  expect(await changeAround(db, 'said', { intent: 'confirm', isAllRound: true })).toEqual({ ok: true })
  expect(await changeAround(db, 'around', order)).toMatchObject({ ok: false })
  expect(await changeAround(db, 'nowhere', order)).toMatchObject({ ok: false })
  expect(await listViews(db, 'around')).toEqual([])
  expect(await changeAround(db, 'around', { intent: 'confirm', isAllRound: true })).toEqual({ ok: true })
  expect(await changeAround(db, 'around', order)).toEqual({ ok: true })
  expect(await listViews(db, 'around')).toMatchObject([{ name: 'Down', view, state: 'waiting', framesTotal: 2, madeShotId: null }]) // prettier-ignore
})

test('an order is checked before anything is done', () => {
  for (const wrong of [
    null,
    {},
    { intent: 'make', name: '', view },
    { intent: 'make', name: 'x', view: { ...view, angleDeg: 179 } },
    { intent: 'make', name: 'x', view: { ...view, pitchDeg: 91 } },
  ])
    // prettier-ignore
    expect(aroundRequestSchema.safeParse(wrong).success).toBe(false)
})

test('a version keeps what was mended in views when it was asked for', async () => {
  const { db } = server.context.database
  await db.update(views).set({ state: 'done', madeShotId: 'around-down' }).where(eq(views.shotId, 'around'))
  expect(await allRoundOf(db, 'around-down')).toEqual({ id: 'around', name: 'around' })
  expect(await allRoundOf(db, 'flat')).toBeNull()
  const request = { format: 'png', firstFrame: 1001, lastFrame: 1002 } as const
  const version = async () => {
    const made = await makeVersion(server.context, 'around', request)
    if (!made.ok) throw new Error(made.message)
    return (await findVersion(server.context, made.versionId))!
  }
  expect((await version()).views).toEqual([])
  const record = sampleRecord({ id: randomUUID(), areas: [sampleEllipse()] })
  await saveEdit(server.context.database.db, 'around-down', {
    editId: randomUUID(),
    baseRevision: 0,
    role: 'do',
    targetId: null,
    edit: { label: 'Add', changes: [{ id: record.id, before: null, after: record }], tracks: [] },
  })
  const { views: kept, mendCount } = await version()
  expect(kept).toMatchObject([{ shotId: 'around-down', view, document: { mends: [{ id: record.id }] } }])
  expect(mendCount).toBe(1)
})
