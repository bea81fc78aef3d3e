import { z } from 'zod'
import { defineFill, isTrouble, knownPixels, ownValues, type FillInput } from '../method'
import { gridOf, solveLaplace } from '../../image/laplace'

const params = z.strictObject({})

/**
 * Membrane: the smoothest surface through the rim. Inside the area every value is the mean of its neighbours,
 * so nothing in it is brighter or darker than the rim is somewhere.
 */
export const membrane = defineFill({
  id: 'membrane',
  version: 2,
  title: 'Membrane',
  summary:
    'Stretches the surrounding colour smoothly across the area. For motes, skies and plain walls; blurs texture.',
  source: 'Laplace equation on the pixel grid; Briggs, Henson and McCormick, A Multigrid Tutorial, 2000.',
  params,
  needsPath: false,
  reach: () => ({ marginPx: 4 }),

  run(input, _settings, context) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const { picture, field } = input
    const { channels } = picture
    const grid = gridOf(wantedPixels(input), knownPixels(input), picture.width)
    const values = ownValues(input)
    const grainKept = new Float32Array(field.count).fill(1)
    if (grid.count === 0) return { ok: true, values, grainKept }
    if (!grid.hasRim)
      return {
        ok: false,
        reason: 'nothing-known',
        detail: 'The area covers all that is there: nothing is left to stretch over it.',
      }
    const solved = solveLaplace(grid, picture, context.shouldStop)
    if (!solved) return { ok: false, reason: 'stopped', detail: 'While smoothing.' }
    for (let i = 0, k = 0; i < field.count; i++) {
      if (field.pixels[i] !== grid.pixels[k]) continue
      for (let c = 0; c < channels; c++) values[i * channels + c] = solved[k * channels + c]!
      grainKept[i] = 0
      k++
    }
    return { ok: true, values, grainKept }
  },
})

/** 1 for each pixel that is the thing itself and wanted: what has to be made up. */
export function wantedPixels(input: FillInput): Uint8Array {
  const { picture, field, wanted } = input
  const mask = new Uint8Array(picture.width * picture.height)
  for (let i = 0; i < field.count; i++) if (wanted[i]! > 0 && isTrouble(input, i)) mask[field.pixels[i]!] = 1
  return mask
}
