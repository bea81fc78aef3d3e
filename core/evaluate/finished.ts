/** From a plate's frame and the pieces that mends made to the finished frame. */
import { findFill } from '../fill/registry'
import { createSamples, maximumOf, pasteSamplesInto, type Samples } from '../image/samples'
import type { Patch } from './evaluatedFrame'
import { isStroke } from '../document/areas'
import type { FillSettings } from '../document/fillSettings'
import type { Mend } from '../document/mend'

/** Whether any mend may leave a hole, so that finished frames need an alpha channel. */
export const leavesHoles = (mends: readonly Mend[]): boolean =>
  mends.some(
    ({ isOn, fill, areas }) =>
      isOn && [fill, ...areas.filter(isStroke).map(({ stroke }) => stroke.fill)].some(makesHoles),
  )

function makesHoles({ methodId, params }: FillSettings): boolean {
  const method = findFill(methodId)
  return method?.makesHoles?.(method.params.parse(params)) === true
}

/** Channels of finished frames: the plate's, and alpha where holes ask for it. */
export const finishedChannels = (channels: number, mends: readonly Mend[], keepsAlpha: boolean): number =>
  channels === 3 && keepsAlpha && leavesHoles(mends) ? 4 : channels

/**
 * Lays pieces over a whole frame.
 * @param channels  Those of the plate, or one more for alpha, straight. Without it holes are black.
 * @returns New samples; the plate's own bits wherever no piece lies.
 */
export function layPatches(plate: Samples, patches: readonly Patch[], channels: number): Samples {
  const finished = channels === plate.channels ? { ...plate, data: plate.data.slice() } : withAlpha(plate)
  for (const { rect, samples, alpha } of patches) {
    const piece = channels === samples.channels ? samples : withAlpha(samples)
    if (alpha) cutInto(piece, alpha, samples.channels)
    pasteSamplesInto(finished, piece, rect)
  }
  return finished
}

function withAlpha({ width, height, channels, data }: Samples): Samples {
  const out = createSamples(width, height, channels + 1, data.BYTES_PER_ELEMENT === 1 ? 8 : 16)
  const maximum = maximumOf(data)
  for (let from = 0, to = 0; from < data.length; from += channels, to += channels + 1) {
    for (let c = 0; c < channels; c++) out.data[to + c] = data[from + c]!
    out.data[to + channels] = maximum
  }
  return out
}

/** Holes go into the alpha channel; without one, colours fade to black. */
function cutInto(piece: Samples, alpha: Samples, colours: number): void {
  const maximum = maximumOf(piece.data)
  const hasAlpha = piece.channels === 4
  for (let pixel = 0; pixel < alpha.data.length; pixel++) {
    const left = alpha.data[pixel]!
    if (left === maximum) continue
    const at = pixel * piece.channels
    if (hasAlpha) piece.data[at + 3] = Math.round((piece.data[at + 3]! * left) / maximum)
    else
      for (let c = 0; c < colours; c++)
        piece.data[at + c] = Math.round((piece.data[at + c]! * left) / maximum)
  }
}
