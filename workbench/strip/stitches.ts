/** How a mend's coverage of its frames is drawn: one stitch a frame. */
import { hasKeyAt } from '../../core/mend/keys'
import type { Mend } from '../../core/mend/schema'

/** On a key or at rest: solid. Between keys: thin. Off: a gap. */
export type Stitch = 'solid' | 'thin' | 'gap'

export function stitchAt(mend: Mend, frame: number): Stitch {
  if (!mend.isOn || frame < mend.span.firstFrame || frame > mend.span.lastFrame) return 'gap'
  const { keys } = mend.area
  const isResting = keys.length === 1 || frame < keys[0]!.frame || frame > keys.at(-1)!.frame
  return isResting || hasKeyAt(mend.area, frame) ? 'solid' : 'thin'
}

/** SVG path data of all stitches of one look, on a row `height` high; frames are `step` wide. */
export function stitchPath(mend: Mend, firstFrame: number, lastFrame: number, step: number, height: number, look: Stitch): string {
  const parts: string[] = []
  // Where frames are narrower than a stitch can be drawn, each stitch stands for several.
  const stride = Math.max(1, Math.ceil(3 / step))
  for (let frame = firstFrame; frame <= lastFrame; frame += stride) {
    if (stitchAt(mend, frame) !== look) continue
    const left = (frame - firstFrame) * step
    const width = step * stride
    if (look === 'gap') parts.push(`M${(left + width / 2).toFixed(1)} ${height / 2}h0.01`)
    else
      parts.push(
        `M${(left + width * 0.12).toFixed(1)} ${(height * 0.72).toFixed(1)}L${(left + width * 0.82).toFixed(1)} ${(height * 0.28).toFixed(1)}`,
      )
  }
  return parts.join('')
}
