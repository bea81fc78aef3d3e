import { randomUUID } from 'node:crypto'
import { mkdir, readdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { eq, sql } from 'drizzle-orm'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { imports, scenes } from '../../server/db/schema'
import { uploadFolder } from '../../server/imports.server'
import { giveUpLostJobs } from '../../server/jobs/giveUp.server'
import { startHeartbeat } from '../../server/jobs/heartbeat.server'
import { enqueue, MAX_ATTEMPTS } from '../../server/jobs/queue.server'
import { createSamples } from '../../core/image/samples'
import { startTestServer, type TestServer } from './testServer'

let server: TestServer
beforeAll(async () => void (server = await startTestServer()), 30_000)
afterAll(() => server.close())

test('an import whose worker has died five times fails in words and leaves nothing; one that may be tried again is left alone', async () => {
  const { context } = server
  const { db } = context.database
  const [lost, tried] = [randomUUID(), randomUUID()]
  const plan = { kind: 'video', file: { name: 'a.mov', sizeBytes: 3 }, firstFrame: 1001 } as const
  for (const id of [lost, tried]) {
    await db
      .insert(imports)
      .values({ id, productionId: OWN_PRODUCTION_ID, name: 'a', plan, state: 'decoding' })
    await enqueue(db, 'import_plate', { importId: id }, `import:${id}`)
  }
  await mkdir(uploadFolder(context, lost), { recursive: true })
  await writeFile(join(uploadFolder(context, lost), 'a.mov'), 'abc')
  // Begun by a worker that has died, and never finished.
  const writer = await context.frames.createWriter(randomUUID(), lost)
  await writer.write(1001, createSamples(4, 4, 3, 8))
  await db.execute(
    sql`update graphile_worker._private_jobs set attempts = case when key = ${`import:${lost}`} then ${MAX_ATTEMPTS}::smallint else ${MAX_ATTEMPTS - 1}::smallint end`,
  )

  await giveUpLostJobs(context)

  const stateOf = async (id: string) => (await db.select().from(imports).where(eq(imports.id, id)))[0]!
  expect(await stateOf(lost)).toMatchObject({
    state: 'failed',
    error: expect.stringMatching(/the worker ended 5 times/),
  })
  expect((await stateOf(tried)).state).toBe('decoding')
  expect(await readdir(context.folders.frames)).toEqual([])
  expect(await readdir(context.folders.uploads)).toEqual([])
  const left = await db.execute<{ key: string }>(sql`select key from graphile_worker.jobs`)
  expect(left.rows.map(({ key }) => key)).toEqual([`import:${tried}`])
  await giveUpLostJobs(context) // nothing is left to give up
  expect((await db.select().from(scenes)).length).toBe(0)
})

test('a worker that dies with a job in hand before its first sign of life loses it to others; one that beats keeps its own', async () => {
  const { db } = server.context.database
  const taken = async () => (await db.execute<{ key: string; locked_by: string | null }>(sql`select key, locked_by from graphile_worker.jobs where key like 'survey:%' order by key`)).rows // prettier-ignore
  for (const shotId of ['alive', 'unheard']) await enqueue(db, 'survey_plate', { shotId }, `survey:${shotId}`)
  await db.execute(sql`update graphile_worker._private_jobs set locked_by = substr(key, 8), locked_at = now() - interval '7 seconds' where key like 'survey:%'`) // prettier-ignore
  const stop = startHeartbeat(
    db,
    () => [{ workerId: 'alive', jobId: () => null }],
    () => Promise.resolve(),
  )
  try {
    for (const end = Date.now() + 20_000; (await taken())[1]!.locked_by !== null && Date.now() < end;)
      await new Promise((resolve) => setTimeout(resolve, 50))
    expect(await taken()).toEqual([
      { key: 'survey:alive', locked_by: 'alive' },
      { key: 'survey:unheard', locked_by: null },
    ])
  } finally {
    await stop()
  }
})

test('a job that a worker was given and does not know of is put back, with its queue; the one that it is at stays with it', async () => {
  const { db } = server.context.database
  const [queue, other] = ['heard', 'unheard'] as const
  await enqueue(db, 'prove', { proofId: randomUUID() }, 'prove:known', { queue })
  await enqueue(db, 'prove', { proofId: randomUUID() }, 'prove:unknown', { queue: other })
  await enqueue(db, 'prove', { proofId: randomUUID() }, 'prove:young')
  await db.execute(sql`update graphile_worker._private_jobs set locked_by = 'hand', locked_at = now() - make_interval(secs => case when key = 'prove:young' then 0 else 11 end) where key like 'prove:%'`) // prettier-ignore
  await db.execute(sql`update graphile_worker._private_job_queues set locked_by = 'hand', locked_at = now()`)
  const taken = async () => (await db.execute<{ id: string; key: string; locked_by: string | null }>(sql`select id::text, key, locked_by from graphile_worker.jobs where key like 'prove:%' order by key`)).rows // prettier-ignore
  const known = (await taken())[0]!.id
  const stop = startHeartbeat(db, () => [{ workerId: 'hand', jobId: () => known }], () => Promise.resolve()) // prettier-ignore
  try {
    for (const end = Date.now() + 20_000; (await taken())[1]!.locked_by !== null && Date.now() < end;)
      await new Promise((resolve) => setTimeout(resolve, 50))
  } finally {
    await stop()
  }
  expect((await taken()).map(({ key, locked_by }) => [key, locked_by])).toEqual([
    ['prove:known', 'hand'],
    ['prove:unknown', null],
    ['prove:young', 'hand'],
  ])
  const queues = await db.execute(sql`select queue_name, locked_by from graphile_worker._private_job_queues order by queue_name`) // prettier-ignore
  expect(queues.rows).toEqual([
    { queue_name: queue, locked_by: 'hand' },
    { queue_name: other, locked_by: null },
  ])
})
