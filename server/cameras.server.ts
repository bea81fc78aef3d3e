/** Camera bodies and their sensor maps in the database: kept, edited, merged, applied to shots. */
import { randomUUID } from 'node:crypto'
import { and, asc, desc, eq, inArray } from 'drizzle-orm'
import type { Answer } from '../core/answer'
import { acceptFinds } from '../core/document/acceptFinds'
import { describeIssues } from '../core/document/document'
import { cameraCommandSchema, type CameraDone, type CameraCommand } from '../core/jobs/cameraCommands'
import { findsOfMap, mergeMaps, SENSOR_MAP_FORMAT, type SensorMap } from '../core/survey/sensorMap'
import type { Database, Transaction } from './db/client.server'
import { cameras, productions, sensorMaps, shots } from './db/schema'
import { announce } from './events.server'
import { changeShot } from './saveEdit.server'
import { findShot } from './shots.server'

type Camera = typeof cameras.$inferSelect
type MapRow = typeof sensorMaps.$inferSelect

/** A map as its file has it. */
const mapOf = (camera: Camera, { madeOn, pixels, motes }: MapRow): SensorMap => ({
  format: SENSOR_MAP_FORMAT,
  version: 1,
  camera: camera.name,
  madeOn,
  sensor: { width: camera.sensorWidth, height: camera.sensorHeight },
  pixels,
  motes,
})

interface ListedCamera {
  readonly id: string
  readonly name: string
  readonly productionId: string
  readonly productionName: string
  readonly sensor: SensorMap['sensor']
  /** The latest first. */
  readonly maps: readonly { readonly id: string; readonly map: SensorMap }[]
}

export async function listCameras(db: Database | Transaction): Promise<ListedCamera[]> {
  const bodies = await db
    .select({ camera: cameras, productionName: productions.name })
    .from(cameras)
    .innerJoin(productions, eq(productions.id, cameras.productionId))
    .orderBy(asc(productions.name), asc(cameras.name))
  const maps = await db.select().from(sensorMaps).orderBy(desc(sensorMaps.madeOn), desc(sensorMaps.createdAt))
  return bodies.map(({ camera, productionName }) => ({
    id: camera.id,
    name: camera.name,
    productionId: camera.productionId,
    productionName,
    sensor: { width: camera.sensorWidth, height: camera.sensorHeight },
    maps: maps
      .filter(({ cameraId }) => cameraId === camera.id)
      .map((row) => ({ id: row.id, map: mapOf(camera, row) })),
  }))
}

export async function loadSensorMap(
  db: Database | Transaction,
  id: string,
): Promise<{ camera: Camera; map: SensorMap } | null> {
  const [row] = await db
    .select({ camera: cameras, map: sensorMaps })
    .from(sensorMaps)
    .innerJoin(cameras, eq(cameras.id, sensorMaps.cameraId))
    .where(eq(sensorMaps.id, id))
  return row ? { camera: row.camera, map: mapOf(row.camera, row.map) } : null
}

type CameraAnswer = Answer<CameraDone>

const refused = (message: string): CameraAnswer => ({ ok: false, message })
const done = (words: string, mapId: string | null = null): CameraAnswer => ({ ok: true, words, mapId })
const GONE = 'This sensor map is gone. Nothing has changed; look at the list again.'

/** Does what is asked, all of it or nothing; `apply` shot by shot. */
export async function changeCameras(db: Database, asked: unknown): Promise<CameraAnswer> {
  const parsed = cameraCommandSchema.safeParse(asked)
  if (!parsed.success)
    return refused(`That cannot be stored: ${describeIssues(parsed.error)}. Nothing has changed.`)
  const command = parsed.data
  const answer = await (command.intent === 'apply'
    ? applyMap(db, command)
    : db.transaction((tx) => carryOut(tx, command)))
  if (answer.ok) await announce(db, { kind: 'camera', id: answer.mapId ?? '' })
  return answer
}

type CommandTo<I extends CameraCommand['intent']> = Extract<CameraCommand, { intent: I }>

async function carryOut(
  tx: Transaction,
  command: Exclude<CameraCommand, { intent: 'apply' }>,
): Promise<CameraAnswer> {
  switch (command.intent) {
    case 'keep':
      return keepMap(tx, command)
    case 'change': {
      const { mapId, madeOn, pixels, motes } = command
      const changed = await tx
        .update(sensorMaps)
        .set({ madeOn, pixels, motes })
        .where(eq(sensorMaps.id, mapId))
        .returning({ id: sensorMaps.id })
      return changed.length > 0 ? done('The map is saved.', mapId) : refused(GONE)
    }
    case 'merge':
      return mergeInto(tx, command)
    case 'remove': {
      const gone = await tx
        .delete(sensorMaps)
        .where(eq(sensorMaps.id, command.mapId))
        .returning({ id: sensorMaps.id })
      return gone.length > 0 ? done('The map is deleted.') : refused(GONE)
    }
    case 'rename-camera':
      return renameCamera(tx, command)
    case 'remove-camera': {
      const [gone] = await tx
        .delete(cameras)
        .where(eq(cameras.id, command.cameraId))
        .returning({ name: cameras.name })
      return gone ? done(`${gone.name} and its maps are deleted.`) : refused('This camera is gone already.')
    }
  }
}

