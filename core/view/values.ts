/** Values of a pixel in words, for reading them off. */
import { srgb } from '../colour/transfer'
import { log } from '../kernels/exact'

export const VALUE_UNITS = { code: 'Code values', share: '0 to 1', stops: 'Stops' } as const
export type ValueUnit = keyof typeof VALUE_UNITS

/** What stops are counted from: a card that sends back 18 % of the light. Common practice, no source. */
const MIDDLE_GREY = 0.18

/**
 * @param maximum  The largest code value.
 * @returns Code values as they are; shares of the range with three places; stops of light above or below middle grey, the picture taken as sRGB.
 */
export function valueInWords(code: number, maximum: number, unit: ValueUnit): string {
  if (unit === 'code') return String(code)
  if (unit === 'share') return (code / maximum).toFixed(3)
  const light = srgb.decode(code / maximum)
  if (light <= 0) return '−∞'
  const stops = Math.round((100 * log(light / MIDDLE_GREY)) / log(2)) / 100
  return `${stops < 0 ? '−' : '+'}${Math.abs(stops).toFixed(2)}`
}

/** A difference of two values, signed; in stops how much brighter the second is. */
export function differenceInWords(from: number, to: number, maximum: number, unit: ValueUnit): string {
  const sign = (words: string, value: number) => (value > 0 ? `+${words}` : value < 0 ? `−${words}` : words)
  if (unit === 'code') return sign(String(Math.abs(to - from)), to - from)
  if (unit === 'share') return sign((Math.abs(to - from) / maximum).toFixed(3), to - from)
  const [a, b] = [srgb.decode(from / maximum), srgb.decode(to / maximum)]
  if (a <= 0 || b <= 0) return from === to ? '0.00' : from < to ? '+∞' : '−∞'
  const stops = log(b / a) / log(2)
  return sign(Math.abs(stops).toFixed(2), Math.round(100 * stops))
}
