/** The whole way through the queue, with real worker processes, one of which is killed. */
import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { readdir, readFile, rm, writeFile, mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import sharp from 'sharp'
import { samplePath, sampleRecord } from '../fixtures/sampleMend'
import { mendSamples, sourceOfSamples } from '../fixtures/sampleSource'
import type { Samples } from '../../core/image/samples'
import { imports, renderChunks, shots, versions } from '../../server/db/schema'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import {
  cancelImport,
  finishUpload,
  ImportError,
  listOpenImports,
  openImport,
  receiveFile,
} from '../../server/imports.server'
import { decodeFrames } from '../../server/media/decode.server'
import { probeMedia } from '../../server/media/probe.server'
import { findShot } from '../../server/shots.server'
import { saveEdit } from '../../server/saveEdit.server'
import { cancelVersion, findVersion, makeVersion, versionFolder } from '../../server/versions.server'
import { patternFrame, writePngSequence } from '../media'
import { unzip } from '../unzip'
import { buildPrograms } from '../builtPrograms'
import { startTestServer, type TestServer } from './testServer'

jest.setTimeout(120_000)

let server: TestServer
let programs: ReturnType<typeof buildPrograms>
const workers = new Set<ChildProcess>()
beforeAll(async () => {
  programs = buildPrograms()
  server = await startTestServer()
})
afterEach(async () => {
  for (const worker of workers) await stop(worker, 'SIGKILL')
})
afterAll(async () => {
  await server.close()
  programs.remove()
})

function startWorker(): ChildProcess {
  const env = {
    ...process.env,
    DATABASE_URL: server.databaseUrl,
    FILLAGRANT_DATA: server.dataDir,
    FILLAGRANT_LOG: 'silent',
    NO_LOG_SUCCESS: '1',
  }
  const worker = spawn(process.execPath, [programs.path('worker')], { env, stdio: 'ignore' })
  workers.add(worker)
  return worker
}

async function stop(worker: ChildProcess, signal: 'SIGKILL' | 'SIGTERM'): Promise<void> {
  workers.delete(worker)
  if (worker.exitCode !== null || worker.signalCode !== null) return
  const ended = new Promise((resolve) => worker.once('exit', resolve))
  worker.kill(signal)
  await ended
}

async function until<T>(look: () => Promise<T | null | undefined | false>, timeoutMs = 60_000): Promise<T> {
  const end = Date.now() + timeoutMs
  for (;;) {
    const found = await look()
    if (found) return found
    if (Date.now() > end) throw new Error('it did not happen in time')
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
}

/** Sends files as a browser would and returns the import's id. */
async function send(files: { name: string; bytes: Buffer }[]): Promise<string> {
  const drop = {
    files: files.map(({ name, bytes }) => ({ name, sizeBytes: bytes.length })),
    frameRate: { num: 24, den: 1 },
  }
  const { id } = await openImport(server.context, OWN_PRODUCTION_ID, drop)
  for (const [index, { bytes }] of files.entries())
    await receiveFile(server.context, id, index, new Blob([new Uint8Array(bytes)]).stream() as never)
  await finishUpload(server.context, id)
  return id
}

const importRow = async (id: string) =>
  (await server.context.database.db.select().from(imports).where(eq(imports.id, id)))[0]!

async function bringIn(frames: Samples[]): Promise<string> {
  const folder = join(server.dataDir, randomUUID())
  await writePngSequence(folder, frames)
  const names = (await readdir(folder)).sort()
  const id = await send(
    await Promise.all(names.map(async (name) => ({ name, bytes: await readFile(join(folder, name)) }))),
  )
  const row = await until(
    async () => ['done', 'failed'].includes((await importRow(id)).state) && (await importRow(id)),
  )
  expect(row).toMatchObject({ state: 'done', error: null })
  return row.shotId!
}

const record = sampleRecord({
  areas: [
    samplePath({
      keys: [
        {
          frame: 1001,
          points: [
            { x: 30, y: -5, widthPx: 6 },
            { x: 60, y: 70, widthPx: 6 },
          ],
        },
      ],
    }),
  ],
})

async function mendAndRender(
  shotId: string,
  format: 'png' | 'ffv1' | 'vp9',
  lastFrame: number,
): Promise<string> {
  const { db } = server.context.database
  const [shot] = await db.select().from(shots).where(eq(shots.id, shotId))
  await saveEdit(db, shotId, {
    editId: randomUUID(),
    baseRevision: shot!.revision,
    role: 'do',
    targetId: null,
    edit: {
      label: 'x',
      changes: [{ id: record.id, before: shot!.revision ? record : null, after: record }],
      tracks: [],
    },
  })
  const made = await makeVersion(server.context, shotId, { format, firstFrame: 1001, lastFrame })
  if (!made.ok) throw new Error(made.message)
  return made.versionId
}

async function finished(versionId: string): Promise<Buffer> {
  const version = await until(async () => {
    const row = await findVersion(server.context, versionId)
    return row && ['done', 'failed'].includes(row.state) && row
  })
  expect(version).toMatchObject({ state: 'done', error: null })
  return readFile(join(versionFolder(server.context, versionId), version.fileName!))
}

/** What a frame must be: the evaluator on its own, nothing else in between. */
function expected(plates: readonly Samples[], frame: number): Promise<Samples> {
  const { stackIndex: _order, ...mend } = record
  const range = { firstFrame: 1001, lastFrame: 1000 + plates.length }
  return mendSamples(
    sourceOfSamples((at) => plates[at - 1001]!),
    [mend],
    frame,
    undefined,
    range,
  ).then(({ finished: whole }) => whole)
}

test.each([
  [3, 8],
  [3, 16],
] as const)(
  'import, mend, render: PNG and FFV1 frames are the evaluator’s, bit for bit (%i channels, %i bits)',
  async (channels, bitDepth) => {
    const worker = startWorker()
    const plates = Array.from({ length: 5 }, (_, i) => patternFrame(96, 64, channels, bitDepth, i))
    const shotId = await bringIn(plates)
    const wanted = await Promise.all(plates.map((_, i) => expected(plates, 1001 + i)))
    expect(wanted[0]!.data).not.toEqual(plates[0]!.data)

    const zip = await unzip(await finished(await mendAndRender(shotId, 'png', 1005)))
    expect([...zip.keys()].map((name) => name.split('/')[1])).toEqual(
      [1001, 1002, 1003, 1004, 1005].map((frame) => `shot_v001.${frame}.png`),
    )
    for (const [i, bytes] of [...zip.values()].entries()) {
      const raw = await sharp(bytes)
        .toColourspace(bitDepth === 16 ? 'rgb16' : 'srgb')
        .raw({ depth: bitDepth === 16 ? 'ushort' : 'uchar' })
        .toBuffer()
      expect(raw.equals(Buffer.from(wanted[i]!.data.buffer))).toBe(true)
    }

    const mkv = join(server.dataDir, `${randomUUID()}.mkv`)
    await writeFile(mkv, await finished(await mendAndRender(shotId, 'ffv1', 1005)))
    const input = { kind: 'video', path: mkv, shownName: 'v002' } as const
    const shape = await probeMedia(input)
    expect(shape).toMatchObject({ frameRate: { num: 24, den: 1 }, bitDepth })
    let i = 0
    for await (const frame of decodeFrames(input, shape)) expect(frame.data).toEqual(wanted[i++]!.data)
    expect(i).toBe(5)
    await stop(worker, 'SIGTERM')
  },
)

test('a worker killed in the middle of a render: another finishes, every frame once, none torn', async () => {
  const first = startWorker()
  const plates = Array.from({ length: 70 }, (_, i) => patternFrame(640, 360, 3, 8, i))
  const shotId = await bringIn(plates)
  const versionId = await mendAndRender(shotId, 'png', 1070)
  const { db } = server.context.database
  await until(async () =>
    (await db.select().from(renderChunks).where(eq(renderChunks.versionId, versionId))).some(
      (chunk) => chunk.framesDone > 2 && !chunk.isDone,
    ),
  )
  await stop(first, 'SIGKILL')
  const atKill = await findVersion(server.context, versionId)
  expect(atKill!.state).toBe('rendering')

  startWorker()
  const zip = await unzip(await finished(versionId))
  expect([...zip.keys()]).toHaveLength(70)
  for (const [i, bytes] of [...zip.values()].entries()) {
    const raw = await sharp(bytes).raw().toBuffer()
    expect(raw.equals(Buffer.from((await expected(plates, 1001 + i)).data.buffer))).toBe(true)
  }
  const chunks = await db.select().from(renderChunks).where(eq(renderChunks.versionId, versionId))
  expect(chunks.some((chunk) => chunk.attempts > 1)).toBe(true)
  expect(await readdir(versionFolder(server.context, versionId))).toEqual(['shot_v001.zip'])
})

test('VP9 is made, a version can be cancelled, and a range outside the shot is refused', async () => {
  startWorker()
  const shotId = await bringIn(Array.from({ length: 40 }, (_, i) => patternFrame(320, 180, 3, 8, i)))
  const webm = join(server.dataDir, `${randomUUID()}.webm`)
  await writeFile(webm, await finished(await mendAndRender(shotId, 'vp9', 1020)))
  const input = { kind: 'video', path: webm, shownName: 'webm' } as const
  const shape = await probeMedia(input)
  let count = 0
  for await (const _ of decodeFrames(input, { ...shape, expectedFrames: { count: 20, isExact: true } }))
    count++
  expect(count).toBe(20)
  // Chunks follow one another at the shot's own rate: no two frames at one time, none a frame late.
  const times = execFileSync('ffprobe', ['-v', 'error', '-show_entries', 'packet=pts_time', '-of', 'csv=p=0', webm]).toString().trim().split('\n').map(Number) // prettier-ignore
  expect(times.every((time, i) => Math.abs(time - i / 24) < 0.002)).toBe(true)

  const cancelled = await mendAndRender(shotId, 'png', 1040)
  await cancelVersion(server.context, cancelled)
  await new Promise((resolve) => setTimeout(resolve, 1500))
  expect((await findVersion(server.context, cancelled))!.state).toBe('cancelled')
  expect(await readdir(versionFolder(server.context, cancelled)).catch(() => [])).toEqual([])
  expect(
    await makeVersion(server.context, shotId, { format: 'png', firstFrame: 900, lastFrame: 1001 }),
  ).toMatchObject({
    ok: false,
    field: 'firstFrame',
  })
})

test('footage that is refused leaves a message and nothing else', async () => {
  startWorker()
  const { db } = server.context.database
  const before = (await db.select().from(shots)).length
  const id = await send([
    { name: 'notes.mp4', bytes: Buffer.from('this is a letter, not a film '.repeat(90)) },
  ])
  const row = await until(async () => (await importRow(id)).state === 'failed' && (await importRow(id)))
  expect(row.error).toMatch(/notes\.mp4 holds no picture that can be read/)
  expect(await db.select().from(shots)).toHaveLength(before)
  // The message comes first, so that it is never lost; then what was uploaded goes.
  const left = () => readdir(join(server.dataDir, 'uploads', id)).catch(() => [])
  await until(async () => (await left()).length === 0)
  expect((await readdir(join(server.dataDir, 'frames'))).filter((name) => name.includes('partial'))).toEqual(
    [],
  )
  expect((await listOpenImports(server.context)).map((one) => one.id)).toContain(id)
  await cancelImport(server.context, id)
  expect((await listOpenImports(server.context)).map((one) => one.id)).not.toContain(id)
})

test('uploads keep to what was announced', async () => {
  const drop = { files: [{ name: 'a.mkv', sizeBytes: 4 }], frameRate: { num: 24, den: 1 } }
  const { id } = await openImport(server.context, OWN_PRODUCTION_ID, drop)
  const body = (text: string) => new Blob([text]).stream() as never
  await expect(receiveFile(server.context, id, 0, body('too long'))).rejects.toThrow('larger than announced')
  await expect(receiveFile(server.context, id, 0, body('ab'))).rejects.toThrow('broke off after 2 of 4 bytes')
  await expect(receiveFile(server.context, id, 1, body('abcd'))).rejects.toThrow(ImportError)
  await expect(finishUpload(server.context, id)).rejects.toThrow('a.mkv has not arrived yet')
  await receiveFile(server.context, id, 0, body('abcd'))
  await receiveFile(server.context, id, 0, body('abcd')) // again: harmless
  expect(await readdir(join(server.dataDir, 'uploads', id))).toEqual(['plate.mkv'])
  await mkdir(join(server.dataDir, 'uploads'), { recursive: true })
  await rm(join(server.dataDir, 'uploads', id), { recursive: true })
  expect(await findShot(server.context.database.db, 'nowhere')).toBeNull()
  expect(
    (await server.context.database.db.select().from(versions)).every((version) => version.shotId !== id),
  ).toBe(true)
})
