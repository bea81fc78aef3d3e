/** Crops of places that show: plate, result and their difference side by side, as far as the result is stored. */
import { LRUCache } from 'lru-cache'
import sharp from 'sharp'
import { layPatches } from '../core/evaluate/finished'
import { storedFrame } from '../core/evaluate/evaluateFrame'
import { tracksById } from '../core/document/tracks'
import { wholePicture, type Rect } from '../core/image/rect'
import { cropSamples, rgba8FromSamples, type Samples } from '../core/image/samples'
import { planFrame } from '../core/plan/planFrame'
import type { ShotDocument } from '../core/plan/shotDocument'
import type { ServerContext } from './context.server'
import { readStored } from './jobs/renderChunk.server'
import { findShot, loadShotDocument, type Plate } from './shots.server'
import { storedClip } from './thumbnails.server'
import { findVersion } from './versions.server'

/** Side of a crop, px of the picture. */
export const CROP_PX = 64
/** By how much the difference is made larger. */
export const CROP_GAIN = 8

export interface CropSubject {
  readonly plate: Plate
  readonly document: ShotDocument
}

/** What was asked for last: a page asks for many crops of one. A version stays as it is, mends as long as the shot's revision does. */
const loaded = new LRUCache<string, CropSubject>({ max: 8 })

/** What a proof is of, as it is evaluated; null where it is gone. */
export async function cropSubject(
  context: ServerContext,
  shotId: string,
  versionId: string | null,
): Promise<CropSubject | null> {
  const found = await findShot(context.database.db, shotId)
  if (!found) return null
  const key = `${shotId} ${versionId ?? found.shot.revision}`
  const known = loaded.get(key)
  if (known) return known
  const subject = await loadSubject(context, shotId, versionId, found.plate)
  if (subject) loaded.set(key, subject)
  return subject
}

async function loadSubject(
  context: ServerContext,
  shotId: string,
  versionId: string | null,
  plate: Plate,
): Promise<CropSubject | null> {
  if (versionId === null) return loadShotDocument(context.database.db, shotId)
  const version = await findVersion(context, versionId)
  if (version?.shotId !== shotId) return null
  const { mends, tracks } = readStored(version.document)
  const range = { firstFrame: plate.firstFrame, lastFrame: plate.firstFrame + plate.frameCount - 1 }
  const size = { width: plate.width, height: plate.height }
  return {
    plate,
    document: { mends, tracks: tracksById(tracks), plate: { ...range, ...size }, scene: version.scene },
  }
}

/** @returns A PNG of three crops from left to right; null where there is no such frame, or its result is not stored. */
export async function proofCrop(
  context: ServerContext,
  { plate, document }: CropSubject,
  frame: number,
  at: { readonly x: number; readonly y: number },
): Promise<Buffer | null> {
  const { firstFrame, lastFrame } = document.plate
  if (frame < firstFrame || frame > lastFrame) return null
  const clip = storedClip(context, plate)
  const stored = await storedFrame(planFrame(document, frame), clip)
  if (!stored) return null
  const before = await clip.readRect(frame, wholePicture(plate))
  const after = layPatches(before, stored.patches, plate.channels)
  const rect = rectAt(at, plate)
  const [a, b] = [rgba8FromSamples(cropSamples(before, rect)), rgba8FromSamples(cropSamples(after, rect))]
  return sideBySide([a, b, differenceOf(a, b)], rect)
}

function rectAt({ x, y }: { readonly x: number; readonly y: number }, plate: Plate): Rect {
  const side = (length: number) => Math.min(CROP_PX, length)
  const [width, height] = [side(plate.width), side(plate.height)]
  const from = (middle: number, length: number, all: number) =>
    Math.min(Math.max(0, Math.round(middle - length / 2)), all - length)
  return { col: from(x, width, plate.width), row: from(y, height, plate.height), width, height }
}

function differenceOf(a: Uint8ClampedArray, b: Uint8ClampedArray): Uint8ClampedArray {
  return a.map((value, i) => (i % 4 === 3 ? 255 : Math.min(255, CROP_GAIN * Math.abs(b[i]! - value))))
}

function sideBySide(
  parts: readonly Uint8ClampedArray[],
  { width, height }: Pick<Samples, 'width' | 'height'>,
): Promise<Buffer> {
  const out = new Uint8Array(4 * width * parts.length * height)
  for (const [i, part] of parts.entries())
    for (let row = 0; row < height; row++)
      out.set(part.subarray(4 * width * row, 4 * width * (row + 1)), 4 * width * (row * parts.length + i))
  return sharp(Buffer.from(out.buffer), { raw: { width: width * parts.length, height, channels: 4 } })
    .removeAlpha()
    .png()
    .toBuffer()
}
