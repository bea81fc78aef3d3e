import { NEVER } from '../fill/method'
import { wholePicture } from '../image/rect'
import type { Frame } from '../time'
import { HARD, tabooOf, type TabooShape } from './coverage'
import type { FrameSource } from '../shot/clip'
import type { OtherMend } from '../plan/planFrame'
import type { ShapeReader } from './placement'

/** Of a whole frame, 1 where mends cover it or hold it out; null where nothing does. */
export async function maskOn(
  otherMends: readonly OtherMend[],
  frame: Frame,
  reader: ShapeReader,
  { plate }: FrameSource,
): Promise<Uint8Array | null> {
  const shapes: TabooShape[] = []
  for (const { covers, holdouts, finish } of otherMends) {
    for (const shape of await reader.all(covers, frame)) shapes.push({ shape, edge: finish, level: NEVER })
    for (const shape of await reader.all(holdouts, frame)) shapes.push({ shape, edge: HARD, level: NEVER })
  }
  const taboo = tabooOf(shapes, wholePicture(plate))
  return taboo && taboo.map((level) => (level > 0 ? 1 : 0))
}
