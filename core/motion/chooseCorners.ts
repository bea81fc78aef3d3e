import type { Plane } from '../image/raster'

const HALF_PX = 4 // of the window in which gradients are gathered

/**
 * Places of a plane that a point tracker can hold: the smaller eigenvalue of the gradient matrix is high,
 * and no two are near each other.
 *
 * @param isWanted  Whether a place (px of the plane) may be chosen.
 * @returns At most `most` places, the best first.
 * Source: J. Shi, C. Tomasi, "Good features to track", CVPR 1994.
 */
export function chooseCorners(
  plane: Plane,
  isWanted: (x: number, y: number) => boolean,
  max: number,
): { x: number; y: number; strength: number }[] {
  const { width, height, data } = plane
  const found: { x: number; y: number; strength: number }[] = []
  for (let row = HALF_PX + 1; row < height - HALF_PX - 1; row += 2) {
    for (let col = HALF_PX + 1; col < width - HALF_PX - 1; col += 2) {
      if (!isWanted(col + 0.5, row + 0.5)) continue
      let [xx, xy, yy] = [0, 0, 0]
      for (let j = -HALF_PX; j <= HALF_PX; j++) {
        for (let i = -HALF_PX; i <= HALF_PX; i++) {
          const at = (row + j) * width + col + i
          const gx = data[at + 1]! - data[at - 1]!
          const gy = data[at + width]! - data[at - width]!
          xx += gx * gx
          xy += gx * gy
          yy += gy * gy
        }
      }
      const strength = (xx + yy) / 2 - Math.sqrt(((xx - yy) / 2) * ((xx - yy) / 2) + xy * xy)
      found.push({ x: col + 0.5, y: row + 0.5, strength })
    }
  }
  found.sort((a, b) => b.strength - a.strength)
  const area = found.length * 4
  const apartPx = Math.max(6, Math.sqrt(area / Math.max(max, 1)) * 0.7)
  const chosen: typeof found = []
  const floor = (found[0]?.strength ?? 0) * 0.005
  for (const place of found) {
    if (chosen.length >= max || place.strength <= floor) break
    if (
      chosen.every(
        (one) =>
          (one.x - place.x) * (one.x - place.x) + (one.y - place.y) * (one.y - place.y) >= apartPx * apartPx,
      )
    )
      chosen.push(place)
  }
  return chosen
}
