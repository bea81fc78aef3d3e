/** Small pictures for cards: a frame as it is mended, as far as that was worked out. */
import { LRUCache } from 'lru-cache'
import sharp from 'sharp'
import { layPatches } from '../core/evaluate/finished'
import { storedFrame } from '../core/evaluate/evaluateFrame'
import { wholePicture } from '../core/image/rect'
import { rgba8FromSamples, type BitDepth, type Samples } from '../core/image/samples'
import { planFrame } from '../core/plan/planFrame'
import type { Clip } from '../core/shot/clip'
import type { ServerContext } from './context.server'
import { createDirectoryStore } from './frames/store.server'
import { readImportedMatte } from './mattes.server'
import { plateReference } from './plateFrames.server'
import { createDirectoryResultStore } from './results/resultStore.server'
import { loadShotDocument } from './shots.server'
import { readMark } from './marks.server'
import { readImportedStill } from './stills.server'

type Loaded = NonNullable<Awaited<ReturnType<typeof loadShotDocument>>>

/** Shots whose pictures were asked for last: a card is asked for many frames while the pointer goes over it. */
const loaded = new LRUCache<string, Loaded>({ max: 8 })

export interface Thumbnail {
  readonly jpeg: Buffer
  /** With all that its mends make of it; else it is the plate. */
  readonly isMended: boolean
}

/** @returns null where there is no such shot or frame. */
export async function mendedThumbnail(
  context: ServerContext,
  shotId: string,
  revision: number,
  frame: number,
  widthPx: number,
): Promise<Thumbnail | null> {
  const key = `${shotId} ${revision}`
  const shot = loaded.get(key) ?? (await loadShotDocument(context.database.db, shotId))
  if (!shot || frame < shot.document.plate.firstFrame || frame > shot.document.plate.lastFrame) return null
  if (shot.revision === revision) loaded.set(key, shot)
  const clip = storedClip(context, shot.plate)
  const [plate, mended] = [
    await clip.readRect(frame, wholePicture(shot.plate)),
    await storedFrame(planFrame(shot.document, frame), clip),
  ]
  const samples = mended ? layPatches(plate, mended.patches, shot.plate.channels) : plate
  return { jpeg: await smallJpeg(samples, widthPx), isMended: mended !== null && shot.revision === revision }
}

/** The plate on this machine's disk, with what is stored of it. */
export function storedClip(context: ServerContext, plate: Loaded['plate']): Clip {
  const reference = plateReference(context, plate)
  const store = createDirectoryStore(reference.location)
  const shape = { ...reference, bitDepth: plate.bitDepth as BitDepth }
  return {
    plate: shape,
    readRect: (frame, rect) => store.readRect(plate.id, shape, frame, rect),
    readMatte: (pattern, frame) => readImportedMatte(reference.matteLocation, pattern, frame),
    readStill: (name, rect) => readImportedStill(store, reference, name, rect),
    readMark: (name) => readMark(reference.markLocation, name),
    results: createDirectoryResultStore(reference.resultLocation, plate.id),
  }
}

const smallJpeg = (samples: Samples, widthPx: number): Promise<Buffer> =>
  sharp(rgba8FromSamples(samples), {
    raw: { width: samples.width, height: samples.height, channels: 4 },
  })
    .resize(widthPx)
    .removeAlpha()
    .jpeg({ quality: 82 })
    .toBuffer()
