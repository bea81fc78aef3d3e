/** The demo film, brought in as any other footage: shots that are not there yet. */
import { existsSync } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { FILM } from '../demo/film'
import type { ShotDescription } from '../demo/shot'
import type { ServerContext } from './context.server'
import { DEMO_PRODUCTION_ID } from './db/migrate.server'
import { shots } from './db/schema'
import { storePlate } from './jobs/storePlate.server'
import { probeMedia, type MediaInput } from './media/probe.server'

/** Does nothing for shots that are in already. @param film  Folder that demo/main.ts has written. */
export async function seedDemo(context: ServerContext, film: string): Promise<void> {
  const { db } = context.database
  const known = await db.select({ name: shots.name }).from(shots).where(eq(shots.productionId, DEMO_PRODUCTION_ID))
  for (const { description } of FILM) {
    const folder = join(film, description.name, 'plate')
    if (known.some(({ name }) => name === description.name) || !existsSync(folder)) continue
    await bringIn(context, description, folder)
  }
}

async function bringIn(context: ServerContext, { name, title, firstFrame, frameRate }: ShotDescription, folder: string): Promise<void> {
  const count = (await readdir(folder)).length
  const input: MediaInput = { kind: 'sequence', pattern: join(folder, `${name}.%04d.png`), startNumber: firstFrame, frameRate, shownName: name }
  const shape = { ...(await probeMedia(input)), expectedFrames: count }
  await storePlate(
    context,
    { productionId: DEMO_PRODUCTION_ID, name, title, sourceName: `${name}.%04d.png`, firstFrame, input, shape },
    async () => undefined,
    async () => undefined,
  )
}
