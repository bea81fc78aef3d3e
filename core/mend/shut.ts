import { NEVER } from '../fill/method'
import { wholePicture } from '../image/rect'
import type { Frame } from '../time'
import { HARD, tabooOf, type TabooShape } from './cover'
import type { FrameSource } from './frameSource'
import type { PlacedStranger } from './place'
import type { ShapeReader } from './placement'

/** Of a whole frame, 1 where mends cover it or hold it out; null where nothing does. */
export async function shutOn(
  strangers: readonly PlacedStranger[],
  frame: Frame,
  reader: ShapeReader,
  { plate }: FrameSource,
): Promise<Uint8Array | null> {
  const shapes: TabooShape[] = []
  for (const { covers, holdouts, finish } of strangers) {
    for (const shape of await reader.all(covers, frame)) shapes.push({ shape, edge: finish, level: NEVER })
    for (const shape of await reader.all(holdouts, frame)) shapes.push({ shape, edge: HARD, level: NEVER })
  }
  const taboo = tabooOf(shapes, wholePicture(plate))
  return taboo && taboo.map((level) => (level > 0 ? 1 : 0))
}
