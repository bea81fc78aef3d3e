/** The demo shot, brought in once as any other footage. */
import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { LM_010 } from '../demo/lm010/scene'
import type { ServerContext } from './context.server'
import { DEMO_PRODUCTION_ID } from './db/migrate.server'
import { shots } from './db/schema'
import { storePlate } from './jobs/storePlate.server'
import { probeMedia, type MediaInput } from './media/probe.server'

/** Does nothing where the demo shot is in already. @param film  Folder that demo/main.ts has written. */
export async function seedDemo(context: ServerContext, film: string): Promise<void> {
  const { db } = context.database
  const [known] = await db.select({ id: shots.id }).from(shots).where(eq(shots.productionId, DEMO_PRODUCTION_ID))
  if (known) return
  const folder = join(film, LM_010.name, 'plate')
  const count = (await readdir(folder)).length
  const input: MediaInput = {
    kind: 'sequence',
    pattern: join(folder, `${LM_010.name}.%04d.png`),
    startNumber: LM_010.firstFrame,
    frameRate: LM_010.frameRate,
    shownName: LM_010.name,
  }
  const shape = { ...(await probeMedia(input)), expectedFrames: count }
  await storePlate(
    context,
    {
      productionId: DEMO_PRODUCTION_ID,
      name: LM_010.name,
      title: LM_010.title,
      sourceName: `${LM_010.name}.%04d.png`,
      firstFrame: LM_010.firstFrame,
      input,
      shape,
    },
    async () => undefined,
    async () => undefined,
  )
}
