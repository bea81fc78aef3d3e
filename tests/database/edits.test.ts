import { randomUUID } from 'node:crypto'
import { addTrack } from '../../core/document/trackCommands'
import { duplicateMend, rename, setOn } from '../../core/document/commands'
import { newTrack } from '../../core/document/follow'
import { applyEdit, invertEdit, type MendEdit, type ShotState } from '../../core/document/edits'
import { stacksOf, type HistoryEntry } from '../../core/document/history'
import { packEdit, unpackEdit, type PackedEdit } from '../../core/document/packedEdit'
import { DEFAULT_BRUSH, strokeArea } from '../../core/document/brush'
import { sampleRecord } from '../fixtures/sampleMend'
import { edits, mends, plates, shots } from '../../server/db/schema'
import { OWN_PRODUCTION_ID, migrateDatabase } from '../../server/db/migrate.server'
import {
  countMends,
  documentOf,
  findShot,
  freeShotId,
  listShots,
  loadHistory,
  loadMends,
  loadTracks,
  recentHistoryStart,
} from '../../server/shots.server'
import { saveEdit } from '../../server/saveEdit.server'
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
const add: MendEdit = {
  label: 'New Wire 1',
  changes: [{ id: record.id, before: null, after: record }],
  tracks: [],
}
const send = (
  shotId: string,
  baseRevision: number,
  edit: PackedEdit,
  role: 'do' | 'undo' | 'redo' = 'do',
  editId: string = randomUUID(),
  targetId: string | null = null,
) => saveEdit(db(), shotId, { editId, baseRevision, role, targetId, edit })

/** What a history leads to, from nothing. */
const replayed = (history: readonly HistoryEntry[]): ShotState =>
  history.reduce<ShotState>((state, { edit }) => applyEdit(state, unpackEdit(edit, state)!), {
    records: new Map(),
    tracks: new Map(),
  })

test('edits are stored in order and the mends follow', async () => {
  const shot = await newShot()
  expect(await send(shot, 0, add)).toEqual({ ok: true, revision: 1 })
  expect(await send(shot, 1, rename(record, 'Left thread'))).toEqual({ ok: true, revision: 2 })
  expect((await loadMends(db(), shot)).map((mend) => mend.name)).toEqual(['Left thread'])
  const found = await findShot(db(), shot)
  expect(
    documentOf(found!.shot, found!.plate, await loadMends(db(), shot), await loadTracks(db(), shot)),
  ).toMatchObject({
    version: 4,
    plate: { frameCount: 10 },
    mends: [{ name: 'Left thread' }],
  })
  expect((await countMends(db())).get(shot)).toEqual({ all: 1, on: 1 })
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
  expect(late).toMatchObject({
    ok: false,
    reason: 'behind',
    revision: 1,
    newer: [{ revision: 1, edit: { label: 'New Wire 1' } }],
  })
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
    tracks: [],
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
  expect([...replayed(history).records.values()]).toEqual(await loadMends(db(), shot))
  expect(stacksOf(history).undone.map(({ edit }) => edit.label)).toEqual(['Wire 1 off'])
})

test('strokes that stay as they are are neither sent nor stored again, and every one of them is there', async () => {
  const shot = await newShot()
  const strokes = Array.from({ length: 40 }, (_, i) => strokeArea(`s${i}`, [{ x: i, y: 9, pressure: 1 }], DEFAULT_BRUSH, 1001, record.span)) // prettier-ignore
  const painted = (count: number) => sampleRecord({ kind: 'brush', areas: strokes.slice(0, count) })
  const made = Array.from({ length: 40 }, (_, i) => ({
    ...add,
    label: `Stroke ${i + 1}`,
    changes: [{ id: record.id, before: i === 0 ? null : painted(i), after: painted(i + 1) }],
  }))
  for (const [i, edit] of made.entries()) expect((await send(shot, i, packEdit(edit))).ok).toBe(true)
  expect(await loadMends(db(), shot)).toEqual([painted(40)])
  const sizes = (await loadHistory(db(), shot)).map(({ edit }) => JSON.stringify(edit).length)
  expect(Math.max(...sizes)).toBeLessThan(1.5 * Math.max(sizes[0]!, sizes[1]!))
  // Each is taken back from what is stored alone, the first ones too.
  for (const [i, edit] of made.slice(20).reverse().entries())
    expect((await send(shot, 40 + i, packEdit(invertEdit(edit)), 'undo')).ok).toBe(true)
  expect(await loadMends(db(), shot)).toEqual([painted(20)])
  expect([...replayed(await loadHistory(db(), shot)).records.values()]).toEqual([painted(20)])
  // Made on 40 strokes, where there are 20: nothing is stored.
  const late = packEdit({
    ...made[39]!,
    changes: [{ id: record.id, before: painted(40), after: painted(39) }],
  })
  expect(await send(shot, 60, late)).toEqual({ ok: false, reason: 'mismatch' })
})

