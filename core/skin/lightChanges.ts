/** Where the light on a skin changes, told by its tone from frame to frame. */
import type { Frame } from '../time'
import { offFrom, type Tone } from './tone'
import { learntToneAt, withTone, type SetTone } from './tonesSet'

/** From `from` to `to` the tone is on its way; learnt on both, it is right before, between and after. */
export interface LightChange {
  readonly from: { readonly frame: Frame; readonly tone: Tone }
  readonly to: { readonly frame: Frame; readonly tone: Tone }
}

/** A tone is another one where it lies so many of its deviations off, along any axis. Set on made-up changes of the light; LM_050 reports. */
const ANOTHER_DEVIATIONS = 0.6
/** It rests where it is as near as this to the next ones. */
const RESTS = 0.2
const REST_LOOKS = 3

/**
 * @param seen  The tone as it is on frames, in their order. @param set  What was learnt already: where that fits nothing is told.
 * @returns In the order of frames.
 */
export function lightChanges(seen: readonly LightChange['from'][], set: readonly SetTone[]): LightChange[] {
  const changes: LightChange[] = []
  let known = learntToneAt(set, 0) ? set : seen.slice(0, 1).reduce(learnt, set)
  for (let at = 0; at < seen.length; at++) {
    const { frame, tone } = seen[at]!
    if (apart(tone, learntToneAt(known, frame)!) <= ANOTHER_DEVIATIONS) continue
    let from = at
    while (from > 0 && apart(seen[from - 1]!.tone, seen[from]!.tone) > RESTS / REST_LOOKS) from--
    let to = at
    while (to < seen.length - 1 && !rests(seen, to)) to++
    changes.push({ from: seen[from]!, to: seen[to]! })
    known = [seen[from]!, seen[to]!].reduce(learnt, known)
    at = to
  }
  return changes
}

const learnt = (set: readonly SetTone[], { frame, tone }: LightChange['from']): SetTone[] =>
  withTone(set, { use: 'learnt', frame, tone, beside: null })

const rests = (seen: readonly LightChange['from'][], at: number): boolean =>
  seen.slice(at + 1, at + 1 + REST_LOOKS).every(({ tone }) => apart(tone, seen[at]!.tone) <= RESTS)

/** How far one tone lies from another, in deviations of that, along the axis on which it lies furthest. */
function apart(tone: Tone, other: Tone): number {
  const off = offFrom(other, tone.brightness, tone.blue, tone.red)
  const { deviations } = other
  return Math.max(
    Math.abs(off.brightness) / deviations.brightness,
    Math.abs(off.colour) / deviations.colour,
    Math.abs(off.hue) / deviations.hue,
  )
}
