/**
 * Brightness and two colour differences of encoded red, green and blue, all 0 to 1 with grey at 0.5: full range, ITU-T T.871 (2011), clause 7, by the
 * weights of ITU-R BT.601. Light that is added in all three alike changes brightness only, which a highlight on skin does.
 */
export const RED_SHARE = 0.299
export const GREEN_SHARE = 0.587
export const BLUE_SHARE = 0.114
/** The differences are scaled to reach 0 and 1. */
const BLUE_SCALE = 2 * (1 - BLUE_SHARE)
const RED_SCALE = 2 * (1 - RED_SHARE)

export const brightnessOf = (red: number, green: number, blue: number): number =>
  RED_SHARE * red + GREEN_SHARE * green + BLUE_SHARE * blue
export const blueDifference = (blue: number, brightness: number): number =>
  (blue - brightness) / BLUE_SCALE + 0.5
export const redDifference = (red: number, brightness: number): number => (red - brightness) / RED_SCALE + 0.5