async function keepMap(
  tx: Transaction,
  { productionId, shotId, map }: CommandTo<'keep'>,
): Promise<CameraAnswer> {
  const found = shotId === null ? null : await findShot(tx, shotId)
  if (shotId !== null && !found) return refused('This shot is gone. Nothing was kept.')
  const production = found?.shot.productionId ?? productionId
  const [known] =
    production === null ? [] : await tx.select().from(productions).where(eq(productions.id, production))
  if (!known) return refused('There is no such production. Nothing was kept.')
  await tx
    .insert(cameras)
    .values({
      id: randomUUID(),
      productionId: known.id,
      name: map.camera,
      sensorWidth: map.sensor.width,
      sensorHeight: map.sensor.height,
    })
    .onConflictDoNothing()
  const [camera] = await tx
    .select()
    .from(cameras)
    .where(and(eq(cameras.productionId, known.id), eq(cameras.name, map.camera)))
  if (camera!.sensorWidth !== map.sensor.width || camera!.sensorHeight !== map.sensor.height) {
    return refused(
      `${map.camera} has a sensor of ${camera!.sensorWidth} × ${camera!.sensorHeight} px, this map is of ${map.sensor.width} × ${map.sensor.height} px. Nothing was kept: set the sensor's size right, or give the camera another name.`,
    )
  }
  const id = randomUUID()
  await tx
    .insert(sensorMaps)
    .values({ id, cameraId: camera!.id, madeOn: map.madeOn, pixels: map.pixels, motes: map.motes })
  if (found) await tx.update(shots).set({ cameraId: camera!.id }).where(eq(shots.id, found.shot.id))
  return done(`Kept with ${map.camera}: ${placesOf(map)}.`, id)
}

const counted = (count: number, one: string): string => `${count} ${one}${count === 1 ? '' : 's'}`
const placesOf = ({ pixels, motes }: Pick<SensorMap, 'pixels' | 'motes'>): string =>
  `${counted(pixels.length, 'bad pixel')}, ${counted(motes.length, 'mote')}`

/** Both maps stay; what they say together is a map of its own. */
async function mergeInto(tx: Transaction, { mapId, withId }: CommandTo<'merge'>): Promise<CameraAnswer> {
  const [a, b] = [await loadSensorMap(tx, mapId), await loadSensorMap(tx, withId)]
  if (!a || !b) return refused(GONE)
  if (mapId === withId || a.camera.id !== b.camera.id)
    return refused('Two different maps of one camera can be merged. Nothing has changed.')
  const { madeOn, pixels, motes } = mergeMaps(a.map, b.map)
  const id = randomUUID()
  await tx.insert(sensorMaps).values({ id, cameraId: a.camera.id, madeOn, pixels, motes })
  return done(`Merged: ${placesOf({ pixels, motes })}. Both maps are still there.`, id)
}

async function renameCamera(
  tx: Transaction,
  { cameraId, name }: CommandTo<'rename-camera'>,
): Promise<CameraAnswer> {
  const [camera] = await tx.select().from(cameras).where(eq(cameras.id, cameraId)).for('update')
  if (!camera) return refused('This camera is gone.')
  const [taken] = await tx
    .select({ id: cameras.id })
    .from(cameras)
    .where(and(eq(cameras.productionId, camera.productionId), eq(cameras.name, name)))
  if (taken && taken.id !== cameraId)
    return refused(`There is a camera called ${name} already. Nothing has changed.`)
  await tx.update(cameras).set({ name }).where(eq(cameras.id, cameraId))
  return done(`${camera.name} is called ${name} now.`)
}

/** Each shot gets one step of its own history; what it mends already is left as it is. */
async function applyMap(db: Database, { mapId, targets }: CommandTo<'apply'>): Promise<CameraAnswer> {
  const found = await loadSensorMap(db, mapId)
  if (!found) return refused(GONE)
  const { camera, map } = found
  const missing: string[] = []
  let [changed, places] = [0, 0]
  for (const { shotId, readout } of targets) {
    const result = await changeShot(db, shotId, ({ plate, records }) => {
      const range = { firstFrame: plate.firstFrame, lastFrame: plate.firstFrame + plate.frameCount - 1 }
      const edit = acceptFinds(
        records,
        findsOfMap(map, { ...range, width: plate.width, height: plate.height }, readout),
        range,
        randomUUID,
      )
      return edit && { ...edit, label: `Apply the sensor map of ${camera.name}` }
    })
    if (!result) missing.push(shotId)
    else if (result.edit) {
      changed++
      places +=
        areasIn(result.edit.changes.map(({ after }) => after)) -
        areasIn(result.edit.changes.map(({ before }) => before))
    }
  }
  const known = targets.map(({ shotId }) => shotId).filter((id) => !missing.includes(id))
  if (known.length > 0) await db.update(shots).set({ cameraId: camera.id }).where(inArray(shots.id, known))
  const lost = missing.length > 0 ? ` Gone in the meantime: ${missing.join(', ')}.` : ''
  return done(
    changed > 0
      ? `${counted(places, 'place')} of ${camera.name} are mended in ${counted(changed, 'shot')}. Undo in a shot takes it back there.${lost}`
      : `All of them are mended already.${lost}`,
    mapId,
  )
}

const areasIn = (mends: readonly ({ readonly areas: readonly unknown[] } | null)[]): number =>
  mends.reduce((sum, mend) => sum + (mend?.areas.length ?? 0), 0)
