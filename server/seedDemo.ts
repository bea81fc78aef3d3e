/** Brings the demo shot in, once: `node --import tsx server/seedDemo.ts [folder of the demo film]`. */
import { readdir } from 'node:fs/promises'
import { join, resolve } from 'node:path'
import { eq } from 'drizzle-orm'
import { LM_010 } from '../demo/lm010/scene'
import { serverContext } from './context.server'
import { shots } from './db/schema'
import { storePlate } from './jobs/storePlate.server'
import { probeMedia, type MediaInput } from './media/probe.server'
import { DEMO_PRODUCTION_ID } from './db/migrate.server'

const film = resolve(process.argv[2] ?? '.data/demo')
const context = serverContext()
const { db, pool } = context.database

const [known] = await db.select({ id: shots.id }).from(shots).where(eq(shots.productionId, DEMO_PRODUCTION_ID))
if (!known) {
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
  console.log(`demo: ${LM_010.name} is in`)
}
await pool.end()
