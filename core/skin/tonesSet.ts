/** Tones of a skin as an artist sets them: learnt on frames, and others added to them or taken away. */
import { z } from 'zod'
import type { Frame } from '../time'
import type { Tone } from './tone'

/** Encoded values of a scale of 1; brightness of wide pictures may be more. */
const level = z.number().min(-4).max(4)
const deviation = z.number().min(1e-4).max(4)

export const toneSchema: z.ZodType<Tone> = z.strictObject({
  brightness: level,
  blue: level,
  red: level,
  slopes: z.strictObject({ colour: level, hue: level }),
  brightest: level,
  deviations: z.strictObject({ brightness: deviation, colour: deviation, hue: deviation }),
})

const setToneSchema = z.strictObject({
  use: z.enum(['learnt', 'added', 'taken']),
  frame: z.int().min(0),
  tone: toneSchema,
  /** The skin's own tone on that frame: in other light both change alike. */
  beside: toneSchema.nullable(),
})
export type SetTone = z.output<typeof setToneSchema>
export type ToneUse = SetTone['use']

const MAX_TONES = 400

/** Tones that were learnt are keys: one for each frame, in rising order, straight between them. Without any the tone is found on each frame by itself. */
export const setTones = z
  .array(setToneSchema)
  .max(MAX_TONES)
  .refine((tones) => framesOf(tones).every((frame, i, all) => i === 0 || frame > all[i - 1]!), {
    message: 'tones that were learnt must be in rising order of frames',
  })
  .default([])

const learntOf = (tones: readonly SetTone[]) => tones.filter(({ use }) => use === 'learnt')
const framesOf = (tones: readonly SetTone[]) => learntOf(tones).map(({ frame }) => frame)

/** What was learnt, as it holds on a frame; null where nothing was. */
export function learntToneAt(tones: readonly SetTone[], frame: Frame): Tone | null {
  const keys = learntOf(tones)
  if (keys.length === 0) return null
  const next = keys.findIndex((key) => key.frame >= frame)
  const [before, after] = [keys[next < 0 ? keys.length - 1 : next - 1], keys[next]]
  if (!before) return after!.tone
  if (!after) return before.tone
  return between(before.tone, after.tone, (frame - before.frame) / (after.frame - before.frame))
}

function between(a: Tone, b: Tone, share: number): Tone {
  const mix = (from: number, to: number) => from + share * (to - from)
  return {
    brightness: mix(a.brightness, b.brightness),
    blue: mix(a.blue, b.blue),
    red: mix(a.red, b.red),
    slopes: { colour: mix(a.slopes.colour, b.slopes.colour), hue: mix(a.slopes.hue, b.slopes.hue) },
    brightest: mix(a.brightest, b.brightest),
    deviations: {
      brightness: mix(a.deviations.brightness, b.deviations.brightness),
      colour: mix(a.deviations.colour, b.deviations.colour),
      hue: mix(a.deviations.hue, b.deviations.hue),
    },
  }
}

/** All that says where skin is on a frame. */
export interface Tones {
  readonly own: Tone
  readonly added: readonly Tone[]
  readonly taken: readonly Tone[]
}

/** @param own  The skin's own tone there. */
export function tonesOn(tones: readonly SetTone[], own: Tone): Tones {
  const ofUse = (asked: ToneUse) => tones.flatMap((one) => (one.use === asked ? [inLightOf(one, own)] : []))
  return { own, added: ofUse('added'), taken: ofUse('taken') }
}

/** A tone as it is where the skin's own has become another one. */
function inLightOf({ tone, beside }: SetTone, own: Tone): Tone {
  if (!beside) return tone
  const brighter = own.brightness - beside.brightness
  return {
    ...tone,
    brightness: tone.brightness + brighter,
    brightest: tone.brightest + brighter,
    blue: tone.blue + own.blue - beside.blue,
    red: tone.red + own.red - beside.red,
  }
}

/** With one more: what was learnt on that frame before is replaced, and all stays in order. */
export const withTone = (tones: readonly SetTone[], one: SetTone): SetTone[] =>
  [
    ...tones.filter(({ use, frame }) => one.use !== 'learnt' || use !== 'learnt' || frame !== one.frame),
    one,
  ].sort((a, b) => a.frame - b.frame)
