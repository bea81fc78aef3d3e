/** Compares the database with the files: what is missing, what nobody knows, what was left half done. */
import { readdir, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { eq, inArray, sql } from 'drizzle-orm'
import type { ServerContext } from '../context.server'
import type { Database } from '../db/client.server'
import { imports, plates, renderChunks, versions } from '../db/schema'
import { isOpenState } from '../jobs/renderChunk.server'

export interface Fault {
  readonly kind:
    | 'frame-missing'
    | 'frame-cut'
    | 'plate-unknown'
    | 'upload-unknown'
    | 'version-missing'
    | 'version-cut'
    | 'version-unknown'
    | 'version-leftover'
    | 'half-done'
    | 'matte-unknown'
    | 'mark-unknown'
    | 'import-stuck'
  /** What is wrong, for people. */
  readonly words: string
  /** What would be done about it; null where only a backup, or the footage itself, helps. */
  readonly cure: string | null
  mend?(): Promise<void>
}

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/
/** What is being written this minute is not half done. */
const YOUNG_MS = 60_000

const listed = (folder: string): Promise<string[]> => readdir(folder).catch(() => [])
const sizeOf = async (path: string): Promise<number | null> =>
  (await stat(path).catch(() => null))?.size ?? null
const isYoung = async (path: string, now: number): Promise<boolean> => now - ((await stat(path).catch(() => null))?.mtimeMs ?? 0) < YOUNG_MS // prettier-ignore

/** @param now  ms since 1970. @returns Every fault that is found; nothing is changed. */
export async function examine(context: ServerContext, now: number): Promise<readonly Fault[]> {
  const faults: Fault[] = []
  const takeAway = (kind: Fault['kind'], words: string, path: string): void =>
    void faults.push({ kind, words, cure: `${path} is deleted.`, mend: () => rm(path, { recursive: true, force: true }) }) // prettier-ignore
  await examineFrames(context, now, faults, takeAway)
  await examineVersions(context, now, faults, takeAway)
  await examineUploads(context, now, faults, takeAway)
  await examineBeside(context, now, takeAway)
  return faults
}

type TakeAway = (kind: Fault['kind'], words: string, path: string) => void

async function examineFrames(
  { database: { db }, folders }: ServerContext,
  now: number,
  faults: Fault[],
  takeAway: TakeAway,
): Promise<void> {
  const known = new Map((await db.select().from(plates)).map((plate) => [plate.id, plate]))
  for (const name of await listed(folders.frames)) {
    const path = join(folders.frames, name)
    if (await isYoung(path, now)) continue
    if (name.endsWith('.partial')) takeAway('half-done', `Frames that were begun and never finished: ${name}`, path)
    else if (!known.has(name) && !(UUID.test(name) && (await isSpokenOf(db, `still:${name}`)))) takeAway('plate-unknown', `Frames that no shot knows: ${name}`, path) // prettier-ignore
  }
  for (const {
    id,
    sourceName,
    firstFrame,
    frameCount,
    width,
    height,
    channels,
    bitDepth,
  } of known.values()) {
    const least = width * height * channels * (bitDepth / 8)
    for (let frame = firstFrame; frame < firstFrame + frameCount; frame++) {
      const size = await sizeOf(join(folders.frames, id, `${String(frame).padStart(7, '0')}.pam`))
      if (size !== null && size >= least) continue
      const kind = size === null ? 'frame-missing' : 'frame-cut'
      faults.push({ kind, words: `Frame ${frame} of ${sourceName} ${size === null ? 'is missing' : 'is cut off'}.`, cure: null }) // prettier-ignore
    }
  }
}

/** Whether a mend, the history, a version, a recipe or the library names a file: undo may bring back what no mend shows now. */
async function isSpokenOf(db: Database, id: string): Promise<boolean> {
  const like = `%${id}%`
  const found = await db.execute(
    sql`select 1 from mends where record::text like ${like} union all select 1 from edits where edit::text like ${like} union all select 1 from versions where document::text like ${like} union all select 1 from marks where picture like ${like} union all select 1 from recipes where recipe::text like ${like} limit 1`,
  )
  return found.rows.length > 0
}

async function examineVersions(
  { database: { db }, folders }: ServerContext,
  now: number,
  faults: Fault[],
  takeAway: TakeAway,
): Promise<void> {
  const rows = await db
    .select({
      id: versions.id,
      number: versions.number,
      state: versions.state,
      shotId: versions.shotId,
      fileName: versions.fileName,
      sizeBytes: versions.sizeBytes,
    }) // prettier-ignore
    .from(versions)
  const known = new Map(rows.map((row) => [row.id, row]))
  for (const name of await listed(folders.versions)) {
    const path = join(folders.versions, name)
    const row = known.get(name)
    if (await isYoung(path, now)) continue
    if (!row) takeAway('version-unknown', `Files of a version that nobody knows: ${name}`, path)
    else if (row.state === 'done') {
      for (const file of await listed(path)) if (file !== row.fileName) takeAway('version-leftover', `Left over in version ${row.number} of ${row.shotId}: ${file}`, join(path, file)) // prettier-ignore
    } else if (!isOpenState(row.state)) {
      for (const file of await listed(path)) if (file.endsWith('.partial')) takeAway('half-done', `Begun and never finished in version ${row.number} of ${row.shotId}: ${file}`, join(path, file)) // prettier-ignore
    }
  }
  for (const { id, number, state, shotId, fileName, sizeBytes } of rows) {
    if (state !== 'done' || fileName === null) continue
    const size = await sizeOf(join(folders.versions, id, fileName))
    if (size === sizeBytes) continue
    const what = `${fileName}, version ${number} of ${shotId},`
    faults.push({
      kind: size === null ? 'version-missing' : 'version-cut',
      words: `${what} ${size === null ? 'is missing' : `has ${size} bytes instead of ${sizeBytes}`}.`,
      cure: `Version ${number} is marked as failed, so that nobody takes it away; its mends are kept.`,
      async mend() {
        await db.update(versions).set({ state: 'failed', error: 'Its file is not as it was made. Make the version again.' }).where(eq(versions.id, id)) // prettier-ignore
        await db.delete(renderChunks).where(eq(renderChunks.versionId, id))
      },
    })
  }
}

async function examineUploads(
  { database: { db }, folders }: ServerContext,
  now: number,
  faults: Fault[],
  takeAway: TakeAway,
): Promise<void> {
  const open = await db.select().from(imports).where(inArray(imports.state, ['uploading', 'waiting', 'decoding', 'damaged'])) // prettier-ignore
  const known = new Set(open.map(({ id }) => id))
  const there = await listed(folders.uploads)
  for (const name of there) {
    const path = join(folders.uploads, name)
    if (!(await isYoung(path, now)) && !known.has(name)) takeAway('upload-unknown', `Uploaded files that nobody waits for: ${name}`, path) // prettier-ignore
  }
  for (const { id, name, createdAt } of open) {
    if (there.includes(id) || now - createdAt.getTime() < YOUNG_MS) continue
    faults.push({
      kind: 'import-stuck',
      words: `${name} is on its way in, but its files are gone.`,
      cure: 'The import is marked as failed.',
      mend: async () => void (await db.update(imports).set({ state: 'failed', error: 'Its files are gone. Drop it again.' }).where(eq(imports.id, id))), // prettier-ignore
    })
  }
}

/** Mattes and marks that no mend, no version and no library knows. */
async function examineBeside(
  { database: { db }, folders }: ServerContext,
  now: number,
  takeAway: TakeAway,
): Promise<void> {
  const look = async (folder: string, kind: Fault['kind'], words: string) => {
    for (const name of await listed(folder)) {
      const path = join(folder, name)
      const [id] = name.split('.')
      if (await isYoung(path, now)) continue
      if (!UUID.test(id!) || !(await isSpokenOf(db, id!))) takeAway(kind, `${words}: ${name}`, path)
    }
  }
  await look(folders.mattes, 'matte-unknown', 'Mattes that no mend knows')
  await look(folders.marks, 'mark-unknown', 'The picture of a mark that nobody knows')
}
