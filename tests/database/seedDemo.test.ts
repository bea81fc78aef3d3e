/** The demo's camera: kept once, with what its lens-cap clip tells of its faults. */
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { CAMERA } from '../../demo/camera'
import { listCameras } from '../../server/cameras.server'
import { seedDemo } from '../../server/seedDemo.server'
import { startTestServer, type TestServer } from './testServer'

let server: TestServer
let film: string
beforeAll(async () => {
  server = await startTestServer()
  film = await mkdtemp(join(tmpdir(), 'no-film-'))
})
afterAll(async () => {
  await server.close()
  await rm(film, { recursive: true })
})

test('its map has every fault that shines, in its place and with its class; those that are dead cannot be seen in the dark', async () => {
  await seedDemo(server.context, film)
  await seedDemo(server.context, film) // once is enough
  const [camera, ...more] = await listCameras(server.context.database.db)
  expect(more).toEqual([])
  expect(camera).toMatchObject({ name: CAMERA.name, sensor: { width: CAMERA.width, height: CAMERA.height } })
  const [listed, ...others] = camera!.maps
  const { map } = listed!
  expect(others).toEqual([])
  expect(map.madeOn).toBe(CAMERA.madeOn)
  const shining = CAMERA.pixels
    .filter(({ fault }) => fault !== 'dead')
    .map(({ fault, col, row }) => `${fault} ${col + 0.5} ${row + 0.5}`)
  expect(map.pixels.map((pixel) => `${pixel.class} ${pixel.x} ${pixel.y}`).sort()).toEqual(shining.sort())
  expect(map.motes).toEqual([])
})
