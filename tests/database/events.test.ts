import { startTestServer, type TestServer } from './testServer'

let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
  process.env['DATABASE_URL'] = server.databaseUrl
}, 30_000)
afterAll(() => server.close())

test('news reach whoever listens, also from a transaction, and only once it is committed', async () => {
  // Read after the address is set: the listener takes it from the environment.
  const { announce, subscribe } = await import('../../server/events.server')
  const { db } = server.context.database
  const heard: string[] = []
  const stop = subscribe({
    onNews: (news) => heard.push(`${news.kind} ${news.id}`),
    onDatabase: (isThere) => expect(isThere).toBe(true),
  })
  const until = async (count: number) => {
    for (let i = 0; i < 200 && heard.length < count; i++)
      await new Promise((resolve) => setTimeout(resolve, 25))
  }
  // The listener connects by itself; news from before that are not heard.
  for (let i = 0; i < 200 && heard.length === 0; i++) {
    await announce(db, { kind: 'shot', id: 'hello' })
    await until(1)
  }
  heard.length = 0
  await db.transaction(async (tx) => {
    await announce(tx, { kind: 'version', id: 'kept' })
    await new Promise((resolve) => setTimeout(resolve, 100))
    expect(heard).toEqual([])
  })
  await until(1)
  await db
    .transaction(async (tx) => {
      await announce(tx, { kind: 'version', id: 'taken back' })
      throw new Error('stop')
    })
    .catch(() => undefined)
  await announce(db, { kind: 'import', id: 'last' })
  await until(2)
  expect(heard).toEqual(['version kept', 'import last'])
  stop()
}, 30_000)
