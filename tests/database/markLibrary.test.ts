/** The library of marks: kept by name, renamed, taken off many shots at once, undone there. */
import { randomUUID } from 'node:crypto'
import { invertEdit } from '../../core/document/edits'
import { OWN_PRODUCTION_ID } from '../../server/db/migrate.server'
import { plates, shots } from '../../server/db/schema'
import { changeMarks, listMarks } from '../../server/markLibrary.server'
import { receiveMarkSamples } from '../../server/marks.server'
import { saveEdit } from '../../server/saveEdit.server'
import { findShot, loadHistory, loadMends } from '../../server/shots.server'
import { startTestServer, type TestServer } from './testServer'

let server: TestServer
let picture: string
const SIZE = { width: 40, height: 16 }
const PLACE = { leftPx: 580, topPx: 330, width: 640, height: 360 }

beforeAll(async () => {
  server = await startTestServer()
  const { db } = server.context.database
  for (const [id, width, height] of [
    ['same', 640, 360],
    ['larger', 1280, 720],
  ] as const) {
    await db.insert(shots).values({ id, productionId: OWN_PRODUCTION_ID, name: id })
    const shape = { width, height, channels: 3, bitDepth: 8, rateNum: 24, rateDen: 1 }
    const frames = { firstFrame: 1001, frameCount: 12 }
    await db.insert(plates).values({ id: randomUUID(), shotId: id, sourceName: 'made', ...shape, ...frames })
  }
  const samples = new Uint16Array(4 * SIZE.width * SIZE.height).fill(30000)
  picture = await receiveMarkSamples(server.context.folders.marks, SIZE, new Uint8Array(samples.buffer))
})
afterAll(() => server.close())

const ask = (command: unknown) =>
  changeMarks(server.context.database.db, server.context.folders.marks, command)
const keep = (name: string, over = {}) =>
  ask({ intent: 'keep', picture, name, productionId: null, shotId: 'same', place: PLACE, ...over })
const list = () => listMarks(server.context.database.db)
const kept = async (name: string): Promise<string> => {
  const answer = await keep(name)
  if (!answer.ok || answer.markId === null) throw new Error(JSON.stringify(answer))
  return answer.markId
}

test('a picture is kept by a name, once, with where it lay; what is not there is refused', async () => {
  const id = await kept('Channel')
  expect(await list()).toMatchObject([{ id, name: 'Channel', picture, ...SIZE, place: PLACE }])
  expect(await keep('Channel')).toMatchObject({
    ok: false,
    message: 'There is a mark called Channel already. Give this one another name.',
  })
  const nowhere = { picture: `mark:${randomUUID()}` }
  expect(await keep('Other', nowhere)).toMatchObject({
    ok: false,
    message: expect.stringContaining('no such picture') as string,
  })
  for (const wrong of [{ name: '' }, { picture: 'mark:../../etc/passwd' }, { name: 'x'.repeat(81) }])
    expect((await keep('Other', wrong)).ok).toBe(false)
  expect(await list()).toHaveLength(1)
})

test('it is renamed; a name that is taken is refused', async () => {
  const id = await kept('Agency')
  expect(await ask({ intent: 'rename', id, name: 'Channel' })).toMatchObject({ ok: false })
  expect(await ask({ intent: 'rename', id, name: 'House' })).toMatchObject({ ok: true, markId: id })
  expect((await list()).map(({ name }) => name)).toEqual(['Channel', 'House'])
  expect(await ask({ intent: 'rename', id: randomUUID(), name: 'No one' })).toMatchObject({ ok: false })
})

test('taken off many shots it lies as far from their edges, once; undo takes it back; taken out of the library, mends stay', async () => {
  const { db } = server.context.database
  const { id } = (await list())[0]!
  const answer = await ask({ intent: 'apply', id, shotIds: ['same', 'larger', 'gone'] })
  expect(answer).toMatchObject({
    ok: true,
    words: expect.stringMatching(/2 shots.*Gone in the meantime: gone/) as string,
  })
  const [mend] = await loadMends(db, 'larger')
  expect(mend).toMatchObject({
    kind: 'mark',
    fill: { methodId: 'unmix', params: { mark: picture, on: 1001, leftPx: 1220, topPx: 690 } },
    span: { firstFrame: 1001, lastFrame: 1012 },
  })
  expect(mend!.areas[0]).toMatchObject({ shape: 'box', keys: [{ x: 1240, y: 698 }] })
  expect(await ask({ intent: 'apply', id, shotIds: ['same', 'larger'] })).toMatchObject({
    words: 'It is taken off all of them already.',
  })
  expect(await ask({ intent: 'remove', id })).toMatchObject({ ok: true, markId: null })
  expect(await loadMends(db, 'same')).toHaveLength(1)
  const last = (await loadHistory(db, 'same')).at(-1)!
  const revision = (await findShot(db, 'same'))!.shot.revision
  const undone = await saveEdit(db, 'same', {
    editId: randomUUID(),
    baseRevision: revision,
    role: 'undo',
    targetId: last.editId,
    edit: invertEdit(last.edit),
  })
  expect(undone.ok).toBe(true)
  expect(await loadMends(db, 'same')).toHaveLength(0)
})
