/** Flashes and flicker: how light the picture as a whole is, from frame to frame. Told, not mended. */
import { medianOf } from '../../image/median'
import type { Plane } from '../../image/raster'
import type { Frame } from '../../time'

/** Frames on which the whole picture is lighter or darker than before and after. */
export interface Flash {
  readonly firstFrame: Frame
  readonly lastFrame: Frame
  /** Above 0: lighter. */
  readonly stops: number
}

export interface LightCourse {
  readonly flashes: readonly Flash[]
  /** Deviation of the light from frame to frame, stops, what changes slowly taken off; 0 of less than can be told. */
  readonly flickerStops: number
}

export interface LightCounter {
  /** @param step  By how many stops the picture has become lighter since the frame before; null where it is another picture. */
  add(frame: Frame, step: number | null): void
  finish(): LightCourse
}

/** Light comes and goes within so many frames. */
const LONGEST_FLASH = 4
const MIN_FLASH_STOPS = 0.15
/** And is back to within such a share of what it was. */
const BACK_SHARE = 0.35
const MIN_FLICKER_STOPS = 0.01
const MIN_STEPS = 6

export function countLight(): LightCounter {
  const flashes: Flash[] = []
  const steps: number[] = []
  /** Frames of this picture that may belong to a flash: how light each is against the first of them. */
  let recent: { frame: Frame; light: number }[] = []
  return {
    add(frame, step) {
      if (step === null) {
        recent = [{ frame, light: 0 }]
        return
      }
      steps.push(step)
      recent.push({ frame, light: (recent.at(-1)?.light ?? 0) + step })
      if (recent.length > LONGEST_FLASH + 2) recent.shift()
      const flash = flashAtEnd(recent)
      if (!flash) return
      flashes.push(flash)
      recent = recent.slice(-1)
    },
    finish: () => ({ flashes, flickerStops: flickerOf(steps) }),
  }
}

/** Whether the last frame is as light as one a few frames before, and what lies between is not. */
function flashAtEnd(recent: readonly { readonly frame: Frame; readonly light: number }[]): Flash | null {
  const now = recent.at(-1)!
  for (let k = recent.length - 3; k >= 0; k--) {
    const before = recent[k]!
    const between = recent.slice(k + 1, -1)
    const offs = between.map(({ light }) => light - (before.light + now.light) / 2)
    const [least, most] = [Math.min(...offs), Math.max(...offs)]
    const stops = most + least > 0 ? least : most
    if (least * most <= 0 || Math.abs(stops) < MIN_FLASH_STOPS) continue
    if (Math.abs(now.light - before.light) > BACK_SHARE * Math.abs(stops)) continue
    return { firstFrame: between[0]!.frame, lastFrame: between.at(-1)!.frame, stops: medianOf(offs) }
  }
  return null
}

/** By second differences: a drift of the light has none. */
function flickerOf(steps: readonly number[]): number {
  if (steps.length < MIN_STEPS) return 0
  const seconds = steps.slice(1).map((step, i) => Math.abs(step - steps[i]!))
  // Of independent values with deviation 1, a second difference deviates by the root of 6; of it the median size is .6745.
  const deviation = medianOf(seconds) / (0.6745 * Math.sqrt(6))
  return deviation < MIN_FLICKER_STOPS ? 0 : deviation
}

const MIDDLE_STEP = 7

/** A picture in stops with its middle at 0. */
export function inOwnLight(plane: Plane): { readonly plane: Plane; readonly middle: number } {
  const middle = medianOf(Array.from(plane.data.filter((_, i) => i % MIDDLE_STEP === 0)))
  return { plane: { ...plane, data: plane.data.map((value) => value - middle) }, middle }
}

/** By how many stops most of a picture has become lighter, laid over the one before by its shift, cells. */
export function lightStep(
  before: Plane,
  now: Plane,
  shift: { readonly x: number; readonly y: number },
): number {
  const [dx, dy] = [Math.round(shift.x), Math.round(shift.y)]
  const differences: number[] = []
  for (let row = Math.max(0, -dy); row < Math.min(before.height, now.height - dy); row += 3) {
    for (let col = Math.max(0, -dx); col < Math.min(before.width, now.width - dx); col += 3)
      differences.push(now.data[(row + dy) * now.width + col + dx]! - before.data[row * before.width + col]!)
  }
  return differences.length === 0 ? 0 : medianOf(differences)
}
