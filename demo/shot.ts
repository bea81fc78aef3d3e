/** What every shot of the demo film is made of, and how its light becomes pictures. */
import { srgb } from '../core/colour/transfer'
import { grainOver } from '../core/finish/grain'
import { convolveSeparable, gaussianTaps } from '../core/image/convolve'
import type { Matte, Raster } from '../core/image/raster'

export interface ShotDescription {
  readonly name: string
  readonly title: string
  readonly width: number
  readonly height: number
  readonly frameRate: { readonly num: number; readonly den: number }
  readonly firstFrame: number
  readonly frameCount: number
  readonly seed: number
  /** 360° wide and 180° high. */
  readonly isAllRound?: boolean
}

/** 8-bit pictures of one frame, RGB; the matte is one channel. */
export interface DemoFrame {
  readonly plate: Uint8Array
  readonly truth: Uint8Array
  readonly truthWithoutGrain: Uint8Array
  readonly matte: Uint8Array
}

export interface DemoShot {
  readonly description: ShotDescription
  /** The exact geometry on a frame, as written to scene.json. */
  momentAt(frame: number): unknown
  /** Paints what never changes; the renderer of frames that it returns is used in the same process. */
  prepare(): Promise<(frame: number) => DemoFrame>
}

const CODE_STEPS = 16384
const codeOfLight = Float32Array.from(
  { length: CODE_STEPS + 1 },
  (_, i) => 255 * srgb.encode((i / CODE_STEPS) ** 2),
)

/** Film grain of deviation 1 for a frame. @param coarsePx  Deviation of its blur; 0 is white. */
export function filmGrain(
  seed: number,
  frame: number,
  { width, height }: { readonly width: number; readonly height: number },
  coarsePx = 0,
): Float32Array {
  const everyPixel = Int32Array.from({ length: width * height }, (_, pixel) => pixel)
  const data = grainOver(seed, frame, { col: 0, row: 0, width, height }, everyPixel, 3, 0)
  const white: Raster = { width, height, channels: 3, data }
  if (coarsePx === 0) return white.data
  const taps = gaussianTaps(coarsePx)
  const length = Math.sqrt(taps.reduce((sum, tap) => sum + tap * tap, 0))
  const unit = taps.map((tap) => tap / length)
  return convolveSeparable(white, unit, unit).data
}

/**
 * Light to 8-bit code values, with film grain laid on: the plate and its two truths. What both lights share is
 * worked out once.
 * @param levelAt  The grain's deviation in code values, for a code value.
 */
export function expose(
  light: Raster,
  truthLight: Raster,
  grain: Float32Array,
  levelAt: (code: number) => number,
): Pick<DemoFrame, 'plate' | 'truth' | 'truthWithoutGrain'> {
  const count = light.data.length
  const [plate, truth, truthWithoutGrain] = [
    new Uint8Array(count),
    new Uint8Array(count),
    new Uint8Array(count),
  ]
  const levels = Float32Array.from({ length: CODE_STEPS + 1 }, (_, i) => levelAt(codeOfLight[i]!))
  for (let i = 0; i < count; i++) {
    const plateLight = light.data[i]!
    const clean = truthLight.data[i]!
    const step = stepOf(clean)
    const code = codeOfLight[step]!
    truthWithoutGrain[i] = code + 0.5
    truth[i] = grained(code, levels[step]! * grain[i]!)
    if (plateLight === clean) plate[i] = truth[i]!
    else {
      const own = stepOf(plateLight)
      plate[i] = grained(codeOfLight[own]!, levels[own]! * grain[i]!)
    }
  }
  return { plate, truth, truthWithoutGrain }
}

/** The table runs over the square root of light, so that its steps stay fine in the dark. */
const stepOf = (light: number): number =>
  light <= 0 ? 0 : light >= 1 ? CODE_STEPS : (Math.sqrt(light) * CODE_STEPS + 0.5) | 0

const grained = (code: number, grain: number): number => {
  const value = code + grain
  return value <= 0 ? 0 : value >= 255 ? 255 : value + 0.5
}

/** A matte in 8 bits; what is touched at all is never 0. */
export function exposeMatte({ data }: Matte): Uint8Array {
  const out = new Uint8Array(data.length)
  for (let i = 0; i < out.length; i++) {
    const value = data[i]!
    if (value > 0) out[i] = Math.max(1, Math.round(value * 255))
  }
  return out
}
