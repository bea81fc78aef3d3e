/** Cameras and sensor maps: kept, edited, merged, applied to many shots, undone there. */
import { randomUUID } from 'node:crypto'
import { acceptedIds } from '../../core/document/acceptFinds'
import { invertEdit } from '../../core/document/edits'
import type { SensorMap } from '../../core/survey/sensorMap'
import { changeCameras, listCameras, loadSensorMap } from '../../server/cameras.server'
import { DEMO_PRODUCTION_ID, OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { plates, shots } from '../../server/db/schema'
import { findShot, loadHistory, loadMends } from '../../server/shots.server'
import { saveEdit } from '../../server/saveEdit.server'
import { startTestServer, type TestServer } from './testServer'

let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
  const { db } = server.context.database
  for (const [id, width, height, firstFrame] of [
    ['whole', 640, 360, 1001],
    ['half', 320, 180, 1],
    ['middle', 320, 240, 1001],
  ] as const) {
    await db.insert(shots).values({ id, productionId: OWN_PRODUCTION_ID, name: id })
    const shape = {
      width,
      height,
      channels: 3,
      bitDepth: 8,
      rateNum: 24,
      rateDen: 1,
      firstFrame,
      frameCount: 12,
    }
    await db.insert(plates).values({ id: randomUUID(), shotId: id, sourceName: 'made', ...shape })
  }
})
afterAll(() => server.close())

const map = (over: Partial<SensorMap> = {}): SensorMap => ({
  format: 'fillagrant-sensor-map',
  version: 1,
  camera: 'B camera',
  madeOn: '2026-10-01',
  sensor: { width: 640, height: 360 },
  pixels: [
    { x: 20.5, y: 30.5, class: 'hot', widthPx: 3, heightPx: 3 },
    { x: 320.5, y: 180.5, class: 'dead', widthPx: 3, heightPx: 3 },
  ],
  motes: [{ x: 300, y: 200, radiusXPx: 14, radiusYPx: 12, turnDeg: 10, depthStops: -0.4 }],
  ...over,
})
const ask = (stackIndex: unknown): ReturnType<typeof changeCameras> =>
  changeCameras(server.context.database.db, stackIndex)
const cache = (kept: SensorMap, over = {}) =>
  ask({ intent: 'keep', productionId: OWN_PRODUCTION_ID, shotId: null, map: kept, ...over })
async function kept(answer: ReturnType<typeof changeCameras>): Promise<string> {
  const given = await answer
  if (!given.ok || given.mapId === null) throw new Error(JSON.stringify(given))
  return given.mapId
}
const load = async (id: string) => (await loadSensorMap(server.context.database.db, id))!.map
const list = () => listCameras(server.context.database.db)

test('a map makes its camera once; later ones join it, the latest first; another sensor of that name is refused', async () => {
  const first = await kept(cache(map()))
  const second = await kept(cache(map({ madeOn: '2026-11-01', motes: [] })))
  expect(await list()).toMatchObject([
    { name: 'B camera', sensor: { width: 640, height: 360 }, maps: [{ id: second }, { id: first }] },
  ])
  expect(await load(first)).toEqual(map())
  const wrong = await cache(map({ sensor: { width: 1280, height: 720 } }))
  expect(wrong).toMatchObject({
    ok: false,
    message: expect.stringContaining(
      '640 × 360 px, this map is of 1280 × 720 px. Nothing was kept',
    ) as string,
  })
  // Another production may have a camera of the same name.
  await kept(cache(map({ sensor: { width: 1280, height: 720 } }), { productionId: DEMO_PRODUCTION_ID }))
  expect(await list()).toHaveLength(2)
})

test('what is not a map, and a production or a shot that is not there, are refused in words; nothing is stored', async () => {
  const before = JSON.stringify(await list())
  for (const [asked, words] of [
    [null, 'cannot be stored'],
    [{ intent: 'keep', productionId: OWN_PRODUCTION_ID, shotId: null, map: map({ camera: '  ' }) }, 'camera'],
    [
      { intent: 'keep', productionId: OWN_PRODUCTION_ID, shotId: null, map: map({ madeOn: 'yesterday' }) },
      'madeOn',
    ],
    [{ intent: 'keep', productionId: 'nowhere', shotId: null, map: map() }, 'no such production'],
    [{ intent: 'keep', productionId: null, shotId: 'nowhere', map: map() }, 'shot is gone'],
    [{ intent: 'change', mapId: randomUUID(), madeOn: '2026-10-01', pixels: [], motes: [] }, 'gone'],
    [{ intent: 'remove', mapId: randomUUID() }, 'gone'],
    [{ intent: 'apply', mapId: randomUUID(), targets: [{ shotId: 'whole', readout: 'scaled' }] }, 'gone'],
  ] as const) {
    expect(await ask(asked)).toMatchObject({ ok: false, message: expect.stringContaining(words) as string })
  }
  expect(JSON.stringify(await list())).toBe(before)
})

