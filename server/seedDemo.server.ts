/** The demo: its film, brought in as any other footage, and its camera; what is not there yet. */
import { existsSync } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { and, eq } from 'drizzle-orm'
import { mapFromFinds } from '../core/survey/sensorMap'
import { createSurvey } from '../core/survey/survey'
import { CAMERA, shootCovered } from '../demo/camera'
import { FILM } from '../demo/film'
import type { ShotDescription } from '../demo/shot'
import { changeCameras } from './cameras.server'
import type { ServerContext } from './context.server'
import { DEMO_PRODUCTION_ID } from './db/migrate.server'
import { cameras, shots } from './db/schema'
import { storePlate } from './jobs/storePlate.server'
import { probeMedia, type MediaInput } from './media/probe.server'

/** Does nothing for shots that are in already. @param film  Folder that demo/main.ts has written. */
export async function seedDemo(context: ServerContext, film: string): Promise<void> {
  const { db } = context.database
  const known = await db
    .select({ name: shots.name })
    .from(shots)
    .where(eq(shots.productionId, DEMO_PRODUCTION_ID))
  for (const { description } of FILM) {
    const folder = join(film, description.name, 'plate')
    if (known.some(({ name }) => name === description.name) || !existsSync(folder)) continue
    await bringIn(context, description, folder)
  }
  await bringInCamera(context)
}

const LENS_CAP_FRAMES = 12

/** The simulated camera with the map of a lens-cap clip that it has shot; nothing when the demo has a camera already. */
async function bringInCamera({ database: { db } }: ServerContext): Promise<void> {
  const [known] = await db
    .select({ id: cameras.id })
    .from(cameras)
    .where(eq(cameras.productionId, DEMO_PRODUCTION_ID))
  if (known) return
  const { name, madeOn, width, height } = CAMERA
  const sensor = { width, height }
  const survey = createSurvey({ ...sensor, channels: 3 }, 1001)
  for (let frame = 1001; frame < 1001 + LENS_CAP_FRAMES; frame++)
    survey.add({ ...sensor, channels: 3, data: shootCovered(frame) })
  const map = mapFromFinds(survey.finish().survey.finds, sensor, {
    camera: name,
    madeOn,
    sensor,
    readout: 'scaled',
  })
  const kept = await changeCameras(db, {
    intent: 'keep',
    productionId: DEMO_PRODUCTION_ID,
    shotId: null,
    map,
  })
  if (!kept.ok) throw new Error(`the demo's camera was not kept: ${kept.message}`)
  const [camera] = await db
    .select({ id: cameras.id })
    .from(cameras)
    .where(eq(cameras.productionId, DEMO_PRODUCTION_ID))
  await db
    .update(shots)
    .set({ cameraId: camera!.id })
    .where(and(eq(shots.productionId, DEMO_PRODUCTION_ID), eq(shots.name, CAMERA.shot)))
}

async function bringIn(
  context: ServerContext,
  { name, title, firstFrame, frameRate, isAllRound = false }: ShotDescription,
  folder: string,
): Promise<void> {
  const count = (await readdir(folder)).length
  const input: MediaInput = {
    kind: 'sequence',
    pattern: join(folder, `${name}.%04d.png`),
    startNumber: firstFrame,
    frameRate,
    shownName: name,
  }
  const shape = { ...(await probeMedia(input)), expectedFrames: { count, isExact: true } }
  await storePlate(
    context,
    {
      productionId: DEMO_PRODUCTION_ID,
      name,
      title,
      sourceName: `${name}.%04d.png`,
      firstFrame,
      input,
      shape,
    },
    async () => undefined,
    async (tx, shotId) => {
      if (isAllRound) await tx.update(shots).set({ isAllRound }).where(eq(shots.id, shotId))
    },
  )
}
