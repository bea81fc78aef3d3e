import { readFileSync, statSync, writeFileSync } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import {
  cancelImport,
  finishUpload,
  listOpenImports,
  openImport,
  receiveFile,
  takeDamaged,
} from '../../server/imports.server'
import { importPlate } from '../../server/jobs/importPlate.server'
import { listShots } from '../../server/shots.server'
import { ffmpeg } from '../media'
import { startTestServer, type TestServer } from './testServer'

let server: TestServer
let folder: string
beforeAll(async () => {
  server = await startTestServer()
  folder = await mkdtemp(join(tmpdir(), 'fillagrant-damaged-'))
}, 30_000)
afterAll(async () => {
  await server.close()
  await rm(folder, { recursive: true })
})

async function upload(name: string): Promise<string> {
  const path = join(folder, name)
  const { id } = await openImport(server.context, OWN_PRODUCTION_ID, {
    files: [{ name, sizeBytes: statSync(path).size }],
    frameRate: { num: 24, den: 1 },
  })
  await receiveFile(server.context, id, 0, Readable.toWeb(Readable.from(readFileSync(path))))
  await finishUpload(server.context, id)
  await importPlate(server.context, { importId: id }, new AbortController().signal)
  return id
}

test('damaged footage waits for the user’s word: taken in, its frames are marked; or dismissed, nothing is left', async () => {
  const path = join(folder, 'street.mkv')
  ffmpeg('-f', 'lavfi', '-i', 'testsrc2=size=160x120:rate=24', '-frames:v', '12', '-c:v', 'ffv1', '-level', '3', '-g', '1', '-slicecrc', '1', path) // prettier-ignore
  const bytes = readFileSync(path)
  bytes[Math.floor((bytes.length * 3.5) / 12)]! ^= 0x55
  writeFileSync(path, bytes)

  const id = await upload('street.mkv')
  const [waiting] = await listOpenImports(server.context)
  expect(waiting).toMatchObject({ id, state: 'damaged', error: expect.stringMatching(/street\.mkv is damaged in 1 of its 12 frames: number [45]\./) }) // prettier-ignore
  expect(await listShots(server.context.database.db)).toEqual([])

  await takeDamaged(server.context, id)
  await importPlate(server.context, { importId: id }, new AbortController().signal)
  const [taken] = await listShots(server.context.database.db)
  expect(taken!.plate.frameCount).toBe(12)
  expect(taken!.plate.damagedFrames).toEqual([expect.any(Number)])
  expect([1004, 1005]).toContain(taken!.plate.damagedFrames[0])
  await expect(takeDamaged(server.context, id)).rejects.toThrow('This import is done already.')

  const second = await upload('street.mkv')
  await cancelImport(server.context, second)
  expect(await listOpenImports(server.context)).toEqual([])
})
