/** What a mend comes to with each of the places suggested: a small picture of the result, and what it measures. */
import type { Mend } from '../../document/mend'
import type { Shift, Source } from '../../document/source'
import { restingSource, ridesWith } from '../../document/sourceKeys'
import type { Area } from '../../document/areas'
import type { Tracks } from '../../document/tracks'
import { growRect, intersectRects, uniteRects, wholePicture, type Rect } from '../../image/rect'
import { createSamples, pasteSamplesInto, rgba8FromSamples, type Samples } from '../../image/samples'
import type { MendMeasure } from '../../measure/mendMeasure'
import { planFrame } from '../../plan/planFrame'
import type { ShotDocument } from '../../plan/shotDocument'
import type { Clip } from '../../shot/clip'
import type { RunContext } from '../../shot/context'
import { evaluateFrame } from '../evaluateFrame'
import { askedFor, suggestSources, type SuggestedSource } from './suggestSources'
import type { SuggestRequest } from './views'

/** A suggestion with what comes of it on the frame looked at. */
export interface SuggestedResult extends SuggestedSource {
  readonly picture: SmallPicture
}

/** 8-bit RGBA, opaque. */
export interface SmallPicture {
  readonly width: number
  readonly height: number
  readonly data: Uint8ClampedArray<ArrayBuffer>
}

/** Around the area as much of the plate is shown as shows whether it fits: of its longer side, and at least so many px. */
const AROUND = { share: 0.35, leastPx: 16 } as const
const LONGEST_PX = 192
/** What counts against a result beside its rim, of that: a copy that is known again, and a step as large as any beside it. */
const [REPEAT_PRICE, STEP_PRICE] = [0.5, 0.1] as const

/**
 * Suggested places as pictures of the result, the best first: by how unlike the rims are, by the step that is left across the rim, and by
 * whether the copy is known again.
 */
export async function suggestedResults(
  document: ShotDocument,
  request: SuggestRequest,
  clip: Clip,
  context: RunContext,
): Promise<SuggestedResult[]> {
  const asked = askedFor(document, request)
  const sources = await suggestSources(document, request, clip, context)
  if (!asked) return []
  const out: (SuggestedResult & { readonly cost: number })[] = []
  for (const [i, one] of sources.entries()) {
    context.onProgress?.(i, sources.length)
    const source = sourceAt(asked.mend, asked.area, document.tracks, one)
    const result = await resultOf(document, { ...asked.mend, source }, request, clip, context)
    if (!result) return []
    out.push({ ...one, picture: result.picture, cost: one.difference * costOf(result.measure) })
  }
  return out.sort((a, b) => a.cost - b.cost).map(({ cost: _cost, ...result }) => result)
}

/** A suggested place as a mend's source: it goes with the ground as the area does. */
export const sourceAt = (mend: Mend, area: Area, tracks: Tracks, shift: Shift): Source => ({
  ...restingSource(mend.span, shift),
  follow: ridesWith(area, tracks),
})

/** 1 and more. */
function costOf(measure: MendMeasure | null): number {
  const step = Math.max(0, (measure?.rimStep ?? 1) - 1)
  return 1 + REPEAT_PRICE * (measure?.repeated ?? 0) + STEP_PRICE * step
}

/** The one mend alone on the plate, as it comes out around its area; null when it was stopped. */
async function resultOf(
  document: ShotDocument,
  mend: Mend,
  { frame }: SuggestRequest,
  clip: Clip,
  context: RunContext,
): Promise<{ readonly picture: SmallPicture; readonly measure: MendMeasure | null } | null> {
  const mends = document.mends.map((one) => (one.id === mend.id ? mend : one))
  const plan = planFrame({ ...document, mends }, frame)
  const placements = plan.placements.filter((one) => one.mend.id === mend.id)
  const { shouldStop } = context
  const { patches, measures } = await evaluateFrame({ ...plan, placements }, clip, { shouldStop })
  if (shouldStop()) return null
  const rect = shownRect(
    patches.map((patch) => patch.rect),
    wholePicture(clip.plate),
  )
  const samples = await clip.readRect(frame, rect)
  for (const { rect: at, samples: patch } of patches)
    pasteSamplesInto(samples, patch, { ...at, col: at.col - rect.col, row: at.row - rect.row })
  return { picture: smallPicture(samples), measure: measures[0] ?? null }
}

function shownRect(patches: readonly Rect[], whole: Rect): Rect {
  if (patches.length === 0) return whole
  const rect = patches.reduce(uniteRects)
  const around = Math.max(AROUND.leastPx, Math.ceil(AROUND.share * Math.max(rect.width, rect.height)))
  return intersectRects(growRect(rect, around), whole)!
}

/** Means of square blocks, so that the longer side is short enough. */
function smallPicture(samples: Samples): SmallPicture {
  const by = Math.ceil(Math.max(samples.width, samples.height) / LONGEST_PX)
  const { width, height, channels } = samples
  const small = createSamples(
    Math.max(1, Math.floor(width / by)),
    Math.max(1, Math.floor(height / by)),
    channels,
    samples.data.BYTES_PER_ELEMENT === 1 ? 8 : 16,
  )
  for (let row = 0, to = 0; row < small.height; row++) {
    for (let col = 0; col < small.width; col++) {
      for (let c = 0; c < channels; c++, to++) {
        let sum = 0
        for (let y = row * by; y < row * by + by; y++)
          for (let x = col * by; x < col * by + by; x++)
            sum += samples.data[(Math.min(y, height - 1) * width + Math.min(x, width - 1)) * channels + c]!
        small.data[to] = Math.round(sum / (by * by))
      }
    }
  }
  return { width: small.width, height: small.height, data: rgba8FromSamples(small) }
}
