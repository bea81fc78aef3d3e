/** The scene's motion from the import on: asked for, worked out by a job, told, kept with a version. */
import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { sampleEllipse, sampleRecord } from '../fixtures/sampleMend'
import { sceneSource, wavesAt } from '../fixtures/sampleScene'
import { sceneSchema } from '../../core/scene/scene'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { plates, scenes, shots, versions } from '../../server/db/schema'
import { createNodePool } from '../../server/jobs/computePool.server'
import { failScene, workOutScene } from '../../server/jobs/workOutScene.server'
import { askForMissingScenes, askForScene, loadScene } from '../../server/scenes.server'
import { saveEdit } from '../../server/saveEdit.server'
import { makeVersion } from '../../server/versions.server'
import { startTestServer, type TestServer } from './testServer'

jest.setTimeout(120_000)

const SIZE = { width: 160, height: 120 }
let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
})
afterAll(() => server.close())

/** Six frames that drift, in the frame store and the database, without the import. */
async function makeShot(id: string): Promise<void> {
  const { db } = server.context.database
  const plateId = randomUUID()
  const source = sceneSource(SIZE, (frame) => ({
    background: (x, y, c) => wavesAt(x - 2 * (frame - 1001), y, c, 3),
    isHidden: () => false,
  }))
  const writer = await server.context.frames.createWriter(plateId)
  for (let frame = 1001; frame < 1007; frame++)
    await writer.write(frame, await source.readRect(frame, { col: 0, row: 0, ...SIZE }))
  await writer.commit()
  await db.insert(shots).values({ id, productionId: OWN_PRODUCTION_ID, name: id })
  await db.insert(plates).values({
    id: plateId,
    shotId: id,
    sourceName: 'made',
    ...SIZE,
    channels: 3,
    bitDepth: 8,
    rateNum: 24,
    rateDen: 1,
    firstFrame: 1001,
    frameCount: 6,
  })
}

const jobsFor = async (shotId: string): Promise<number> => {
  const { rows } = await server.context.database.pool.query<{ count: string }>(
    'select count(*) from graphile_worker.jobs where key = $1',
    [`scene:${shotId}`],
  )
  return Number(rows[0]!.count)
}

test('shots without a scene are found and asked for, once', async () => {
  const { db } = server.context.database
  await makeShot('old')
  expect((await loadScene(db, 'old')).state).toBe('none')
  await askForMissingScenes(db)
  await askForMissingScenes(db)
  expect((await loadScene(db, 'old')).state).toBe('waiting')
  expect(await jobsFor('old')).toBe(1)
  await askForScene(db, 'old')
  expect(await jobsFor('old')).toBe(1)
})

test('the job works it out in a pool, leaves out what mends cover, keeps progress and revision; a version takes it along', async () => {
  const { context } = server
  const { db } = context.database
  await makeShot('drift')
  await askForScene(db, 'drift')
  const record = sampleRecord({ areas: [sampleEllipse()] })
  await saveEdit(db, 'drift', {
    editId: randomUUID(),
    baseRevision: 0,
    role: 'do',
    targetId: null,
    edit: { label: 'New', changes: [{ id: record.id, before: null, after: record }], tracks: [] },
  })
  const pool = createNodePool(1)
  try {
    await workOutScene(context, pool, { shotId: 'drift' }, new AbortController().signal)
  } finally {
    pool.close()
  }
  const status = await loadScene(db, 'drift')
  expect(status).toMatchObject({ state: 'done', stepsDone: 12, stepsTotal: 12, error: null })
  const scene = sceneSchema.parse(status.scene)
  expect(scene.plate).toEqual({ ...SIZE, firstFrame: 1001, frameCount: 6 })
  expect(scene.layers[0]!.motions[5]![2]).toBeCloseTo(10, 0)
  const [row] = await db.select().from(scenes).where(eq(scenes.shotId, 'drift'))
  expect(row!.revision).toBe(1)

  const made = await makeVersion(context, 'drift', { format: 'png', firstFrame: 1001, lastFrame: 1006 })
  const [version] = await db
    .select()
    .from(versions)
    .where(eq(versions.id, made.ok ? made.versionId : ''))
  expect(version!.scene).toEqual(status.scene)
})

describe('a scene is reviewed after edits', () => {
  const review = async (shotId: string) => {
    const pool = createNodePool(1)
    try {
      await workOutScene(server.context, pool, { shotId, isReview: true }, new AbortController().signal)
    } finally {
      pool.close()
    }
    return loadScene(server.context.database.db, shotId)
  }
  const cover = async (shotId: string, baseRevision: number, radiusPx: number) => {
    const area = sampleEllipse()
    const keys = area.keys.map((key) => ({ ...key, x: 60, y: 60, radiusXPx: radiusPx, radiusYPx: radiusPx }))
    const record = sampleRecord({ id: `mote-${radiusPx}`, areas: [{ ...area, keys }] })
    const change = { id: record.id, before: null, after: record }
    const edit = { label: 'New', changes: [change], tracks: [] }
    expect(
      await saveEdit(server.context.database.db, shotId, {
        editId: randomUUID(),
        baseRevision,
        role: 'do',
        targetId: null,
        edit,
      }),
    ).toEqual({
      ok: true,
      revision: baseRevision + 1,
    })
  }

  test('once for a burst of them, later; not before it was worked out at all', async () => {
    await makeShot('edited')
    await cover('edited', 0, 3)
    const { rows } = await server.context.database.pool.query<{ key: string; wait: string }>(
      "select key, extract(epoch from run_at - now()) as wait from graphile_worker.jobs where key = 'review-scene:edited'",
    )
    expect(rows).toHaveLength(1)
    expect(Number(rows[0]!.wait)).toBeGreaterThan(10)
    expect((await review('edited')).state).toBe('none')
  })

  test('a speck leaves it as it is; what covers a part of the picture has it worked out again, and what agrees stays', async () => {
    const { context } = server
    await makeShot('reviewed')
    await askForScene(context.database.db, 'reviewed')
    const pool = createNodePool(1)
    try {
      await workOutScene(context, pool, { shotId: 'reviewed' }, new AbortController().signal)
    } finally {
      pool.close()
    }
    const first = (await loadScene(context.database.db, 'reviewed')).scene!
    await cover('reviewed', 0, 3)
    expect((await review('reviewed')).scene).toEqual(first)
    await cover('reviewed', 1, 40)
    const { scene, state } = await review('reviewed')
    expect(state).toBe('done')
    expect(scene!.leftOut!.frames).not.toEqual(first.leftOut!.frames)
    expect(scene!.layers[0]!.motions).toEqual(first.layers[0]!.motions)
  })
})

test('a shot that was removed meanwhile is nothing to work out; a failure says so and keeps the last scene', async () => {
  const { context } = server
  const { db } = context.database
  const pool = createNodePool(1)
  try {
    await workOutScene(context, pool, { shotId: 'gone' }, new AbortController().signal)
  } finally {
    pool.close()
  }
  await failScene(context, 'drift', 'It failed: made up.')
  const status = await loadScene(db, 'drift')
  expect(status).toMatchObject({ state: 'failed', error: 'It failed: made up.' })
  expect(status.scene).not.toBeNull()
})
