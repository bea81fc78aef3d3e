/** What the report of a version is made of. */
import { eq } from 'drizzle-orm'
import { worstPlaces } from '../core/proof/frameProof'
import type { Snag } from '../core/snags/snags'
import type { ServerContext } from './context.server'
import { versions } from './db/schema'
import { readStored } from './jobs/renderChunk.server'
import { isLossless } from './media/delivered.server'
import { RENDER_FORMATS } from './media/formats'
import { listNotes, reviewsOf } from './notes.server'
import { cropSubject, proofCrop } from './proofCrops.server'
import { loadDigests, loadFrameProofs, loadProof } from './proofs.server'
import { findShot } from './shots.server'

/** Worst places with their pictures. */
const MAX_PICTURES = 12

/** @returns null where there is no such version. */
export async function reportOf(context: ServerContext, versionId: string) {
  const { db } = context.database
  const [version] = await db.select().from(versions).where(eq(versions.id, versionId))
  const found = version && (await findShot(db, version.shotId))
  if (!version || !found) return null
  const { shotId } = version
  const [proofs, digests, { snags }, notes, reviews] = await Promise.all([
    loadFrameProofs(db, shotId, versionId),
    loadDigests(db, shotId, versionId),
    loadProof(db, shotId, versionId, null),
    listNotes(db, shotId),
    reviewsOf(db, [versionId]),
  ])
  return {
    productionName: found.productionName,
    shotName: found.shot.name,
    version: {
      number: version.number,
      format: RENDER_FORMATS[version.format].title,
      fileName: version.fileName,
      firstFrame: version.firstFrame,
      lastFrame: version.lastFrame,
      finishedAt: version.finishedAt?.toISOString() ?? null,
      isLossless: isLossless(version.format),
    },
    document: readStored(version.document),
    proofs,
    digests,
    worst: await withPictures(context, shotId, versionId, worstPlaces(snags, MAX_PICTURES)),
    notes,
    reviews: reviews.get(versionId) ?? [],
  }
}

async function withPictures(
  context: ServerContext,
  shotId: string,
  versionId: string,
  snags: readonly Snag[],
) {
  const subject = await cropSubject(context, shotId, versionId)
  const worst = []
  for (const snag of snags) {
    const png = subject && (await proofCrop(context, subject, snag.frame, snag))
    worst.push({ snag, picture: png ? `data:image/png;base64,${png.toString('base64')}` : null })
  }
  return worst
}
