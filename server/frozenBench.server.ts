/** Versions that can be looked at and decided on, and the mends that each was made of: they stay as they were. */
import { and, desc, eq } from 'drizzle-orm'
import type { Review } from '../core/proof/review'
import type { SceneStatus } from '../core/jobs/scene'
import type { Transaction } from './db/client.server'
import { versions } from './db/schema'
import { readStored } from './jobs/renderChunk.server'
import { RENDER_FORMATS, type RenderFormat } from './media/formats'
import { isLossless } from './media/delivered.server'
import { reviewsOf } from './notes.server'

export interface ProvableVersion {
  readonly id: string
  readonly number: number
  readonly format: RenderFormat
  readonly formatTitle: string
  readonly isLossless: boolean
  readonly firstFrame: number
  readonly lastFrame: number
  /** The latest first; none before anybody has decided. */
  readonly reviews: readonly Review[]
}

/** The finished versions of a shot, the latest first. */
export async function listProvable(tx: Transaction, shotId: string): Promise<ProvableVersion[]> {
  const rows = await tx
    .select({
      id: versions.id,
      number: versions.number,
      format: versions.format,
      firstFrame: versions.firstFrame,
      lastFrame: versions.lastFrame,
    })
    .from(versions)
    .where(and(eq(versions.shotId, shotId), eq(versions.state, 'done')))
    .orderBy(desc(versions.number))
  const reviews = await reviewsOf(
    tx,
    rows.map(({ id }) => id),
  )
  return rows.map((row) => ({
    ...row,
    formatTitle: RENDER_FORMATS[row.format].title,
    isLossless: isLossless(row.format),
    reviews: reviews.get(row.id) ?? [],
  }))
}

/** What a bench shows of a version: its own mends, tracks and scene, and no history. */
export async function frozenBench(tx: Transaction, versionId: string) {
  const [version] = await tx
    .select({ document: versions.document, scene: versions.scene })
    .from(versions)
    .where(eq(versions.id, versionId))
  const { mends, tracks } = readStored(version!.document)
  const scene: SceneStatus = {
    state: 'done',
    scene: version!.scene,
    stepsDone: 0,
    stepsTotal: 0,
    error: null,
  }
  return {
    records: mends.map((mend, stackIndex) => ({ ...mend, stackIndex })),
    tracks,
    scene,
    history: [],
  }
}
