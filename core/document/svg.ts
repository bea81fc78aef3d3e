/** The areas of a mend on one frame as SVG: curves stay curves. */
import { createPathCurve } from '../geometry/pathCurve'
import type { Size } from '../image/rect'
import type { Frame } from '../time'
import type { Geometry } from './areas'
import { geometryAt } from './keyedGeometry'
import type { Mend } from './mend'
import type { Tracks } from './tracks'

const n = (value: number): string => String(Math.round(value * 1000) / 1000)

/**
 * One element for each area, in px of the picture, with its id and role. Paths carry their middle width as stroke width.
 * Format: W3C Scalable Vector Graphics 1.1.
 */
export function areaToSvg(mend: Mend, tracks: Tracks, frame: Frame, { width, height }: Size): string {
  const shapes = mend.areas.flatMap((area) => {
    if (area.shape === 'matte') return []
    const element = elementOf(geometryAt(area, tracks, frame))
    return [`  <g id="${area.id}" class="${area.role}">${element}</g>`]
  })
  const title = mend.name.replace(/[<&>]/g, (one) => ({ '<': '&lt;', '&': '&amp;', '>': '&gt;' })[one]!)
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">`,
    `  <title>${title}, frame ${frame}</title>`,
    ...shapes,
    '</svg>',
    '',
  ].join('\n')
}

function elementOf(geometry: Geometry): string {
  switch (geometry.shape) {
    case 'path': {
      const { xs, ys, widths } = createPathCurve(geometry.points)
      const d = Array.from(xs, (x, i) => `${i === 0 ? 'M' : 'L'}${n(x)} ${n(ys[i]!)}`).join('')
      return `<path d="${d}" fill="none" stroke="#000" stroke-width="${n(widths[widths.length >> 1]!)}"/>`
    }
    case 'ellipse': {
      const { x, y, radiusXPx, radiusYPx, turnDeg } = geometry
      return `<ellipse cx="${n(x)}" cy="${n(y)}" rx="${n(radiusXPx)}" ry="${n(radiusYPx)}" transform="rotate(${n(turnDeg)} ${n(x)} ${n(y)})"/>`
    }
    case 'box': {
      const { x, y, widthPx, heightPx, turnDeg, cornerPx } = geometry
      const place = `x="${n(x - widthPx / 2)}" y="${n(y - heightPx / 2)}" width="${n(widthPx)}" height="${n(heightPx)}"`
      return `<rect ${place} rx="${n(cornerPx)}" transform="rotate(${n(turnDeg)} ${n(x)} ${n(y)})"/>`
    }
    case 'outline': {
      const { points } = geometry
      const sides = points.map((a, i) => {
        const b = points[(i + 1) % points.length]!
        return `C${n(a.x + a.outX)} ${n(a.y + a.outY)} ${n(b.x + b.inX)} ${n(b.y + b.inY)} ${n(b.x)} ${n(b.y)}`
      })
      return `<path d="M${n(points[0]!.x)} ${n(points[0]!.y)}${sides.join('')}Z"/>`
    }
  }
}
