/** Joining rendered chunks: what cannot be read, and what is called off meanwhile. */
import { randomUUID } from 'node:crypto'
import { existsSync } from 'node:fs'
import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { plates, renderChunks, shots, versions } from '../../server/db/schema'
import { assembleVersion } from '../../server/jobs/assembleVersion.server'
import {
  cancelVersion,
  chunkName,
  findVersion,
  stateOfVersion,
  versionFolder,
} from '../../server/versions.server'
import { startTestServer, type TestServer } from './testServer'

let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
  const { db } = server.context.database
  await db.insert(shots).values({ id: 's', productionId: OWN_PRODUCTION_ID, name: 's' })
  const shape = {
    width: 4,
    height: 4,
    channels: 3,
    bitDepth: 8,
    rateNum: 24,
    rateDen: 1,
    firstFrame: 1001,
    frameCount: 3,
  }
  await db.insert(plates).values({ id: randomUUID(), shotId: 's', sourceName: 'made', ...shape })
})
afterAll(() => server.close())

const goesOn = new AbortController().signal
let number = 0

/** A version whose only chunk holds pictures of so many bytes. */
async function rendered(bytesEach: number): Promise<{ id: string; chunk: string }> {
  const { db } = server.context.database
  const id = randomUUID()
  const document = { format: 'fillagrant-mends', version: 4, mends: [], tracks: [] } as never
  const range = { firstFrame: 1001, lastFrame: 1003 }
  await db
    .insert(versions)
    .values({ id, shotId: 's', number: ++number, format: 'png', ...range, document, state: 'assembling' })
  await db.insert(renderChunks).values({ versionId: id, index: 0, ...range, isDone: true })
  const chunk = join(versionFolder(server.context, id), chunkName(0))
  await mkdir(chunk, { recursive: true })
  for (const frame of [1001, 1002, 1003])
    await writeFile(join(chunk, `${frame}.png`), Buffer.alloc(bytesEach, frame))
  return { id, chunk }
}

test('pictures go into one archive, and the version is done', async () => {
  const { id } = await rendered(100)
  await assembleVersion(server.context, { versionId: id }, goesOn)
  expect(await findVersion(server.context, id)).toMatchObject({
    state: 'done',
    fileName: `s_v00${number}.zip`,
  })
})

test('a picture that cannot be read fails the job in words, and ends no process', async () => {
  const { id, chunk } = await rendered(100)
  await mkdir(join(chunk, '1004.png'))
  await expect(assembleVersion(server.context, { versionId: id }, goesOn)).rejects.toThrow(
    /rendered picture could not be read again \(.*\)/,
  )
  expect(await stateOfVersion(server.context.database.db, id)).toBe('assembling')
})

test('called off while it is assembled, it is gone, and the job has not failed', async () => {
  const { id } = await rendered(48 << 20)
  const work = assembleVersion(server.context, { versionId: id }, goesOn)
  await cancelVersion(server.context, id)
  await expect(work).resolves.toBeUndefined()
  expect(await findVersion(server.context, id)).toMatchObject({ state: 'cancelled', fileName: null })
  expect(existsSync(join(versionFolder(server.context, id), `s_v00${number}.zip`))).toBe(false)
})
