/** Mended pieces of a frame, ready to be drawn over the plate. */
import { rgba8FromSamples, rgba8WithAlpha, type Samples } from '../../core/image/samples'
import type { EvaluateAnswer, EvaluateRequest } from '../../workers/protocol'

export interface ShownPatch {
  readonly col: number
  readonly row: number
  readonly bitmap: ImageBitmap
  /** At the plate's depth. */
  readonly samples: Samples
  /** Something of it is cut away: what lies behind is shown as nothing, not as the plate. */
  readonly hasHoles: boolean
  /** How far mends cover each pixel, 0 to 1; null where that was not asked for. */
  readonly covered: Float32Array | null
}

export interface Mended {
  /** What the frame is called: equal exactly when its pixels are. */
  readonly name: string
  readonly isDraft: boolean
  /** Nothing of it was measured yet. */
  readonly isPassing: boolean
  /** With maps of where gathered pixels were seen. */
  readonly showsSeen: boolean
  /** With how far mends cover each pixel. */
  readonly tellsCovered: boolean
  readonly patches: readonly ShownPatch[]
  readonly measures: EvaluateAnswer['measures']
  readonly notes: EvaluateAnswer['notes']
  readonly seenMaps: EvaluateAnswer['seenMaps']
}

/** Pixels arrive on the canvas as they are. */
export const EXACT: ImageBitmapOptions = { premultiplyAlpha: 'none', colorSpaceConversion: 'none' }

export async function mendedPieces(
  answer: EvaluateAnswer,
  { isDraft, isPassing = false, showsSeen = false, tellsCovered = false }: EvaluateRequest,
): Promise<Mended> {
  const { name, measures, notes, seenMaps } = answer
  const patches = await Promise.all(answer.patches.map(toShownPatch))
  return { name, isDraft, isPassing, showsSeen, tellsCovered, patches, measures, notes, seenMaps }
}

async function toShownPatch({
  rect,
  samples,
  alpha,
  covered,
}: EvaluateAnswer['patches'][number]): Promise<ShownPatch> {
  const pixels = alpha ? rgba8WithAlpha(samples, alpha) : rgba8FromSamples(samples)
  const image = new ImageData(pixels, samples.width, samples.height)
  const bitmap = await createImageBitmap(image, EXACT)
  return { col: rect.col, row: rect.row, bitmap, samples, hasHoles: alpha !== null, covered: covered ?? null }
}

export const closePieces = (mended: Mended | null): void =>
  mended?.patches.forEach(({ bitmap }) => bitmap.close())

/** What all of it takes; pictures 4 bytes a pixel. */
export const bytesOfPieces = ({ patches, seenMaps }: Mended): number =>
  patches.reduce(
    (sum, { bitmap, samples, covered }) =>
      sum + 4 * bitmap.width * bitmap.height + samples.data.byteLength + (covered?.byteLength ?? 0),
    0,
  ) + seenMaps.reduce((sum, { seen, from }) => sum + seen.byteLength + from.byteLength, 0)
