/** Housekeeping as the server does it: the bin, the doctor on planted faults, a backup brought back elsewhere. */
import { randomUUID } from 'node:crypto'
import { existsSync } from 'node:fs'
import { mkdir, mkdtemp, readdir, readFile, rm, truncate, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { eq, sql } from 'drizzle-orm'
import { createSamples } from '../../core/image/samples'
import { contextOf } from '../../server/context.server'
import { openDatabase } from '../../server/db/client.server'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import {
  cameras,
  edits,
  imports,
  productions,
  recipes,
  reviews,
  shots,
  versions,
} from '../../server/db/schema'
import { emptyBesideBin, listBeside } from '../../server/house/beside.server'
import { restoreBackup, takeBackup } from '../../server/house/backup.server'
import { examine } from '../../server/house/doctor.server'
import { expireImports } from '../../server/house/expire.server'
import { emptyBin, keepHouse, listBin, listHouse } from '../../server/house/house.server'
import { BIN_DAYS, houseOrderSchema } from '../../core/jobs/houseOrders'
import { recipeOf } from '../../core/document/recipes'
import { addShot } from '../../server/jobs/storePlate.server'
import { saveEdit } from '../../server/saveEdit.server'
import { findShot, listProductions, listShots } from '../../server/shots.server'
import { sampleMend } from '../fixtures/sampleMend'
import { startTestServer, type TestServer } from './testServer'

let server: TestServer
beforeAll(async () => void (server = await startTestServer()), 30_000)
afterAll(() => server.close())
const db = () => server.context.database.db
const FRAMES = 4

/** A shot with its frames in the store. */
async function makeShot(name: string, { context } = server): Promise<{ shotId: string; plateId: string }> {
  const plateId = randomUUID()
  const writer = await context.frames.createWriter(plateId)
  for (let frame = 1001; frame < 1001 + FRAMES; frame++) {
    const samples = createSamples(8, 6, 3, 8)
    samples.data.forEach((_, i) => (samples.data[i] = (i * frame) % 251))
    await writer.write(frame, samples)
  }
  await writer.commit()
  const shape = {
    width: 8,
    height: 6,
    channels: 3,
    bitDepth: 8,
    frameRate: { num: 24, den: 1 },
    sphere: null,
  } as const
  const shotId = await context.database.db.transaction(
    (tx) =>
    addShot(tx, plateId, { productionId: OWN_PRODUCTION_ID, name, title: '', sourceName: `${name}.mov`, firstFrame: 1001, frameCount: FRAMES, ...shape }), // prettier-ignore
  )
  return { shotId, plateId }
}

async function makeVersion(
  shotId: string,
  number: number,
  content: string,
): Promise<{ id: string; folder: string }> {
  const id = randomUUID()
  const folder = join(server.context.folders.versions, id)
  await mkdir(folder, { recursive: true })
  await writeFile(join(folder, 'a.zip'), content)
  await db()
    .insert(versions)
    .values({ id, shotId, number, format: 'png', firstFrame: 1001, lastFrame: 1004, document: {} as never, state: 'done', fileName: 'a.zip', sizeBytes: content.length }) // prettier-ignore
  return { id, folder }
}

const keep = (order: unknown) => keepHouse(server.context, houseOrderSchema.parse(order))
const shownNames = async () => (await listShots(db())).map(({ shot }) => shot.name)

test('shots are renamed, moved, put in the bin and put back; productions made, renamed, archived, deleted, put back', async () => {
  const [a, b] = [await makeShot('AA_1'), await makeShot('BB_2')]
  expect(await keep({ intent: 'rename-shot', shotId: a.shotId, name: ' The lamp ', title: 'by night' })).toMatchObject({ ok: true }) // prettier-ignore
  expect(await shownNames()).toEqual(['The lamp', 'BB_2'])
  expect(() => houseOrderSchema.parse({ intent: 'rename-shot', shotId: 'x', name: ' ', title: '' })).toThrow(
    'A name is needed',
  )

  expect(await keep({ intent: 'make-production', name: 'Second' })).toMatchObject({ ok: true })
  const second = (await listHouse(server.context)).find(({ name }) => name === 'Second')!
  expect(await keep({ intent: 'move-shots', shotIds: [b.shotId], productionId: second.id })).toEqual({ ok: true, message: '1 shot moved to Second.' }) // prettier-ignore
  expect((await listHouse(server.context)).map(({ name, shots: count }) => [name, count])).toEqual([['My production', 1], ['Second', 1], ['The Lamplighter’s Moth', 0]]) // prettier-ignore
  await keep({ intent: 'rename-production', productionId: second.id, name: 'The second' })
  await keep({ intent: 'archive-production', productionId: second.id, isArchived: true })
  expect(await shownNames()).toEqual(['The lamp'])
  expect((await listProductions(db())).map(({ name }) => name)).not.toContain('The second')
  expect(await keep({ intent: 'move-shots', shotIds: [a.shotId], productionId: second.id })).toMatchObject({
    ok: false,
  })
  await keep({ intent: 'archive-production', productionId: second.id, isArchived: false })
  await keep({ intent: 'delete-production', productionId: second.id })
  expect([await shownNames(), await findShot(db(), b.shotId)]).toEqual([['The lamp'], null])
  await keep({ intent: 'put-back-production', productionId: second.id })
  expect(await shownNames()).toEqual(['The lamp', 'BB_2'])
  expect(await keep({ intent: 'delete-production', productionId: OWN_PRODUCTION_ID })).toMatchObject({
    ok: false,
  })

  expect(await keep({ intent: 'delete-shots', shotIds: [a.shotId] })).toEqual({ ok: true, message: 'The lamp in the bin for 30 days.' }) // prettier-ignore
  expect(await keep({ intent: 'delete-shots', shotIds: [a.shotId] })).toMatchObject({ ok: false })
  expect((await listBin(server.context)).shots.map(({ name }) => name)).toEqual(['The lamp'])
  expect(await findShot(db(), a.shotId)).toBeNull()
  await keep({ intent: 'put-back-shots', shotIds: [a.shotId] })
  expect(await shownNames()).toEqual(['The lamp', 'BB_2'])
})

test('after thirty days, or when told to, what is in the bin is gone with its files; what is not stays', async () => {
  const [gone, young, kept] = [await makeShot('gone'), await makeShot('young'), await makeShot('kept')]
  const version = await makeVersion(gone.shotId, 1, 'abc')
  await keep({ intent: 'delete-shots', shotIds: [gone.shotId, young.shotId] })
  await db()
    .update(shots)
    .set({ deletedAt: sql`now() - interval '31 days'` })
    .where(eq(shots.id, gone.shotId))
  expect(await emptyBin(server.context)).toBe(1)
  const frames = await readdir(server.context.folders.frames)
  expect([frames.includes(gone.plateId), frames.includes(young.plateId), existsSync(version.folder)]).toEqual([false, true, false]) // prettier-ignore
  expect(await keep({ intent: 'put-back-shots', shotIds: [gone.shotId] })).toMatchObject({ ok: false })
  expect(await keep({ intent: 'empty-bin' })).toEqual({ ok: true, message: '1 shot deleted for good.' })
  // A production that is empty goes too; one that still holds a shot would not.
  await keep({ intent: 'make-production', name: 'Emptied' })
  const emptied = (await listHouse(server.context)).find(({ name }) => name === 'Emptied')!
  const last = await makeShot('last')
  await keep({ intent: 'move-shots', shotIds: [last.shotId], productionId: emptied.id })
  await keep({ intent: 'delete-production', productionId: emptied.id })
  expect(await keep({ intent: 'empty-bin' })).toEqual({ ok: true, message: '1 shot deleted for good.' })
  expect(await keep({ intent: 'put-back-production', productionId: emptied.id })).toMatchObject({ ok: false })
  // One that a camera belongs to stays, and can still be put back.
  await keep({ intent: 'make-production', name: 'Holding' })
  const holding = (await listHouse(server.context)).find(({ name }) => name === 'Holding')!
  await db().insert(cameras).values({ id: randomUUID(), productionId: holding.id, name: 'A', sensorWidth: 8, sensorHeight: 6 }) // prettier-ignore
  await keep({ intent: 'delete-production', productionId: holding.id })
  expect(await keep({ intent: 'empty-bin' })).toMatchObject({ ok: true })
  expect(await keep({ intent: 'put-back-production', productionId: holding.id })).toMatchObject({ ok: true })
  expect(await readdir(server.context.folders.frames)).toContain(kept.plateId)
  expect((await shownNames()).includes('kept')).toBe(true)
})

test('a version goes with its file, but not while it is approved', async () => {
  const { shotId } = await makeShot('versions')
  const { id, folder } = await makeVersion(shotId, 1, 'abc')
  await db().insert(reviews).values({ id: randomUUID(), versionId: id, state: 'approved', author: 'Anna' })
  expect(await keep({ intent: 'delete-version', versionId: id })).toMatchObject({ ok: false, message: expect.stringContaining('send it back first') }) // prettier-ignore
  expect(existsSync(folder)).toBe(true)
  await db().delete(reviews)
  expect(await keep({ intent: 'delete-version', versionId: id })).toMatchObject({ ok: true })
  expect(existsSync(folder)).toBe(false)
})

test('stills, mattes and marks that no mend uses go into the bin and come back; those that are used stay', async () => {
  const { shotId } = await makeShot('beside')
  const { folders } = server.context
  const [still, matte, mark] = [randomUUID(), randomUUID(), randomUUID()]
  const writer = await server.context.frames.createWriter(still)
  await writer.write(0, createSamples(8, 6, 3, 8))
  await writer.commit()
  await mkdir(join(folders.mattes, matte), { recursive: true })
  await writeFile(join(folders.mattes, matte, '0001001.pgm'), 'a matte')
  await mkdir(folders.marks, { recursive: true })
  await writeFile(join(folders.marks, `${mark}.png`), 'a mark')
  const area = { shape: 'matte' as const, id: 'm', role: 'cover' as const, interpolation: 'smooth' as const, follow: null, pattern: `matte:${matte}`, keys: [] } // prettier-ignore
  const mend = { ...sampleMend({ id: 'uses-a-matte', areas: [area] }), stackIndex: 0 }
  const edit = (before: typeof mend | null, after: typeof mend | null, baseRevision: number) => saveEdit(db(), shotId, { editId: randomUUID(), baseRevision, role: 'do', targetId: null, edit: { label: 'Matte', changes: [{ id: mend.id, before, after }], tracks: [] } }) // prettier-ignore
  expect(await edit(null, mend, 0)).toMatchObject({ ok: true })
  const listedNow = async () => (await listBeside(server.context)).kept.map(({ kind, id, usedBy }) => [kind, id, usedBy.length]) // prettier-ignore
  expect(await listedNow()).toEqual(expect.arrayContaining([['still', still, 0], ['matte', matte, 1], ['mark', mark, 0]])) // prettier-ignore
  const [recipe] = await db().insert(recipes).values({ id: randomUUID(), productionId: OWN_PRODUCTION_ID, name: 'Bug', recipe: { ...recipeOf(mend, 'Bug'), fill: { ...mend.fill, params: { mark: `mark:${mark}` } } } }).returning() // prettier-ignore
  const order = (intent: 'delete-beside' | 'put-back-beside', kind: 'still' | 'matte' | 'mark', id: string) => keepHouse(server.context, { intent, kind, id }) // prettier-ignore

  expect(await order('delete-beside', 'matte', matte)).toEqual({ ok: false, message: 'It is used by beside: take it out there first. Nothing was changed.' }) // prettier-ignore
  expect(await order('delete-beside', 'mark', mark)).toEqual({ ok: false, message: 'It is used by recipe Bug: take it out there first. Nothing was changed.' }) // prettier-ignore
  await db().delete(recipes).where(eq(recipes.id, recipe!.id))
  expect(await edit(mend, null, 1)).toMatchObject({ ok: true })
  for (const [kind, id] of [['still', still], ['matte', matte], ['mark', mark]] as const) expect(await order('delete-beside', kind, id)).toMatchObject({ ok: true }) // prettier-ignore
  expect((await listBeside(server.context)).inBin.map(({ id }) => id).sort()).toEqual([still, matte, mark].sort()) // prettier-ignore
  expect(existsSync(join(folders.mattes, matte))).toBe(false)
  expect(await order('put-back-beside', 'matte', matte)).toEqual({ ok: true, message: 'Matte put back.' })
  expect(await readFile(join(folders.mattes, matte, '0001001.pgm'), 'utf8')).toBe('a matte')

  expect(await emptyBesideBin(server.context, BIN_DAYS, Date.now() + (BIN_DAYS - 1) * 86_400_000)).toBe(0)
  expect(await emptyBesideBin(server.context, BIN_DAYS, Date.now() + (BIN_DAYS + 1) * 86_400_000)).toBe(2)
  expect(await order('put-back-beside', 'mark', mark)).toEqual({ ok: false, message: 'This mark is gone for good. Nothing was changed.' }) // prettier-ignore
  expect(await readFile(join(folders.mattes, matte, '0001001.pgm'), 'utf8')).toBe('a matte')
  await rm(join(folders.mattes, matte), { recursive: true })
})

test('an upload that was broken off is given up after two days, in words, and leaves nothing', async () => {
  const plan = { kind: 'video', file: { name: 'a.mov', sizeBytes: 3 }, firstFrame: 1001 } as const
  const [old, young] = [randomUUID(), randomUUID()]
  for (const id of [old, young]) {
    await db()
      .insert(imports)
      .values({ id, productionId: OWN_PRODUCTION_ID, name: 'a', plan, state: 'uploading' })
    await mkdir(join(server.context.folders.uploads, id), { recursive: true })
  }
  await db()
    .update(imports)
    .set({ createdAt: sql`now() - interval '3 days'` })
    .where(eq(imports.id, old))
  await expireImports(server.context)
  expect(await readdir(server.context.folders.uploads)).toEqual([young])
  expect((await db().select().from(imports).where(eq(imports.id, old)))[0]).toMatchObject({ state: 'failed', error: expect.stringContaining('broken off') }) // prettier-ignore
  await db().delete(imports)
  await rm(server.context.folders.uploads, { recursive: true })
})

test('twenty planted faults: all are found, each mended as it says, and nothing else is touched', async () => {
  const { folders } = server.context
  const later = Date.now() + 120_000 // what is a minute old is not being written
  expect(await examine(server.context, later)).toEqual([])
  const [one, other] = [await makeShot('sound'), await makeShot('harmed')]
  const put = async (path: string) => {
    await mkdir(join(path, '..'), { recursive: true })
    await writeFile(path, 'x')
  }
  const [sound, missing, cut, leftover] = [await makeVersion(one.shotId, 1, 'abc'), await makeVersion(one.shotId, 2, 'abc'), await makeVersion(one.shotId, 3, 'abc'), await makeVersion(one.shotId, 4, 'abc')] // prettier-ignore
  const failed = await makeVersion(one.shotId, 5, 'abc')
  await db().update(versions).set({ state: 'failed', fileName: null }).where(eq(versions.id, failed.id))
  const plan = { kind: 'video', file: { name: 'a.mov', sizeBytes: 3 }, firstFrame: 1001 } as const
  const stuck = [randomUUID(), randomUUID()]
  for (const [i, id] of stuck.entries()) await db().insert(imports).values({ id, productionId: OWN_PRODUCTION_ID, name: `stuck ${i}`, plan, state: 'decoding' }) // prettier-ignore
  const plant: readonly (() => Promise<unknown>)[] = [
    () => rm(join(folders.frames, other.plateId, '0001002.pam')),
    () => rm(join(folders.frames, other.plateId, '0001003.pam')),
    () => truncate(join(folders.frames, other.plateId, '0001004.pam'), 20),
    () => put(join(folders.frames, randomUUID(), '0001001.pam')),
    () => put(join(folders.frames, 'not-ours', 'a')),
    () => put(join(folders.frames, `${randomUUID()}.${randomUUID()}.partial`, '0001001.pam')),
    () => put(join(folders.frames, `${randomUUID()}.partial`, '0001001.pam')),
    () => rm(join(missing.folder, 'a.zip')),
    () => truncate(join(cut.folder, 'a.zip'), 1),
    () => put(join(folders.versions, randomUUID(), 'a.zip')),
    () => put(join(leftover.folder, 'chunk-00000', 'chunk.nut')),
    () => put(join(leftover.folder, 'a.zip.partial')),
    () => put(join(failed.folder, 'chunk-00001.abc.partial', 'a')),
    () => put(join(folders.uploads, randomUUID(), '0000000.png')),
    () => put(join(folders.uploads, `${randomUUID()}.still`)),
    async () => undefined, // the first of the imports whose files are gone
    async () => undefined, // and the second
    () => put(join(folders.mattes, randomUUID(), '0001001.pgm')),
    () => put(join(folders.marks, `${randomUUID()}.png`)),
    () => put(join(folders.marks, `${randomUUID()}.png.partial`)),
  ]
  for (const harm of plant) await harm()
  const faults = await examine(server.context, later + 60_000)
  expect(faults.map(({ words }) => words)).toHaveLength(plant.length)
  expect(await examine(server.context, later + 60_000)).toHaveLength(plant.length) // looking changes nothing
  for (const fault of faults) await fault.mend?.()
  // Frames that are gone are gone: that is said, and nothing is done about it.
  const left = await examine(server.context, later + 60_000)
  expect(left.map(({ kind, cure }) => [kind, cure])).toEqual([['frame-missing', null], ['frame-missing', null], ['frame-cut', null]]) // prettier-ignore
  expect(await readFile(join(sound.folder, 'a.zip'), 'utf8')).toBe('abc')
  expect(await readFile(join(leftover.folder, 'a.zip'), 'utf8')).toBe('abc')
  expect(await readdir(join(folders.frames, one.plateId))).toHaveLength(FRAMES)
  const states = Object.fromEntries((await db().select().from(versions).where(eq(versions.shotId, one.shotId))).map(({ number, state }) => [number, state])) // prettier-ignore
  expect(states).toEqual({ 1: 'done', 2: 'failed', 3: 'failed', 4: 'done', 5: 'failed' })
  await rm(join(folders.frames, other.plateId), { recursive: true })
  await db().delete(shots).where(eq(shots.id, other.shotId))
})

test('a backup is brought back on an empty machine: every frame, every file and the history are the same', async () => {
  const { shotId, plateId } = await makeShot('backed up')
  const mend = sampleMend()
  const edit = {
    label: 'Add',
    changes: [{ id: mend.id, before: null, after: { ...mend, stackIndex: 0 } }],
    tracks: [],
  }
  expect(await saveEdit(db(), shotId, { editId: randomUUID(), baseRevision: 0, role: 'do', targetId: null, edit })).toMatchObject({ ok: true }) // prettier-ignore
  const { id } = await makeVersion(shotId, 1, 'a version')
  const folder = await mkdtemp(join(tmpdir(), 'fillagrant-backup-'))
  const target = join(folder, 'backup')
  const quiet = () => undefined
  const empty = await startTestServer({ isMigrated: false })
  try {
    const count = await takeBackup(server.databaseUrl, server.dataDir, target, quiet)
    await expect(takeBackup(server.databaseUrl, server.dataDir, target, quiet)).rejects.toThrow('is there already') // prettier-ignore
    await expect(restoreBackup(server.databaseUrl, server.dataDir, target, quiet)).rejects.toThrow('something in this database already') // prettier-ignore
    await expect(restoreBackup(empty.databaseUrl, empty.dataDir, folder, quiet)).rejects.toThrow(
      'is no backup',
    )
    expect(await restoreBackup(empty.databaseUrl, empty.dataDir, target, quiet)).toBe(count)
    const client = openDatabase(empty.databaseUrl)
    const there = contextOf(client, empty.dataDir)
    const history = (of: typeof client.db) => of.select().from(edits).where(eq(edits.shotId, shotId))
    expect(await history(client.db)).toEqual(await history(db()))
    expect(await client.db.select().from(productions)).toEqual(await db().select().from(productions))
    for (const name of await readdir(join(server.context.folders.frames, plateId)))
      expect(await readFile(join(there.folders.frames, plateId, name))).toEqual(await readFile(join(server.context.folders.frames, plateId, name))) // prettier-ignore
    expect(await readFile(join(there.folders.versions, id, 'a.zip'), 'utf8')).toBe('a version')
    expect((await examine(there, Date.now() + 120_000)).map(({ words }) => words)).toEqual([])
    await client.pool.end()
    // One flipped bit in the backup is told before the database is touched.
    const file = join(target, 'files/frames', plateId, '0001002.pam')
    const bytes = await readFile(file)
    bytes[bytes.length - 1]! ^= 1
    await writeFile(file, bytes)
    const third = await startTestServer({ isMigrated: false })
    await expect(restoreBackup(third.databaseUrl, third.dataDir, target, quiet)).rejects.toThrow('0001002.pam is not as it was') // prettier-ignore
    await third.close()
  } finally {
    await empty.close()
    await rm(folder, { recursive: true })
  }
}, 60_000)
