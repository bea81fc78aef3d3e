/**
 * Footage, pictures and requests that mean harm: each comes to an end within 30 s, in words that name the file; web server
 * and worker go on, nothing is written outside the store, and nothing is left in it.
 */
import { randomUUID } from 'node:crypto'
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import sharp from 'sharp'
import { contextOf, foldersIn } from '../../server/context.server'
import { openDatabase } from '../../server/db/client.server'
import { imports, plates } from '../../server/db/schema'
import { examine } from '../../server/house/doctor.server'

import { sampleMend } from '../fixtures/sampleMend'
import { ffmpeg } from '../media'
import {
  hostileInsides,
  hostileNames,
  hugePng,
  type HostileFootage,
  type RightFootage,
} from '../trust/hostileFootage'
import type { Application } from './application'
import { expect, test } from './test'

test.describe.configure({ mode: 'serial' })

const MOST_MS = 30_000
const RATE = { num: 24, den: 1 }

interface Answer {
  readonly status: number
  readonly message: string
  readonly body: Record<string, unknown>
}

/** As the page asks. A server that hangs or breaks off fails the test. */
async function ask(application: Application, path: string, body: unknown, method = 'POST'): Promise<Answer> {
  const isRaw = Buffer.isBuffer(body) || typeof body === 'string'
  const response = await fetch(application.url + path, {
    method,
    headers: {
      Origin: application.url,
      'Content-Type': isRaw ? 'application/octet-stream' : 'application/json',
    },
    ...(method === 'GET' ? {} : { body: isRaw ? new Uint8Array(Buffer.from(body)) : JSON.stringify(body) }),
    signal: AbortSignal.timeout(MOST_MS),
  })
  const words = await response.text()
  let read: Record<string, unknown> = {}
  try {
    read = JSON.parse(words) as Record<string, unknown>
  } catch {
    // plain words
  }
  return {
    status: response.status,
    message: typeof read['message'] === 'string' ? read['message'] : words,
    body: read,
  }
}

/** @returns What the user is told, and whether it came in. */
async function bringIn(application: Application, { name, bytes }: HostileFootage) {
  const opened = await ask(application, '/imports', {
    files: [{ name, sizeBytes: bytes.length }],
    frameRate: RATE,
  })
  if (opened.status !== 200) return { state: 'failed', words: opened.message, importId: null }
  const importId = opened.body['importId'] as string
  const sent = await ask(application, `/imports/${importId}/files/0`, bytes, 'PUT')
  expect(sent.status, sent.message).toBe(200)
  const begun = await ask(application, `/imports/${importId}`, {})
  expect(begun.status, begun.message).toBe(200)
  return { state: 'waiting', words: '', importId }
}

function rightFootage(): RightFootage {
  const folder = mkdtempSync(join(tmpdir(), 'fillagrant-right-'))
  const made = (name: string, ...args: readonly string[]): Buffer => {
    ffmpeg(...args, join(folder, name))
    return readFileSync(join(folder, name))
  }
  const film = ['-f', 'lavfi', '-i', 'testsrc2=size=64x48:rate=24', '-frames:v']
  try {
    return {
      mkv: made('a.mkv', ...film, '3', '-c:v', 'ffv1', '-level', '3'),
      mp4: made('a.mp4', ...film, '3', '-c:v', 'mpeg4'),
      avi: made('a.avi', ...film, '3', '-c:v', 'mjpeg'),
      png: made('a.png', ...film, '1'),
      jpg: made('a.jpg', ...film, '1'),
      sound: made('a.mov', '-f', 'lavfi', '-i', 'sine=duration=0.2', '-c:a', 'pcm_s16le'),
    }
  } finally {
    rmSync(folder, { recursive: true })
  }
}

/** What lies where a path that got out would lead. */
const outside = () =>
  ['/var/tmp/fillagrant-outside', '/var/tmp/fillagrant-outside.mkv', 'outside', 'outside.mkv', '../outside.mkv', '../../outside.mkv', join(tmpdir(), 'outside.mkv')].filter(existsSync) // prettier-ignore

/** What the doctor finds, in a minute. */
async function faults(application: Application): Promise<string[]> {
  const client = openDatabase(application.databaseUrl)
  try {
    return (await examine(contextOf(client, application.dataDir), Date.now() + 120_000)).map(({ words }) => words) // prettier-ignore
  } finally {
    await client.pool.end()
  }
}

let count = 0
/** Tests that went before on this installation may have left something. */
let before: readonly string[] = []
let shotId = ''
let plateId = ''

