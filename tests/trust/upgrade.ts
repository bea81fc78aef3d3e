/**
 * From an older release to this one, and back to the copy that was made before:
 *   node --import tsx tests/trust/upgrade.ts [--from=d0ef418]       (0.5.0; its packages are installed, which takes a minute)
 * Shots, frames, mends, history and versions must be the same after each step, byte for byte, and what was mended with the
 * older one can be rendered with this one.
 */
import { execFileSync } from 'node:child_process'
import { createHash, randomUUID } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { chmod, cp, mkdtemp, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import pg from 'pg'
import { Installation } from './installation'
import { hashOfFolder, paintFilm, Visitor } from './visitor'

const FRAMES = 12
const PATIENCE_MS = 120_000
/** Packages are installed, and it is built. */
const FIRST_START_MS = 900_000

/** What both releases must agree on: rows as they lie in columns that both have, and files. */
interface Facts {
  readonly rows: Readonly<Record<string, readonly unknown[]>>
  readonly files: Readonly<Record<string, string>>
  /** A frame as it is served. */
  readonly served: string
}

const QUESTIONS = {
  shots: 'select id, name, title, revision from shots order by id',
  plates: 'select id, shot_id, source_name, width, height, channels, bit_depth, first_frame, frame_count from plates order by id', // prettier-ignore
  mends: 'select id, shot_id from mends order by shot_id, id',
  edits: 'select shot_id, revision, edit_id from edits order by shot_id, revision',
  versions: 'select id, shot_id, number, state, file_name, size_bytes from versions order by id',
} as const

/** Mends as the older release itself makes them: one of each simple kind. */
const MAKES_EDITS = `
import { addMend, drawnArea } from './core/mend/commands.ts'
const range = { firstFrame: 1001, lastFrame: ${1000 + FRAMES} }
const corner = (x, y) => ({ x, y, inX: 0, inY: 0, outX: 0, outY: 0 })
const drawn = {
  wire: { shape: 'path', points: [{ x: 20, y: 10, widthPx: 5 }, { x: 200, y: 120, widthPx: 5 }] },
  dust: { shape: 'ellipse', x: 60, y: 60, radiusXPx: 6, radiusYPx: 6, turnDeg: 0 },
  object: { shape: 'box', x: 150, y: 90, widthPx: 40, heightPx: 30, turnDeg: 0, cornerPx: 4 },
  rig: { shape: 'outline', points: [corner(240, 40), corner(290, 40), corner(290, 90), corner(240, 90)] },
}
let records = new Map()
const edits = Object.entries(drawn).map(([kind, geometry]) => {
  const edit = addMend(records, kind, 'old-' + kind, [drawnArea('a1', geometry, range, 1001)], range)
  records = new Map([...records, ['old-' + kind, edit.changes[0].after]])
  return edit
})
process.stdout.write(JSON.stringify(edits))
`

export async function upgradeAndBack(
  commit: string,
  port: number,
): Promise<Readonly<Record<string, unknown>>> {
  const place = await mkdtemp('/var/tmp/fillagrant-upgrade-')
  await chmod(place, 0o755) // the database runs as another user
  const older = join(place, 'older')
  const dataDir = join(place, 'data')
  const copy = join(place, 'copy')
  const stopDatabase = () =>
    execFileSync('bash', [
      '-c',
      'ROOT=$PWD; . scripts/setup.sh; pg_stop "$1"',
      'bash',
      join(dataDir, 'postgres'),
    ])
  let running: Installation | null = null
  try {
    mkdirSync(older)
    execFileSync('bash', ['-c', 'git archive "$1" | tar x -C "$2"', 'bash', commit, older], { stdio: ['ignore', 'ignore', 'inherit'] }) // prettier-ignore
    // Without a demo film: nothing is painted.
    mkdirSync(join(dataDir, 'demo'), { recursive: true })
    writeFileSync(join(dataDir, 'demo', 'film.json'), '{}')

    running = new Installation(dataDir, port, {}, older)
    await running.start(FIRST_START_MS)
    await work(running, dataDir, older)
    const before = await facts(running, dataDir)
    await running.stop()
    stopDatabase() // the older start may leave it running
    await cp(dataDir, copy, { recursive: true, preserveTimestamps: true })
    execFileSync('chown', ['-R', '--reference', join(dataDir, 'postgres'), join(copy, 'postgres')])

    running = new Installation(dataDir, port)
    await running.start(PATIENCE_MS)
    const after = await facts(running, dataDir)
    const rendered = await makeVersion(running, dataDir)
    await running.stop()

    await rm(dataDir, { recursive: true })
    await cp(copy, dataDir, { recursive: true, preserveTimestamps: true })
    execFileSync('chown', ['-R', '--reference', join(copy, 'postgres'), join(dataDir, 'postgres')])
    running = new Installation(dataDir, port, {}, older)
    await running.start(PATIENCE_MS)
    const back = await facts(running, dataDir)
    await running.stop()
    stopDatabase()
    const same = (one: Facts) => JSON.stringify(one) === JSON.stringify(before)
    if (!same(after)) process.stderr.write(`${JSON.stringify(before)}\n${JSON.stringify(after)}\n`)
    const counts = Object.fromEntries(Object.entries(before.rows).map(([name, rows]) => [name, rows.length]))
    return { ...counts, files: Object.keys(before.files).length, sameAfter: same(after), sameBack: same(back), renderedWithThisOne: rendered } // prettier-ignore
  } finally {
    await running?.stop()
    await rm(place, { recursive: true, force: true })
  }
}

async function asked(dataDir: string, question: string): Promise<Record<string, unknown>[]> {
  const client = new pg.Client({ connectionString: readFileSync(join(dataDir, 'database-url'), 'utf8') })
  await client.connect()
  try {
    return (await client.query<Record<string, unknown>>(question)).rows
  } finally {
    await client.end()
  }
}

async function until(dataDir: string, question: string): Promise<string> {
  for (const end = Date.now() + PATIENCE_MS; Date.now() < end; await sleep(200)) {
    const [row] = await asked(dataDir, question)
    if (row && ['done', 'failed'].includes(String(row['state']))) return String(row['state'])
  }
  return 'hanging'
}

/** Footage, mends and a version, with the older release. */
async function work(installation: Installation, dataDir: string, project: string): Promise<void> {
  const visitor = new Visitor(installation.url, paintFilm(FRAMES))
  const importId = await visitor.bringIn()
  if ((await until(dataDir, `select state from imports where id = '${importId}'`)) !== 'done') throw new Error('The older release takes no footage.') // prettier-ignore
  const [{ shot_id: shotId }] = (await asked(dataDir, 'select shot_id from plates')) as [{ shot_id: string }]
  const edits = JSON.parse(execFileSync('node', ['--import', 'tsx', '--input-type=module', '-e', MAKES_EDITS], { cwd: project, encoding: 'utf8' })) as object[] // prettier-ignore
  for (const [baseRevision, edit] of edits.entries()) {
    const answer = await visitor.post(`/shots/${shotId}/edits`, { editId: randomUUID(), baseRevision, role: 'do', edit }) // prettier-ignore
    if (!answer?.ok) throw new Error(`The older release does not take its own edit: ${answer?.text}`)
  }
  const made = await makeVersion(installation, dataDir)
  if (made !== 'done') throw new Error(`The older release makes no version: ${made}`)
}

async function makeVersion(installation: Installation, dataDir: string): Promise<string> {
  const [{ shot_id: shotId }] = (await asked(dataDir, 'select shot_id from plates')) as [{ shot_id: string }]
  await new Visitor(installation.url, { bytes: Buffer.alloc(0), frames: FRAMES }).makeVersion(shotId)
  return until(dataDir, 'select state from versions order by number desc limit 1')
}

async function facts(installation: Installation, dataDir: string): Promise<Facts> {
  const rows: Record<string, readonly unknown[]> = {}
  for (const [name, question] of Object.entries(QUESTIONS)) rows[name] = await asked(dataDir, question)
  const files: Record<string, string> = {}
  for (const { id } of rows['plates'] as { id: string }[]) files[`frames ${id}`] = hashOfFolder(join(dataDir, 'frames', id)) // prettier-ignore
  for (const { id, file_name: name } of rows['versions'] as { id: string; file_name: string }[]) {
    const path = join(dataDir, 'versions', id, name)
    files[`version ${id}`] = existsSync(path) ? createHash('sha256').update(readFileSync(path)).digest('hex') : 'gone' // prettier-ignore
  }
  const [{ id }] = rows['plates'] as [{ id: string }]
  const frame = await fetch(`${installation.url}/plates/${id}/frames/1001`)
  const served = createHash('sha256').update(new Uint8Array(await frame.arrayBuffer())).digest('hex') // prettier-ignore
  return { rows, files, served }
}

if (process.argv[1] === import.meta.filename) {
  const from = process.argv.find((one) => one.startsWith('--from='))?.slice('--from='.length) ?? 'd0ef418'
  process.stdout.write(`${JSON.stringify(await upgradeAndBack(from, 4850))}\n`)
}
