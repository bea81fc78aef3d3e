/** Settings that change from frame to frame in steps: what a key says holds until the next key. */
import { z } from 'zod'
import type { Frame } from './time'

export interface HeldKey {
  readonly frame: Frame
  readonly value: number
}

const MOST_KEYS = 1000

/**
 * Keys of a whole number, in rising order of frames. One key holds for all frames.
 * @param start  What a single first key says.
 */
export const heldNumber = (min: number, max: number, start: number) =>
  z
    .array(z.strictObject({ frame: z.int().min(0), value: z.int().min(min).max(max) }))
    .min(1)
    .max(MOST_KEYS)
    .refine((keys) => keys.every((key, i) => i === 0 || key.frame > keys[i - 1]!.frame), {
      message: 'keys must be in rising order of frames',
    })
    .default([{ frame: 0, value: start }])

/** What holds at a frame; before the first key that one does. */
export const heldAt = (keys: readonly HeldKey[], frame: Frame): number =>
  (keys.findLast((key) => key.frame <= frame) ?? keys[0]!).value

export const hasHeldKeyAt = (keys: readonly HeldKey[], frame: Frame): boolean =>
  keys.length > 1 && keys.some((key) => key.frame === frame)

/** From this frame on another value holds, until the next key. */
export const withHeldKeyAt = (keys: readonly HeldKey[], frame: Frame, value: number): HeldKey[] =>
  [...keys.filter((key) => key.frame !== frame), { frame, value }].sort((a, b) => a.frame - b.frame)

/**
 * Another value where the frame lies: of the only key, or of the one that holds there.
 */
export const withHeldValue = (keys: readonly HeldKey[], frame: Frame, value: number): HeldKey[] => {
  const holding = keys.findLast((key) => key.frame <= frame) ?? keys[0]!
  return keys.map((key) => (key === holding ? { ...key, value } : key))
}

/** Without the key of a frame; the last one stays. */
export const withoutHeldKeyAt = (keys: readonly HeldKey[], frame: Frame): HeldKey[] => {
  const left = keys.filter((key) => key.frame !== frame)
  return left.length > 0 ? left : [...keys]
}

/** The same as seen from one frame: a single key, so that what holds elsewhere does not matter. */
export const settledAt = (keys: readonly HeldKey[], frame: Frame): HeldKey[] => [
  { frame: 0, value: heldAt(keys, frame) },
]

/** Whether a setting is of this sort. */
export const isHeld = (value: unknown): value is HeldKey[] =>
  Array.isArray(value) &&
  value.length > 0 &&
  value.every((key) => typeof key === 'object' && key !== null && 'frame' in key && 'value' in key)
