/** A version needs the scene's motion where its mends gather: asked for too early, it waits for it; else it never does. */
import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { fillOf, sampleEllipse, sampleRecord } from '../fixtures/sampleMend'
import { sceneSource, wavesAt } from '../fixtures/sampleScene'
import { SCENE_FORMAT, SCENE_VERSION, type Scene } from '../../core/scene/scene'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { plates, renderChunks, scenes, shots, versions } from '../../server/db/schema'
import { createNodePool } from '../../server/jobs/computePool.server'
import { renderChunk } from '../../server/jobs/renderChunk.server'
import { askForScene, loadScene } from '../../server/scenes.server'
import { saveEdit } from '../../server/saveEdit.server'
import { awaitsScene, findVersion, makeVersion, sceneOfVersion } from '../../server/versions.server'
import { startTestServer, type TestServer } from './testServer'

jest.setTimeout(120_000)

const SIZE = { width: 120, height: 90 }
const FRAMES = 6
const plateId = randomUUID()
const SCENE: Scene = {
  format: SCENE_FORMAT,
  version: SCENE_VERSION,
  plate: { ...SIZE, firstFrame: 1001, frameCount: FRAMES },
  layers: [
    {
      motions: Array.from({ length: FRAMES }, (_, i) => [1, 0, 3 * i, 0, 1, 0, 0, 0, 1]),
      sure: new Array<number>(FRAMES).fill(1),
      points: 40,
      hiddenBy: [],
    },
  ],
  exposureStops: new Array<number>(FRAMES).fill(0),
  cells: null,
}
let server: TestServer

beforeAll(async () => {
  server = await startTestServer()
  const { db } = server.context.database
  const source = sceneSource(SIZE, (frame) => ({
    background: (x, y, c) => wavesAt(x - 3 * (frame - 1001), y, c, 3),
    isHidden: () => false,
  }))
  const writer = await server.context.frames.createWriter(plateId)
  for (let frame = 1001; frame < 1001 + FRAMES; frame++)
    await writer.write(frame, await source.readRect(frame, { col: 0, row: 0, ...SIZE }))
  await writer.commit()
  await db.insert(shots).values({ id: 's', productionId: OWN_PRODUCTION_ID, name: 's' })
  const shape = {
    ...SIZE,
    channels: 3,
    bitDepth: 8,
    rateNum: 24,
    rateDen: 1,
    firstFrame: 1001,
    frameCount: FRAMES,
  }
  await db.insert(plates).values({ id: plateId, shotId: 's', sourceName: 'made', ...shape })
  await setFill('lift')
})
afterAll(() => server.close())

/** One mote, with this fill. */
async function setFill(methodId: string): Promise<void> {
  const { db } = server.context.database
  const [shot] = await db.select({ revision: shots.revision }).from(shots).where(eq(shots.id, 's'))
  const after = sampleRecord({
    id: 'mote',
    areas: [sampleEllipse()],
    fill: fillOf(methodId),
    span: { lastFrame: 1000 + FRAMES },
  })
  const before = shot!.revision === 0 ? null : after
  const change = { id: after.id, before, after }
  await saveEdit(db, 's', {
    editId: randomUUID(),
    baseRevision: shot!.revision,
    role: 'do',
    targetId: null,
    edit: { label: 'Fill', changes: [change], tracks: [] },
  })
}

async function ask(): Promise<string> {
  const made = await makeVersion(server.context, 's', {
    format: 'png',
    firstFrame: 1001,
    lastFrame: 1000 + FRAMES,
  })
  if (!made.ok) throw new Error(made.message)
  return made.versionId
}

async function render(versionId: string): Promise<void> {
  const pool = createNodePool(1)
  try {
    await renderChunk(server.context, pool, { versionId, index: 0 }, new AbortController().signal)
  } finally {
    pool.close()
  }
}

const isDone = async (versionId: string) => {
  const [chunk] = await server.context.database.db
    .select()
    .from(renderChunks)
    .where(eq(renderChunks.versionId, versionId))
  return chunk!.isDone
}

test('asked for before the scene is known, a version waits and is looked at again; then all its chunks use that scene', async () => {
  const { db, pool } = server.context.database
  await askForScene(db, 's')
  const versionId = await ask()
  const version = (await findVersion(server.context, versionId))!
  expect(awaitsScene({ ...version, hasScene: false }, await loadScene(db, 's'))).toBe(true)
  await render(versionId)
  expect(await isDone(versionId)).toBe(false)
  expect((await findVersion(server.context, versionId))!.state).toBe('waiting')
  const { rows } = await pool.query(
    'select run_at > now() as later from graphile_worker.jobs where key = $1',
    [`render:${versionId}:0`],
  )
  expect(rows).toEqual([{ later: true }])

  await db.update(scenes).set({ state: 'done', scene: SCENE }).where(eq(scenes.shotId, 's'))
  await render(versionId)
  expect(await isDone(versionId)).toBe(true)
  expect((await findVersion(server.context, versionId))!.scene).toEqual(SCENE)
  // A scene that is worked out anew meanwhile changes nothing for it.
  await db
    .update(scenes)
    .set({ scene: { ...SCENE, exposureStops: new Array<number>(FRAMES).fill(1) } })
    .where(eq(scenes.shotId, 's'))
  expect(await sceneOfVersion(db, (await findVersion(server.context, versionId))!)).toEqual(SCENE)
})

test('where the scene could not be worked out, and where no mend gathers, nothing is waited for', async () => {
  const { db } = server.context.database
  await db.update(scenes).set({ state: 'failed', scene: null }).where(eq(scenes.shotId, 's'))
  const failed = await ask()
  expect(await sceneOfVersion(db, (await findVersion(server.context, failed))!)).toBeNull()

  await setFill('near')
  await db.update(scenes).set({ state: 'working', scene: null }).where(eq(scenes.shotId, 's'))
  const near = await ask()
  await render(near)
  expect(await isDone(near)).toBe(true)
  await db.delete(versions).where(eq(versions.id, near))
})

test('a mend that follows a track that is gone is told by its name, and no version is begun', async () => {
  const { db } = server.context.database
  const follow = { trackId: 'gone', uses: { position: true, rotation: false, scale: false, skew: false } }
  const lost = sampleRecord({ id: 'lost', name: 'Lost', areas: [{ ...sampleEllipse(), follow }] })
  const [{ revision } = { revision: 0 }] = await db.select().from(shots).where(eq(shots.id, 's'))
  const edit = { label: 'Add', changes: [{ id: lost.id, before: null, after: lost }], tracks: [] }
  expect(await saveEdit(db, 's', { editId: randomUUID(), baseRevision: revision, role: 'do', targetId: null, edit })).toMatchObject({ ok: true }) // prettier-ignore
  const before = (await db.select().from(versions)).length
  expect(await makeVersion(server.context, 's', { format: 'png', firstFrame: 1001, lastFrame: 1002 })).toEqual({ ok: false, field: 'format', message: expect.stringMatching(/^Lost cannot be rendered: there is no track "gone"\. Nothing was made\./) }) // prettier-ignore
  expect(await db.select().from(versions)).toHaveLength(before)
})
