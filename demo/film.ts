/** The demo film: its shots, in order. */
import { lm010 } from './lm010/render'
import { lm020 } from './lm020/render'
import { lm030 } from './lm030/render'
import { lm040 } from './lm040/render'
import { lm050 } from './lm050/render'
import { lm060 } from './lm060/render'
import { lm070 } from './lm070/render'
import { lm080 } from './lm080/render'
import { lm090 } from './lm090/render'
import type { DemoShot } from './shot'

export const FILM: readonly DemoShot[] = [lm010, lm020, lm030, lm040, lm050, lm060, lm070, lm080, lm090]

export function findShot(name: string): DemoShot {
  const shot = FILM.find((one) => one.description.name === name)
  if (!shot) throw new RangeError(`the demo film has no shot "${name}"`)
  return shot
}
