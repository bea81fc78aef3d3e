/** Frames of a mend gathered ahead: by a job, into a store that every worker reads, bounded in size. */
import { randomUUID } from 'node:crypto'
import { readdir, stat, utimes } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { fillOf, sampleEllipse, sampleRecord } from '../fixtures/sampleMend'
import { sceneSource, wavesAt } from '../fixtures/sampleScene'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { plates, shots } from '../../server/db/schema'
import { pruneResults } from '../../server/results/pruneResults.server'
import { createDirectoryResultStore } from '../../server/results/resultStore.server'
import { askForGather, cancelGather, loadGather } from '../../server/gathers.server'
import { createNodePool } from '../../server/jobs/computePool.server'
import { failGather, gatherMend } from '../../server/jobs/gatherMend.server'
import { saveEdit } from '../../server/saveEdit.server'
import { startTestServer, type TestServer } from './testServer'

jest.setTimeout(120_000)

const SIZE = { width: 160, height: 120 }
const plateId = randomUUID()
let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
  const { db } = server.context.database
  const source = sceneSource(SIZE, (frame) => ({
    background: (x, y, c) => wavesAt(x - 3 * (frame - 1001), y, c, 3),
    isHidden: () => false,
  }))
  const writer = await server.context.frames.createWriter(plateId)
  for (let frame = 1001; frame < 1013; frame++)
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
    frameCount: 12,
  }
  await db.insert(plates).values({ id: plateId, shotId: 's', sourceName: 'made', ...shape })
  const record = sampleRecord({
    id: 'mote',
    areas: [sampleEllipse()],
    fill: fillOf('clean-plate'),
    span: { lastFrame: 1009 },
  })
  const change = { id: record.id, before: null, after: record }
  await saveEdit(db, 's', {
    editId: randomUUID(),
    baseRevision: 0,
    role: 'do',
    targetId: null,
    edit: { label: 'New', changes: [change], tracks: [] },
  })
})
afterAll(() => server.close())

const stored = () => join(server.context.folders.results, plateId)
async function work(mendId: string): Promise<void> {
  const pool = createNodePool(1)
  try {
    await gatherMend(server.context, pool, { shotId: 's', mendId }, new AbortController().signal)
  } finally {
    pool.close()
  }
}

test('asked for, each frame of its span is gathered once; again, nothing is written', async () => {
  const { db } = server.context.database
  expect(await loadGather(db, 's', 'mote')).toMatchObject({ state: 'none', seconds: null })
  expect(await askForGather(db, 's', 'no such mend')).toBe(false)
  expect(await askForGather(db, 's', 'mote')).toBe(true)
  expect(await askForGather(db, 's', 'mote')).toBe(true)
  const { rows } = await server.context.database.pool.query(
    "select 1 from graphile_worker.jobs where key = 'gather:s:mote'",
  )
  expect(rows).toHaveLength(1)
  await work('mote')
  expect(await loadGather(db, 's', 'mote')).toMatchObject({
    state: 'done',
    framesDone: 9,
    framesTotal: 9,
    error: null,
  })
  const names = (await readdir(stored())).sort()
  // What was gathered, and the finished rectangle.
  expect(names).toHaveLength(2 * 9)
  expect(names.every((name) => /^[0-9a-f]{32}\.result$/.test(name))).toBe(true)
  const written = async () => Promise.all(names.map(async (name) => (await stat(join(stored(), name))).ino))
  const before = await written()
  await askForGather(db, 's', 'mote')
  await work('mote')
  expect((await readdir(stored())).sort()).toEqual(names)
  expect(await written()).toEqual(before)
})

test('called off before it began, nothing is done; a failure says so; a mend that is gone needs nothing', async () => {
  const { db } = server.context.database
  await askForGather(db, 's', 'mote')
  await cancelGather(db, 's', 'mote')
  await work('mote')
  expect((await loadGather(db, 's', 'mote')).state).toBe('cancelled')
  await failGather(server.context, { shotId: 's', mendId: 'mote' }, 'It failed: made up.')
  expect(await loadGather(db, 's', 'mote')).toMatchObject({ state: 'failed', error: 'It failed: made up.' })
  await work('gone')
  expect((await loadGather(db, 's', 'gone')).state).toBe('none')
})

const KEY = '0'.repeat(32)

test('the store keeps what was used last; names that are no keys reach no file', async () => {
  const { results } = server.context.folders
  const own = createDirectoryResultStore(results, plateId)
  const [first, ...rest] = await readdir(stored())
  for (const name of rest) await utimes(join(stored(), name), new Date(0), new Date(0))
  const { size } = await stat(join(stored(), first!))
  const { files, bytes } = await pruneResults(results, size + 1)
  expect(await readdir(stored())).toEqual([first])
  expect([files, bytes]).toEqual([1, size])
  expect(await own.read(KEY)).toBeNull()
  await expect(own.read('../../secret')).rejects.toThrow()
  expect(() => createDirectoryResultStore(results, '../x')).toThrow()
  // Where nothing can be written the frame is still right.
  const full = createDirectoryResultStore(join(stored(), first!), plateId)
  await expect(full.write(KEY, Uint8Array.of(1))).resolves.toBeUndefined()
})

test('what another running version has put there stays; what none runs of any more goes', async () => {
  const { results } = server.context.folders
  const [running, gone] = ['running-core', 'gone-core'].map((name) => join(dirname(results), name))
  for (const other of [running!, gone!]) {
    await createDirectoryResultStore(other, plateId).write(KEY, Uint8Array.of(1, 2, 3))
    await pruneResults(other)
  }
  await utimes(join(gone!, 'in-use'), new Date(0), new Date(0))
  await pruneResults(results, 0)
  expect([...(await createDirectoryResultStore(running!, plateId).read(KEY))!]).toEqual([1, 2, 3])
  expect(await readdir(dirname(results))).not.toContain('gone-core')
})
