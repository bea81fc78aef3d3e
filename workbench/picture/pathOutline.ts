import { createPathCurve, pathPointAt, type PathCurve, type PathPoint } from '../../core/geometry/pathCurve'
import { toScreen, type View } from './view'

/** SVG path data of a path area on the screen: its centreline and its two edges. */
export interface PathOutline {
  readonly curve: PathCurve
  readonly centre: string
  readonly edges: string
  /** On the right edge, a little before half way so that no point lies under it: where the width is taken hold of. */
  readonly widthHandle: {
    readonly x: number
    readonly y: number
    readonly normalX: number
    readonly normalY: number
  }
}

export function outlinePath(points: readonly PathPoint[], view: View): PathOutline {
  const curve = createPathCurve(points)
  const line = (offset: number): string => {
    const parts: string[] = []
    for (let i = 0; i < curve.arcs.length; i++) {
      const half = (curve.widths[i]! / 2) * offset
      const { xScreen, yScreen } = toScreen(
        view,
        curve.xs[i]! - curve.tangentYs[i]! * half,
        curve.ys[i]! + curve.tangentXs[i]! * half,
      )
      parts.push(`${i === 0 ? 'M' : 'L'}${xScreen.toFixed(2)} ${yScreen.toFixed(2)}`)
    }
    return parts.join('')
  }
  const middle = pathPointAt(curve, curve.lengthPx * 0.42)
  const [normalX, normalY] = [-middle.tangentY, middle.tangentX]
  return {
    curve,
    centre: line(0),
    edges: line(-1) + line(1),
    widthHandle: {
      x: middle.x + normalX * (middle.widthPx / 2),
      y: middle.y + normalY * (middle.widthPx / 2),
      normalX,
      normalY,
    },
  }
}

/** SVG path data of a closed polygon, x, y pairs, on the screen. */
export function polygonPath(polygon: readonly number[], view: View): string {
  const parts: string[] = []
  for (let i = 0; i < polygon.length; i += 2) {
    const { xScreen, yScreen } = toScreen(view, polygon[i]!, polygon[i + 1]!)
    parts.push(`${i === 0 ? 'M' : 'L'}${xScreen.toFixed(2)} ${yScreen.toFixed(2)}`)
  }
  return parts.length > 0 ? `${parts.join('')}Z` : ''
}
