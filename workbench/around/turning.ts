/** Turning a straight view by hand. */
import type { StraightView } from '../../core/sphere/straightView'

/** −180 to 180. */
export const turned = (headingDeg: number): number => ((((headingDeg + 180) % 360) + 360) % 360) - 180

const ANGLE = { min: 20, max: 130 }
const clamp = (value: number, min: number, max: number): number => Math.min(max, Math.max(min, value))

/** The view after the picture was pulled along by so many px of a picture so large. Near a pole a pull turns further, as the ground does. */
export function pulled(view: StraightView, dx: number, dy: number, side: number): StraightView {
  const perPx = view.angleDeg / side
  const upright = Math.max(0.2, Math.cos((view.pitchDeg * Math.PI) / 180))
  return {
    ...view,
    headingDeg: rounded(turned(view.headingDeg - (dx * perPx) / upright)),
    pitchDeg: rounded(clamp(view.pitchDeg + dy * perPx, -90, 90)),
  }
}

/** Nearer or further: by so many steps of a wheel or key. */
export const zoomed = (view: StraightView, steps: number): StraightView => ({
  ...view,
  angleDeg: Math.round(clamp(view.angleDeg * 1.1 ** steps, ANGLE.min, ANGLE.max)),
})

const rounded = (value: number): number => Math.round(10 * value) / 10
