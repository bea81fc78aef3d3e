import type { Frame, FrameRange } from '../../core/time'

/**
 * Frames in the order in which they are worked ahead: played, the next ones first, round the end to the start; resting, the
 * nearest ones first, two on for each one back.
 * @param room  How many there is room for; the playhead is the first of them.
 */
export function aheadOrder(playhead: Frame, range: FrameRange, isPlaying: boolean, room: number): Frame[] {
  const { firstFrame, lastFrame } = range
  const count = lastFrame - firstFrame + 1
  // A playhead outside of what is played comes first all the same.
  if (playhead < firstFrame || playhead > lastFrame)
    return room < 1 ? [] : [playhead, ...aheadOrder(firstFrame, range, isPlaying, room - 1)]
  const at = (step: number) =>
    range.firstFrame + ((((playhead - range.firstFrame + step) % count) + count) % count)
  const order: Frame[] = []
  let [on, back] = [0, 0]
  while (order.length < Math.min(room, count)) {
    const isBackNext = !isPlaying && on - 1 >= 2 * (back + 1) && on + back < count
    order.push(at(isBackNext ? -++back : on++))
  }
  return order
}