test('a map is edited in place, merged into a third, and deleted; a camera renamed, and deleted with its maps', async () => {
  const older = await kept(cache(map({ camera: 'C camera' })))
  const newer = await kept(
    cache(
      map({
        camera: 'C camera',
        madeOn: '2026-11-02',
        pixels: [{ x: 500.5, y: 9.5, class: 'stuck-red', widthPx: 3, heightPx: 3 }],
        motes: [],
      }),
    ),
  )
  expect(
    await ask({
      intent: 'change',
      mapId: older,
      madeOn: '2026-09-30',
      pixels: map().pixels.slice(1),
      motes: [],
    }),
  ).toMatchObject({ ok: true })
  expect(await load(older)).toMatchObject({ madeOn: '2026-09-30', pixels: map().pixels.slice(1), motes: [] })
  const merged = await kept(ask({ intent: 'merge', mapId: older, withId: newer }))
  expect(await load(merged)).toMatchObject({
    madeOn: '2026-11-02',
    pixels: [{ class: 'stuck-red' }, { class: 'dead' }],
  })
  expect(await ask({ intent: 'merge', mapId: older, withId: older })).toMatchObject({ ok: false })
  expect(await ask({ intent: 'remove', mapId: merged })).toMatchObject({ ok: true })
  const camera = (await list()).find(({ name }) => name === 'C camera')!
  expect(camera.maps.map(({ id }) => id)).toEqual([newer, older])
  expect(await ask({ intent: 'rename-camera', cameraId: camera.id, name: 'B camera' })).toMatchObject({
    ok: false,
    message: expect.stringContaining('already') as string,
  })
  expect(await ask({ intent: 'rename-camera', cameraId: camera.id, name: 'D camera' })).toMatchObject({
    ok: true,
  })
  expect(await load(newer)).toMatchObject({ camera: 'D camera' })
  expect(await ask({ intent: 'remove-camera', cameraId: camera.id })).toMatchObject({ ok: true })
  expect(await loadSensorMap(server.context.database.db, newer)).toBeNull()
})

test('applied to many shots each gets one step of its own, scaled or cropped as it shows the sensor; applied again nothing changes', async () => {
  const { db } = server.context.database
  const id = await kept(cache(map({ camera: 'E camera' })))
  const targets = [
    { shotId: 'whole', readout: 'scaled' },
    { shotId: 'half', readout: 'scaled' },
    { shotId: 'middle', readout: 'cropped' },
    { shotId: 'gone', readout: 'scaled' },
  ]
  const answer = await ask({ intent: 'apply', mapId: id, targets })
  // The one near the sensor's corner is outside the middle.
  expect(answer).toMatchObject({
    ok: true,
    words: expect.stringContaining('8 places of E camera are mended in 3 shots') as string,
  })
  expect(answer).toMatchObject({ words: expect.stringContaining('Gone in the meantime: gone') as string })
  const places = async (shotId: string) =>
    (await loadMends(db, shotId)).flatMap(({ areas }) =>
      areas.map((area) =>
        area.shape === 'box' || area.shape === 'ellipse'
          ? [area.keys[0]!.x, area.keys[0]!.y, area.keys[0]!.frame]
          : [],
      ),
    )
  expect(await places('whole')).toEqual([[20.5, 30.5, 1001], [320.5, 180.5, 1001], [300, 200, 1001]]) // prettier-ignore
  expect(await places('half')).toEqual([[10.5, 15.5, 1], [160.5, 90.5, 1], [150, 100, 1]]) // prettier-ignore
  expect(await places('middle')).toEqual([[160.5, 120.5, 1001], [140, 140, 1001]]) // prettier-ignore
  expect((await findShot(db, 'half'))!.shot).toMatchObject({
    revision: 1,
    cameraId: (await list()).find(({ name }) => name === 'E camera')!.id,
  })
  expect(await ask({ intent: 'apply', mapId: id, targets: targets.slice(0, 3) })).toMatchObject({
    words: 'All of them are mended already.',
  })
  // Undo, as the bench does it.
  const [step] = await loadHistory(db, 'whole')
  expect(step!.edit.label).toBe('Apply the sensor map of E camera')
  expect(
    await saveEdit(db, 'whole', {
      editId: randomUUID(),
      baseRevision: 1,
      role: 'undo',
      targetId: null,
      edit: invertEdit(step!.edit),
    }),
  ).toMatchObject({
    ok: true,
  })
  expect(acceptedIds(new Map((await loadMends(db, 'whole')).map((mend) => [mend.id, mend]))).size).toBe(0)
})

test('kept from a shot, the map belongs to a camera of its production, and the shot to the camera', async () => {
  const { db } = server.context.database
  await kept(cache(map({ camera: 'F camera' }), { productionId: null, shotId: 'middle' }))
  const camera = (await list()).find(({ name }) => name === 'F camera')!
  expect(camera.productionId).toBe(OWN_PRODUCTION_ID)
  expect((await findShot(db, 'middle'))!.shot.cameraId).toBe(camera.id)
  await ask({ intent: 'remove-camera', cameraId: camera.id })
  expect((await findShot(db, 'middle'))!.shot.cameraId).toBeNull()
})
