/** Settings that change from frame to frame in steps: what a key says holds until the next key. */
import { z } from 'zod'
import type { Frame } from './time'

export interface StepKey {
  readonly frame: Frame
  readonly value: number
}

const MAX_KEYS = 1000

/**
 * Keys of a whole number, in rising order of frames. One key holds for all frames.
 * @param start  What a single first key says.
 */
export const stepNumber = (min: number, max: number, start: number) =>
  z
    .array(z.strictObject({ frame: z.int().min(0), value: z.int().min(min).max(max) }))
    .min(1)
    .max(MAX_KEYS)
    .refine((keys) => keys.every((key, i) => i === 0 || key.frame > keys[i - 1]!.frame), {
      message: 'keys must be in rising order of frames',
    })
    .default([{ frame: 0, value: start }])

/** What holds at a frame; before the first key that one does. */
export const stepAt = (keys: readonly StepKey[], frame: Frame): number =>
  (keys.findLast((key) => key.frame <= frame) ?? keys[0]!).value

export const hasStepKeyAt = (keys: readonly StepKey[], frame: Frame): boolean =>
  keys.length > 1 && keys.some((key) => key.frame === frame)

/** From this frame on another value holds, until the next key. */
export const withStepKeyAt = (keys: readonly StepKey[], frame: Frame, value: number): StepKey[] =>
  [...keys.filter((key) => key.frame !== frame), { frame, value }].sort((a, b) => a.frame - b.frame)

/**
 * Another value where the frame lies: of the only key, or of the one that holds there.
 */
export const withStepValue = (keys: readonly StepKey[], frame: Frame, value: number): StepKey[] => {
  const holding = keys.findLast((key) => key.frame <= frame) ?? keys[0]!
  return keys.map((key) => (key === holding ? { ...key, value } : key))
}

/** Without the key of a frame; the last one stays. */
export const withoutStepKeyAt = (keys: readonly StepKey[], frame: Frame): StepKey[] => {
  const left = keys.filter((key) => key.frame !== frame)
  return left.length > 0 ? left : [...keys]
}

/** The same as seen from one frame: a single key, so that what holds elsewhere does not matter. */
export const settledAt = (keys: readonly StepKey[], frame: Frame): StepKey[] => [
  { frame: 0, value: stepAt(keys, frame) },
]

/** Whether a setting is of this sort. */
export const isStepKeys = (value: unknown): value is StepKey[] =>
  Array.isArray(value) &&
  value.length > 0 &&
  value.every((key) => typeof key === 'object' && key !== null && 'frame' in key && 'value' in key)
