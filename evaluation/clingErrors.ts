/** How far a cling is from the exact threads of LM_010. */
import { createPathCurve, nearestOnPath, pathPointAt } from '../core/geometry/pathCurve'
import type { Track } from '../core/document/tracks'
import { trackedPoints } from '../core/motion/cling/clingCurves'
import { momentAt } from '../demo/lm010/scene'

/** Where an artist might click on frame 1024, several px off; the ends by as much. */
export const ROUGH_FRAME = 1024
export const ROUGH_DRAWINGS = {
  left: [
    [568, -12],
    [521, 363],
  ],
  right: [
    [745, -14],
    [800, 90],
    [806, 230],
    [797, 370],
  ],
} as const

export interface ClingErrors {
  readonly meanPx: number
  readonly maxPx: number
  /** Greatest relative error of the width. */
  readonly width: number
  /** Greatest distance of the lower end from where the thread touches the wing. */
  readonly endPx: number
}

/** Over all frames of a track, every 4 px of what is inside the picture. */
export function clingErrors(track: Track, name: 'left' | 'right'): ClingErrors {
  const errors: number[] = []
  const widths: number[] = []
  const ends: number[] = []
  for (const [frame, , ...values] of track.frames) {
    const thread = momentAt(frame).threads[name === 'left' ? 0 : 1]!
    const exact = createPathCurve(thread.points)
    const found = createPathCurve(trackedPoints(values))
    for (let arc = 0; arc <= found.lengthPx; arc += 4) {
      const at = pathPointAt(found, arc)
      if (at.y < 0) continue
      const near = nearestOnPath(exact, at.x, at.y)
      if (near.arcPx >= exact.lengthPx) continue // beyond the contact: told by the end
      errors.push(near.distancePx)
      widths.push(Math.abs(at.widthPx / pathPointAt(exact, near.arcPx).widthPx - 1))
    }
    const [x, y] = values.slice(-3) as [number, number]
    ends.push(Math.hypot(x - thread.contact.x, y - thread.contact.y))
  }
  return {
    meanPx: errors.reduce((a, b) => a + b, 0) / errors.length,
    maxPx: Math.max(...errors),
    width: Math.max(...widths),
    endPx: Math.max(...ends),
  }
}
