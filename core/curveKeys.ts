/** Settings that change from frame to frame along straight lines between keys: a fade. */
import { bendsOf } from './geometry/bends'
import { z } from 'zod'
import type { Frame } from './time'

export interface CurveKey {
  readonly frame: Frame
  readonly level: number
}

const MAX_KEYS = 1000

/**
 * Keys of a number, in rising order of frames. One key holds for all frames; before the first and after the last key theirs does.
 * @param start  What a single first key says.
 */
export const curveNumber = (min: number, max: number, start: number) =>
  z
    .array(z.strictObject({ frame: z.int().min(0), level: z.number().min(min).max(max) }))
    .min(1)
    .max(MAX_KEYS)
    .refine((keys) => keys.every((key, i) => i === 0 || key.frame > keys[i - 1]!.frame), {
      message: 'keys must be in rising order of frames',
    })
    .default([{ frame: 0, level: start }])

export function levelAt(keys: readonly CurveKey[], frame: Frame): number {
  const next = keys.findIndex((key) => key.frame >= frame)
  if (next < 0) return keys.at(-1)!.level
  const after = keys[next]!
  const before = keys[next - 1]
  if (!before) return after.level
  const share = (frame - before.frame) / (after.frame - before.frame)
  return before.level + share * (after.level - before.level)
}

export const hasCurveKeyAt = (keys: readonly CurveKey[], frame: Frame): boolean =>
  keys.length > 1 && keys.some((key) => key.frame === frame)

export const withCurveKeyAt = (keys: readonly CurveKey[], frame: Frame, level: number): CurveKey[] =>
  [...keys.filter((key) => key.frame !== frame), { frame, level }].sort((a, b) => a.frame - b.frame)

/** Another level on a frame: of the only key, or by a key there. */
export const withLevelAt = (keys: readonly CurveKey[], frame: Frame, level: number): CurveKey[] =>
  keys.length === 1 ? [{ ...keys[0]!, level }] : withCurveKeyAt(keys, frame, level)

/** Without the key of a frame; the last one stays. */
export const withoutCurveKeyAt = (keys: readonly CurveKey[], frame: Frame): CurveKey[] => {
  const left = keys.filter((key) => key.frame !== frame)
  return left.length > 0 ? left : [...keys]
}

/** The same as seen from one frame: a single key, so that what holds elsewhere does not matter. */
export const levelledAt = (keys: readonly CurveKey[], frame: Frame): CurveKey[] => [
  { frame: 0, level: levelAt(keys, frame) },
]

/** Whether a setting is of this sort. */
export const isCurveKeys = (value: unknown): value is CurveKey[] =>
  Array.isArray(value) &&
  value.length > 0 &&
  value.every((key) => typeof key === 'object' && key !== null && 'frame' in key && 'level' in key)

/** The fewest of the keys between which all others lie straight, within a tolerance; one where all are alike. */
export function fewestKeys(keys: readonly CurveKey[], tolerance: number): CurveKey[] {
  if (keys.length === 0) return []
  const first = keys[0]!
  if (keys.every(({ level }) => Math.abs(level - first.level) <= tolerance)) return [first]
  return bendsOf(keys, tolerance, (key, from, to) => Math.abs(key.level - levelAt([from, to], key.frame)))
}
