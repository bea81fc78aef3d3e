/** How a mend's coverage of its frames is drawn: one stitch a frame. */
import type { KeyedArea } from '../../core/document/areas'
import { hasKeyAt } from '../../core/document/keys'
import type { Mend } from '../../core/document/mend'
import { rampAt } from '../../core/document/span'
import type { Snag } from '../../core/snags/snags'

/** On a key, at rest or followed: solid. Between keys or on a ramp: thin. A snag: broken. Off: a gap. */
export type Stitch = 'solid' | 'thin' | 'broken' | 'gap'

export function stitchAt(mend: Mend, frame: number, snagged: ReadonlySet<number> = NONE): Stitch {
  if (!mend.isOn || frame < mend.span.firstFrame || frame > mend.span.lastFrame) return 'gap'
  if (snagged.has(frame)) return 'broken'
  if (rampAt(mend.span, frame) < 1) return 'thin'
  const isBetween = keyedAreasOf(mend).some(
    (area) => frame > area.keys[0]!.frame && frame < area.keys.at(-1)!.frame && !hasKeyAt(area, frame),
  )
  return isBetween ? 'thin' : 'solid'
}

const keyed = new WeakMap<Mend, readonly KeyedArea[]>()

/** Areas of a mend that travel from key to key. A brush has many that do not, and every frame asks. */
function keyedAreasOf(mend: Mend): readonly KeyedArea[] {
  let areas = keyed.get(mend)
  if (!areas) {
    areas = mend.areas.filter((area): area is KeyedArea => area.shape !== 'matte' && !area.follow && area.keys.length > 1) // prettier-ignore
    keyed.set(mend, areas)
  }
  return areas
}

const NONE: ReadonlySet<number> = new Set()

export const snaggedFrames = (snags: readonly Snag[], mendId: string): Set<number> =>
  new Set(snags.filter((snag) => snag.mendId === mendId).map((snag) => snag.frame))

/** SVG path data of all stitches of one look, on a row `height` high; frames are `step` wide. */
export function stitchPath(
  lookAt: (frame: number) => Stitch,
  firstFrame: number,
  lastFrame: number,
  step: number,
  height: number,
  look: Stitch,
): string {
  const parts: string[] = []
  // Where frames are narrower than a stitch can be drawn, each stitch stands for several.
  const stride = Math.max(1, Math.ceil(3 / step))
  for (let frame = firstFrame; frame <= lastFrame; frame += stride) {
    if (lookAt(frame) !== look) continue
    const left = (frame - firstFrame) * step
    const width = step * stride
    const at = (f: number) =>
      `${(left + width * (0.12 + 0.7 * f)).toFixed(1)} ${(height * (0.72 - 0.44 * f)).toFixed(1)}`
    if (look === 'gap') parts.push(`M${(left + width / 2).toFixed(1)} ${height / 2}h0.01`)
    else if (look === 'broken') parts.push(`M${at(0)}L${at(0.3)}M${at(0.7)}L${at(1)}`)
    else parts.push(`M${at(0)}L${at(1)}`)
  }
  return parts.join('')
}
