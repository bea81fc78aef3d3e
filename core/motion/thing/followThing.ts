/**
 * Follows a thing by what sets it apart: it differs from the background that other frames show. Outlined on some frames, its outline is
 * moved along on the others so that what is foreground under it is what was foreground under it where it was drawn.
 */
import { boundsOfPolygon } from '../../geometry/polygon'
import { medianOf } from '../../image/median'
import type { Raster } from '../../image/raster'
import { wholePicture } from '../../image/rect'
import type { RunContext } from '../../shot/context'
import type { PictureSource, TrackedFrame } from '../runTrack'
import type { Candidate } from './candidates'
import { cellMeans } from './cells'
import { backgroundFramesOf, isBetweenDrawn, type ExpectedOutline } from './expectedOutline'
import { ForegroundPass, type MaskedFrame, type PassInput } from './foregroundPass'
import { maskOfRuns, runsOf } from './outlineRuns'

export type ThingRequest = Pick<PassInput, 'outlines' | 'motionBetween'>

/** Of each frame a place and how sure it is, the drawn ones as they were drawn; or why there is none. */
export type FoundThing =
  | { readonly ok: true; readonly frames: readonly TrackedFrame[] }
  /** `like-background`: wherever it was drawn nothing sets it apart, as it hides the same background on all frames. */
  | { readonly ok: false; readonly reason: 'stopped' | 'like-background' }

/** A thing is seen in about so many cells across. */
const CELLS_ACROSS = 16
const CELL_PX = { min: 1, max: 6 } as const
const STOPPED = { ok: false, reason: 'stopped' } as const

/** Two passes: which frames the thing hides the background on is known once it was followed, and then all is told better. */
export async function followThing(
  request: ThingRequest,
  source: PictureSource,
  context: RunContext,
): Promise<FoundThing> {
  const { outlines } = request
  const cellPx = cellPxOf(outlines)
  const read = async ({ frame }: ExpectedOutline): Promise<Raster> =>
    cellMeans(await source.readRect(frame, wholePicture(source.plate)), cellPx)
  let done = 0
  const total = backgroundFramesOf(outlines).length + 2 * outlines.length
  const tick = () => context.onProgress?.(++done, total)
  let background: MaskedFrame[] = []
  for (const outline of backgroundFramesOf(outlines)) {
    if (context.shouldStop()) return STOPPED
    const cells = await read(outline)
    background.push({ outline, cells, masked: maskAtFirst(outlines, outline, cells, cellPx) })
    tick()
  }
  const passOver = async (): Promise<ForegroundPass | FoundThing> => {
    const pass = new ForegroundPass({ ...request, background, cellPx, pictureWidth: source.plate.width })
    for (const outline of outlines.toSorted((a, b) => Number(b.isDrawn) - Number(a.isDrawn))) {
      if (context.shouldStop()) return STOPPED
      if (!outline.isDrawn && !pass.isDistinct) break
      pass.add(outline, background.find((one) => one.outline === outline)?.cells ?? (await read(outline)))
      tick()
    }
    return pass.isDistinct ? pass : { ok: false, reason: 'like-background' }
  }
  const first = await passOver()
  if (!(first instanceof ForegroundPass)) return first
  background = background.map((one) => ({ ...one, masked: first.maskOn(one) }))
  const second = await passOver()
  return second instanceof ForegroundPass
    ? { ok: true, frames: trackedFrames(outlines, second.path, cellPx) }
    : second
}

function cellPxOf(outlines: readonly ExpectedOutline[]): number {
  const sizes = outlines.map(({ polygon }) => {
    const { left, top, right, bottom } = boundsOfPolygon(polygon)
    return Math.min(right - left, bottom - top)
  })
  return Math.min(CELL_PX.max, Math.max(CELL_PX.min, Math.round(medianOf(sizes) / CELLS_ACROSS)))
}

/** Beyond the frames with drawings nobody knows at first where the thing is: of many frames few show it in the same place. */
const maskAtFirst = (
  outlines: readonly ExpectedOutline[],
  { frame, polygon }: ExpectedOutline,
  cells: Raster,
  cellPx: number,
): Uint8Array =>
  maskOfRuns(isBetweenDrawn(outlines, frame) ? runsOf(polygon, cellPx) : new Int32Array(0), cells)

const trackedFrames = (
  outlines: readonly ExpectedOutline[],
  path: readonly Candidate[],
  cellPx: number,
): TrackedFrame[] =>
  outlines.map(({ frame, x, y, isDrawn }, i) => {
    const { dx, dy, score } = path[i]!
    const sure = isDrawn ? 1 : Math.min(1, Math.max(0, score))
    return { frame, sure, values: [x + dx * cellPx, y + dy * cellPx] }
  })
