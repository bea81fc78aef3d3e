/**
 * Brightness and two colour differences of encoded red, green and blue, of a range of 1: brightness from 0, differences
 * from −0.5, with grey at 0; full range, ITU-T T.871 (2011), clause 7, by the
 * weights of ITU-R BT.601. Light that is added in all three alike changes brightness only, which a highlight on skin does.
 */
const RED_SHARE = 0.299
const GREEN_SHARE = 0.587
const BLUE_SHARE = 0.114
/** Full blue and full red differ from grey by so much: scaled to 0.5. */
const BLUE_SCALE = 2 * (1 - BLUE_SHARE)
const RED_SCALE = 2 * (1 - RED_SHARE)

/** How much red, green and blue have of brightness; by what blue and red less brightness are divided. */
export const BRIGHTNESS_SHARES = [RED_SHARE, GREEN_SHARE, BLUE_SHARE] as const
export const DIFFERENCE_SCALES = { blue: BLUE_SCALE, red: RED_SCALE } as const

export const brightnessOf = (red: number, green: number, blue: number): number =>
  RED_SHARE * red + GREEN_SHARE * green + BLUE_SHARE * blue
export const blueDifference = (blue: number, brightness: number): number => (blue - brightness) / BLUE_SCALE
export const redDifference = (red: number, brightness: number): number => (red - brightness) / RED_SCALE

/** The way back to red, green and blue; out of range where no colour is so bright. */
export function coloursOf(brightness: number, blue: number, red: number): [number, number, number] {
  const [r, b] = [brightness + RED_SCALE * red, brightness + BLUE_SCALE * blue]
  return [r, (brightness - RED_SHARE * r - BLUE_SHARE * b) / GREEN_SHARE, b]
}
