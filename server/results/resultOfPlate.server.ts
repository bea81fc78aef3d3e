import { unpackFill } from '../../core/evaluate/packedFill'
import { unpackResult } from '../../core/evaluate/packedResult'
import type { StoredShape } from '../frames/store.server'
import { rectOf } from '../plateFrames.server'

/** Whether bytes that a page has sent are what is kept of a plate: a finished rectangle inside it, or what a fill has gathered. */
export function isResultOf(plate: StoredShape, bytes: Uint8Array): boolean {
  const result = unpackResult(bytes)
  if (!result) return isFillOf(plate, bytes)
  return result.patches.every(
    ({ rect, samples }) =>
      rectOf(plate, rect) !== null &&
      samples.channels === plate.channels &&
      8 * samples.data.BYTES_PER_ELEMENT === plate.bitDepth,
  )
}

function isFillOf(plate: StoredShape, bytes: Uint8Array): boolean {
  const fill = unpackFill(bytes)
  return fill !== null && fill.values.length === plate.channels * fill.grainKept.length
}
