import { randomUUID } from 'node:crypto'
import { duplicateMend, rename, setOn } from '../../core/mend/commands'
import { applyEdit, invertEdit, stacksOf, type MendEdit } from '../../core/mend/edits'
import { sampleRecord } from '../../core/mend/sampleMend'
import { plates, shots } from '../../server/db/schema'
import { OWN_PRODUCTION_ID, migrateDatabase } from '../../server/db/migrate.server'
import { documentOf, findShot, freeShotId, listShots, loadHistory, loadMends, saveEdit } from '../../server/shots.server'
import { startTestServer, type TestServer } from './testServer'

let server: TestServer
beforeAll(async () => {
  server = await startTestServer()
}, 30_000)
afterAll(() => server.close())

const db = () => server.context.database.db

async function newShot(): Promise<string> {
  const id = await freeShotId(db(), 'Test shot')
  await db().insert(shots).values({ id, productionId: OWN_PRODUCTION_ID, name: id })
  await db().insert(plates).values({
    id: randomUUID(),
    shotId: id,
    sourceName: 'x',
    width: 64,
    height: 48,
    channels: 3,
    bitDepth: 8,
    rateNum: 24,
    rateDen: 1,
    firstFrame: 1001,
    frameCount: 10,
  })
  return id
}

const record = sampleRecord()
const add: MendEdit = { label: 'New Wire 1', changes: [{ id: record.id, before: null, after: record }] }
const send = (shotId: string, baseRevision: number, edit: MendEdit, role: 'do' | 'undo' | 'redo' = 'do', editId: string = randomUUID()) =>
  saveEdit(db(), shotId, { editId, baseRevision, role, edit })

test('edits are stored in order and the mends follow', async () => {
  const shot = await newShot()
  expect(await send(shot, 0, add)).toEqual({ ok: true, revision: 1 })
  expect(await send(shot, 1, rename(record, 'Left thread'))).toEqual({ ok: true, revision: 2 })
  expect((await loadMends(db(), shot)).map((mend) => mend.name)).toEqual(['Left thread'])
  const found = await findShot(db(), shot)
  expect(documentOf(found!.shot, found!.plate, await loadMends(db(), shot))).toMatchObject({
    version: 1,
    plate: { frameCount: 10 },
    mends: [{ name: 'Left thread' }],
  })
  expect((await listShots(db())).find((row) => row.shot.id === shot)?.mends).toHaveLength(1)
})

test('the same edit sent twice is stored once and gives the same answer', async () => {
  const shot = await newShot()
  const editId = randomUUID()
  expect(await send(shot, 0, add, 'do', editId)).toEqual({ ok: true, revision: 1 })
  expect(await send(shot, 0, add, 'do', editId)).toEqual({ ok: true, revision: 1 })
  expect(await loadHistory(db(), shot)).toHaveLength(1)
})

test('who comes late gets the newer edits and changes nothing', async () => {
  const shot = await newShot()
  await send(shot, 0, add)
  const late = await send(shot, 0, { ...add, label: 'mine' })
  expect(late).toMatchObject({ ok: false, reason: 'behind', revision: 1, newer: [{ revision: 1, edit: { label: 'New Wire 1' } }] })
  expect(await loadHistory(db(), shot)).toHaveLength(1)
})

test('many at once: every edit is acknowledged once, none is lost', async () => {
  const shot = await newShot()
  await send(shot, 0, add)
  const revisions = await Promise.all(
    Array.from({ length: 8 }, async (_, i) => {
      const copy = { ...duplicateMend(new Map([[record.id, record]]), record, `copy-${i}`) }
      for (let base = 1; ;) {
        const result = await send(shot, base, copy)
        if (result.ok) return result.revision
        if (result.reason !== 'behind') throw new Error(result.reason)
        base = result.revision
      }
    }),
  )
  expect(revisions.sort((a, b) => a - b)).toEqual([2, 3, 4, 5, 6, 7, 8, 9])
  expect(await loadMends(db(), shot)).toHaveLength(9)
})

test('what does not fit what is stored is refused whole', async () => {
  const shot = await newShot()
  await send(shot, 0, add)
  const other = sampleRecord({ id: 'other' })
  const half: MendEdit = {
    label: 'half',
    changes: [
      { id: 'new', before: null, after: sampleRecord({ id: 'new' }) },
      { id: 'other', before: other, after: null },
    ],
  }
  expect(await send(shot, 1, half)).toEqual({ ok: false, reason: 'mismatch' })
  expect(await send('no-such-shot', 0, add)).toEqual({ ok: false, reason: 'no-shot' })
  expect((await loadMends(db(), shot)).map((mend) => mend.id)).toEqual([record.id])
})

test('the stored history replays to the stored mends, undo included', async () => {
  const shot = await newShot()
  const off = setOn(record, false)
  await send(shot, 0, add)
  await send(shot, 1, off)
  await send(shot, 2, invertEdit(off), 'undo')
  const history = await loadHistory(db(), shot)
  const replayed = history.reduce((records, { edit }) => applyEdit(records, edit), new Map())
  expect([...replayed.values()]).toEqual(await loadMends(db(), shot))
  expect(stacksOf(history).undone.map((edit) => edit.label)).toEqual(['Wire 1 off'])
})

test('migrating again, by several at once, changes nothing', async () => {
  await Promise.all([1, 2, 3].map(() => migrateDatabase(server.context.database, 'server/db/migrations')))
  expect((await listShots(db())).length).toBeGreaterThan(0)
})
