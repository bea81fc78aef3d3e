/** Surveys as jobs: asked for, called off, done; what was dismissed stays so. */
import { randomUUID } from 'node:crypto'
import sharp from 'sharp'
import { createSamples } from '../../core/image/samples'
import { sceneSource, wavesAt } from '../fixtures/sampleScene'
import { surveySchema } from '../../core/survey/finds'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { plates, shots } from '../../server/db/schema'
import { createNodePool } from '../../server/jobs/computePool.server'
import { failSurvey, surveyShot } from '../../server/jobs/surveyShot.server'
import {
  askForSurvey,
  cancelSurvey,
  dismissalSchema,
  dismissFinds,
  keepFinds,
  loadSurvey,
  readLook,
  surveyFile,
} from '../../server/surveys.server'
import { startTestServer, type TestServer } from './testServer'

jest.setTimeout(120_000)

const SIZE = { width: 160, height: 120 }
const FRAMES = 14
const BAD = [[40, 50], [120, 30]] as const // prettier-ignore
const plateId = randomUUID()
let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
  const { db } = server.context.database
  const source = sceneSource(
    SIZE,
    (frame) => ({
      background: (x, y, c) => 0.7 * wavesAt(2.5 * (x - 4 * (frame - 1001)), 2.5 * y, c, 3),
      isHidden: () => false,
    }),
    (frame, i) => (((frame * 7919 + i * 104_729) % 97) - 48) / 28,
  )
  const writer = await server.context.frames.createWriter(plateId)
  for (let frame = 1001; frame < 1001 + FRAMES; frame++) {
    const samples = await source.readRect(frame, { col: 0, row: 0, ...SIZE })
    const spoilt = { ...createSamples(SIZE.width, SIZE.height, 3, 8), data: samples.data.slice() }
    for (const [col, row] of BAD)
      spoilt.data.fill(255, (row * SIZE.width + col) * 3, (row * SIZE.width + col + 1) * 3)
    await writer.write(frame, spoilt)
  }
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
})
afterAll(() => server.close())

const load = () => loadSurvey(server.context.database.db, 's')
async function work(): Promise<void> {
  const pool = createNodePool(1)
  try {
    await surveyShot(server.context, pool, { shotId: 's' }, new AbortController().signal)
  } finally {
    pool.close()
  }
}

test('asked for twice it is one job; done, it has its finds, pictures of the whole clip, and says how long it took', async () => {
  const { db, pool } = server.context.database
  expect(await load()).toMatchObject({ state: 'none', about: null, finds: [] })
  expect(surveyFile({} as never, await load())).toBeNull()
  expect(await askForSurvey(db, 'no such shot')).toBe(false)
  expect(await askForSurvey(db, 's')).toBe(true)
  expect(await askForSurvey(db, 's')).toBe(true)
  expect((await pool.query("select 1 from graphile_worker.jobs where key = 'survey:s'")).rows).toHaveLength(1)
  expect(await readLook(server.context.folders.looks, plateId, 'mean')).toBeNull()
  await work()
  const status = await load()
  expect(status).toMatchObject({
    state: 'done',
    framesDone: FRAMES,
    error: null,
    about: { rest: 'moves', cuts: [], frames: FRAMES },
  })
  expect(status.finds.map(({ find }) => find.id).sort()).toEqual(['px-120-30', 'px-40-50'])
  const mean = await sharp((await readLook(server.context.folders.looks, plateId, 'mean'))!)
    .raw()
    .toBuffer({ resolveWithObject: true })
  expect(mean.info).toMatchObject({ ...SIZE, channels: 3 })
  expect([...mean.data.subarray((50 * 160 + 40) * 3, (50 * 160 + 40) * 3 + 3)]).toEqual([255, 255, 255])
})

test('what was dismissed stays dismissed in the next survey, and is left out of the file', async () => {
  const { db } = server.context.database
  await dismissFinds(db, 's', { ids: ['px-40-50'], isDismissed: true })
  await askForSurvey(db, 's')
  await work()
  const status = await load()
  expect(status.finds.map(({ find, isDismissed }) => [find.id, isDismissed])).toEqual([
    ['px-120-30', false],
    ['px-40-50', true],
  ])
  const file = surveyFile({ ...SIZE, firstFrame: 1001, frameCount: FRAMES } as never, status)
  expect(surveySchema.parse(file).finds).toHaveLength(1)
  await dismissFinds(db, 's', { ids: ['px-40-50'], isDismissed: false })
  expect((await load()).finds.every(({ isDismissed }) => !isDismissed)).toBe(true)
  expect(dismissalSchema.safeParse({ ids: [], isDismissed: true }).success).toBe(false)
})

test('a find that was dismissed and is not found for once is not forgotten', async () => {
  const { db } = server.context.database
  const [one, two] = (await load()).finds.map(({ find }) => find)
  await dismissFinds(db, 's', { ids: [two!.id], isDismissed: true })
  await keepFinds(db, 's', [one!])
  expect((await load()).finds.map(({ find }) => find.id)).toEqual([one!.id])
  await keepFinds(db, 's', [one!, two!])
  expect((await load()).finds.find(({ find }) => find.id === two!.id)).toMatchObject({ isDismissed: true })
  await dismissFinds(db, 's', { ids: [two!.id], isDismissed: false })
})

test('called off before it begins, nothing is looked at and the last finds stay; a failure says so', async () => {
  const { db } = server.context.database
  await askForSurvey(db, 's')
  await cancelSurvey(db, 's')
  await work()
  expect(await load()).toMatchObject({ state: 'cancelled', framesDone: 0, about: { frames: FRAMES } })
  expect((await load()).finds).toHaveLength(2)
  await failSurvey(server.context, 's', 'It failed.')
  expect(await load()).toMatchObject({ state: 'failed', error: 'It failed.' })
})