test('footage that means harm is refused in words that name it, or taken in as any; nothing hangs', async ({
  application,
}) => {
  before = await faults(application)
  const right = rightFootage()
  const all = [...hostileInsides(right), ...hostileNames(right)]
  count += all.length
  const wrong: string[] = []
  const { db, pool } = openDatabase(application.databaseUrl)
  try {
    for (const footage of all) {
      const { words, importId, ...answer } = await bringIn(application, footage)
      let [state, told] = [answer.state, words]
      for (const end = Date.now() + MOST_MS; state === 'waiting' || state === 'decoding';) {
        expect(Date.now(), `${footage.name} has come to no end`).toBeLessThan(end)
        await new Promise((resolve) => setTimeout(resolve, 30))
        const [row] = await db.select().from(imports).where(eq(imports.id, importId!))
        ;[state, told] = [row!.state, row!.error ?? '']
      }
      const allowed = footage.must === 'be taken in' ? ['done'] : footage.must === 'be refused' ? ['failed'] : ['done', 'failed', 'damaged'] // prettier-ignore
      if (!allowed.includes(state)) wrong.push(`${footage.name} must ${footage.must}, is ${state}: ${told}`)
      if (state === 'done') continue
      // What cannot be written cannot be said either.
      const isSaid = told.includes(footage.name) || /[\0\ud83d]|a{300}/.test(footage.name)
      if (!isSaid || !/^[^{[]*\.$/.test(told) || /@ 0x|ENOENT|Error:|\/tmp\/|uploads/.test(told)) wrong.push(`${footage.name}: ${told}`) // prettier-ignore
      if (importId) await ask(application, `/imports/${importId}`, {}, 'DELETE')
    }
    const [plate] = await db.select().from(plates).limit(1)
    ;({ id: plateId, shotId } = plate!)
  } finally {
    await pool.end()
  }
  expect(wrong).toEqual([])
  expect(outside()).toEqual([])
})

test('runs of pictures that do not belong together are refused before a byte is sent', async ({
  application,
}) => {
  const runs: Readonly<Record<string, readonly string[]>> = {
    hole: ['a.0001.png', 'a.0003.png'],
    twice: ['a.1.png', 'a.01.png'],
    unnumbered: ['a.png', 'b.png'],
    'two runs': ['a.1.png', 'b.2.png'],
    'two kinds': ['a.1.png', 'a.2.jpg'],
    'a film among them': ['a.1.png', 'a.2.mkv'],
    'more than may be': Array.from({ length: 100_001 }, (_, i) => `a.${i}.png`),
    'a number without end': [`a.${'9'.repeat(200)}.png`, `a.${'9'.repeat(199)}8.png`],
  }
  for (const [what, names] of Object.entries(runs)) {
    count++
    const answer = await ask(application, '/imports', { files: names.map((name) => ({ name, sizeBytes: 10 })), frameRate: RATE }) // prettier-ignore
    expect(answer.status, what).toBe(400)
    expect(answer.message, what).toMatch(/a\.\d+\.(png|mkv)|a\.png|png, jpg|\(a\., b\.\)|100000/)
  }
})

test('pictures beside the footage: refused in words that name them, within their bounds', async ({
  application,
}) => {
  const { png, jpg } = rightFootage()
  const svg = Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><image href="file:///etc/passwd"/></svg>') // prettier-ignore
  const opaque = await sharp({ create: { width: 9, height: 9, channels: 3, background: '#123' } }).png().toBuffer() // prettier-ignore
  const bad: readonly (readonly [string, Buffer])[] = [
    ['noise.png', Buffer.alloc(5000, 7)],
    ['empty.png', Buffer.alloc(1)],
    ['vector.png', svg],
    ['cut.png', png.subarray(0, png.length / 3)],
    ['bomb.png', hugePng(16_000)],
  ]
  const matteId = randomUUID()
  // What is right is taken, at the same places.
  const clear = await sharp({ create: { width: 9, height: 9, channels: 4, background: '#1238' } }).png().toBuffer() // prettier-ignore
  const kept = await Promise.all([
    ask(application, '/marks?name=clear.png', clear, 'PUT'),
    ask(application, `/shots/${shotId}/stills?name=sky.jpg`, jpg, 'PUT'),
  ])
  expect(kept.map(({ status, message }) => `${status} ${message}`)).toEqual(kept.map(({ message }) => `200 ${message}`)) // prettier-ignore
  for (const { body } of kept) {
    const [kind, id] = (body['name'] as string).split(':')
    expect((await ask(application, '/house', { intent: 'delete-beside', kind, id })).status).toBe(200)
  }
  for (const [name, bytes] of [...bad, ['opaque.png', opaque], ['photo.jpg', jpg]] as const) {
    const asked = encodeURIComponent(name)
    const places = [`/marks?name=${asked}`]
    if (bad.some(([one]) => one === name)) places.push(`/shots/${shotId}/stills?name=${asked}`)
    if (name !== 'opaque.png')
      places.push(`/shots/${shotId}/mattes/${matteId}/1001?ending=.png&name=${asked}`)
    for (const place of places) {
      count++
      const answer = await ask(application, place, bytes, 'PUT')
      expect(answer.status, `${place}: ${answer.message}`).toBe(400)
      expect(answer.message).toContain(name)
      expect(answer.message).not.toMatch(/@ 0x|\/tmp\/|partial/)
    }
  }
})

test('requests that mean harm are answered with a number below 500, and in words', async ({
  application,
}) => {
  const edit = (mend: object, more: object = {}) => ({ editId: randomUUID(), baseRevision: 0, role: 'do', targetId: null, edit: { label: 'Add', changes: [{ id: 'a', before: null, after: mend }], tracks: [] }, ...more }) // prettier-ignore
  const good = sampleMend({ id: randomUUID() })
  const edits: Readonly<Record<string, unknown>> = {
    nul: edit({ ...good, name: 'a\0b' }),
    'half a sign': edit({ ...good, name: 'a\ud83d' }),
    'a revision too high': edit(good, { baseRevision: 2 ** 31 }),
    'a revision that is none': edit(good, { baseRevision: -1 }),
    'another kind': edit({ ...good, kind: 'unheard' }),
    'a path for an id': edit({ ...good, id: '../../x' }),
    deep: `${'['.repeat(100_000)}${']'.repeat(100_000)}`,
    'a prototype': `{"__proto__":{"isAdmin":true},"editId":"${randomUUID()}"}`,
    'no JSON': '{"editId":',
    'too much': Buffer.alloc(9 << 20, 'a'),
    'no number': '{"baseRevision":1e999}',
    nothing: '',
  }
  for (const [what, body] of Object.entries(edits)) {
    count++
    const answer = await ask(application, `/shots/${shotId}/edits`, body)
    expect([400, 404, 409, 413, 422], `${what}: ${answer.message}`).toContain(answer.status)
    expect(answer.message.length, what).toBeGreaterThan(10)
  }
  const rect = (more: object) => [{ frame: 1001, col: 0, row: 0, width: 4, height: 4, ...more }]
  const asked: readonly (readonly [path: string, body?: unknown])[] = [
    [`/plates/${plateId}/rects`, rect({ width: 1e9, height: 1e9 })],
    [`/plates/${plateId}/rects`, rect({ col: -5 })],
    [`/plates/${plateId}/rects`, rect({ frame: 2 ** 31 })],
    [`/plates/${plateId}/rects`, rect({ width: 0 })],
    ['/plates/..%2f..%2fetc/rects', rect({})],
    [`/plates/${plateId}/frames/99999999999999999999`],
    [`/plates/${plateId}/frames/..%2f..%2f..%2fetc%2fpasswd`],
    [`/plates/${plateId}/frames/1001%00`],
    [`/plates/${plateId}/looks/..%2f..%2fdatabase-url`],
    [`/shots/${shotId}/stills/..%2f..%2fdatabase-url?col=0&row=0&width=1&height=1`],
    [`/shots/${shotId}/mattes/..%2f..%2fx/1001`],
    [`/marks/..%2f..%2fdatabase-url`],
    ['/versions/..%2f..%2fdatabase-url/download'],
    ['/assets/..%2f..%2f..%2fpackage.json'],
    ['/%2e%2e/%2e%2e/etc/passwd'],
    ['/shots/%00/mend'],
    [`/shots/${'a'.repeat(5000)}/mend`],
    ["/shots/'%20or%201=1--/mend"],
    ['/house', { intent: 'rename-shot', shotId, name: 'a'.repeat(10_000), title: '' }],
    ['/house', { intent: 'delete-version', versionId: '../..' }],
    ['/house', { intent: 'move-shots', shotIds: [shotId], productionId: '../..' }],
    ['/house', { intent: 'empty-everything' }],
  ]
  for (const [path, body] of asked) {
    count++
    const answer = await ask(application, path, body, body === undefined ? 'GET' : 'POST')
    expect(answer.status, `${path}: ${answer.message.slice(0, 200)}`).toBeGreaterThanOrEqual(400)
    expect(answer.status, `${path}: ${answer.message.slice(0, 200)}`).toBeLessThan(500)
    expect(answer.message, path).not.toMatch(/root:|select |ENOENT|at .*\.mjs/)
  }
})

test('a hundred and more; the parts that took them still run, nothing is outside and nothing left over', async ({
  application,
}) => {
  expect(count).toBeGreaterThanOrEqual(100)
  expect(application.hasEnded('web')).toBe(false)
  expect(application.hasEnded('worker')).toBe(false)
  expect(outside()).toEqual([])
  expect((await faults(application)).filter((words) => !before.includes(words))).toEqual([])
  expect(await readdir(foldersIn(application.dataDir).uploads)).toEqual([])
})