test('of a history that is too long for a page the last part is sent, and undo reaches back in it', async () => {
  const shot = await newShot()
  await send(shot, 0, add)
  const renamed = Array.from({ length: 8 }, (_, i) => rename({ ...record, name: i === 0 ? record.name : `Name ${i - 1}` }, `Name ${i}`)) // prettier-ignore
  for (const [i, edit] of renamed.entries()) await send(shot, 1 + i, edit)
  expect(await recentHistoryStart(db(), shot)).toBe(0)
  const { rows } = await server.context.database.pool.query<{ bytes: number }>(
    'select pg_column_size(edit)::int as bytes from edits where shot_id = $1 order by revision',
    [shot],
  )
  // Room for the last three, and not quite for a fourth.
  const room = rows.slice(-4).reduce((sum, { bytes }) => sum + bytes, 0) - 1
  expect(await recentHistoryStart(db(), shot, room)).toBe(6)
  const { done } = stacksOf(await loadHistory(db(), shot, 6))
  expect(done.map(({ edit }) => edit.label)).toEqual(renamed.slice(-3).map(({ label }) => label))
})

test('two writers: each undo takes back its own step, whoever was last', async () => {
  const shot = await newShot()
  const [mine, theirs] = [randomUUID(), randomUUID()]
  await send(shot, 0, add)
  const renamed = rename(record, 'Mine')
  await send(shot, 1, renamed, 'do', mine)
  const copied = duplicateMend(new Map([[record.id, record]]), record, 'theirs')
  await send(shot, 2, copied, 'do', theirs)
  expect(await send(shot, 3, invertEdit(renamed), 'undo', randomUUID(), mine)).toEqual({
    ok: true,
    revision: 4,
  })
  const left = await loadMends(db(), shot)
  expect(left.map(({ id, name }) => [id, name])).toEqual(
    expect.arrayContaining([
      [record.id, record.name],
      ['theirs', expect.any(String)],
    ]),
  )
  const { done, undone } = stacksOf(await loadHistory(db(), shot))
  expect([done.map(({ id }) => id).at(-1), undone.map(({ id }) => id)]).toEqual([theirs, [mine]])
})

test('an undo of a step that is not in the history is refused', async () => {
  const shot = await newShot()
  await send(shot, 0, add)
  expect(await send(shot, 1, invertEdit(add), 'undo', randomUUID(), randomUUID())).toMatchObject({
    ok: false,
  })
  expect(await loadMends(db(), shot)).toHaveLength(1)
})

test('tracks are stored with the edit that makes them, and refused when they do not fit', async () => {
  const shot = await newShot()
  const track = newTrack('t1', 'point', 'Point 1', 1003, [10.5, 20.25])
  expect(await send(shot, 0, addTrack(track))).toEqual({ ok: true, revision: 1 })
  expect(await loadTracks(db(), shot)).toEqual([track])
  expect(await send(shot, 1, addTrack(track))).toEqual({ ok: false, reason: 'mismatch' })
  expect(await send(shot, 1, invertEdit(addTrack(track)), 'undo')).toEqual({ ok: true, revision: 2 })
  expect(await loadTracks(db(), shot)).toEqual([])
})

test('mends and history stored by the first version are read in the present form', async () => {
  const shot = await newShot()
  const { areas, finish, ...rest } = record
  const { id: _id, role: _role, follow: _follow, ...area } = areas[0]!
  const { featherOutPx, featherInPx: _in, ...kept } = finish
  const old = { ...rest, area, finish: { ...kept, featherPx: featherOutPx } }
  await db()
    .insert(mends)
    .values({ shotId: shot, id: record.id, record: old as never })
  await db()
    .insert(edits)
    .values({
      shotId: shot,
      revision: 1,
      editId: randomUUID(),
      role: 'do',
      targetId: null,
      edit: { label: 'old', changes: [{ id: record.id, before: null, after: old }] } as never,
    })
  expect(await loadMends(db(), shot)).toEqual([record])
  expect((await loadHistory(db(), shot))[0]!.edit).toEqual({ ...add, label: 'old' })
})

test('migrating again, by several at once, changes nothing', async () => {
  await Promise.all([1, 2, 3].map(() => migrateDatabase(server.context.database, 'server/db/migrations')))
  expect((await listShots(db())).length).toBeGreaterThan(0)
})
