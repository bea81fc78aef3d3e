import { packFill } from '../../core/evaluate/packedFill'
import { packResult } from '../../core/evaluate/packedResult'
import { createSamples } from '../../core/image/samples'
import { isResultOf } from './resultOfPlate.server'

const plate = { width: 40, height: 30, channels: 3, bitDepth: 8 } as const
const rect = { col: 30, row: 20, width: 10, height: 10 }
const finished = (at = rect, channels = 3, bitDepth: 8 | 16 = 8) =>
  packResult({
    patches: [
      {
        rect: at,
        samples: createSamples(at.width, at.height, channels, bitDepth),
        alpha: null,
        mendedRuns: new Int32Array(),
      },
    ],
    measures: [],
    notes: [],
    seenMaps: [],
  })
const gathered = (pixels: number, values: number) =>
  packFill({ ok: true, values: new Float32Array(values), grainKept: new Float32Array(pixels) })

test.each([
  ['a finished rectangle', finished(), true],
  ['one that reaches out of the picture', finished({ ...rect, col: 31 }), false],
  ['one of another depth', finished(rect, 3, 16), false],
  ['one of other channels', finished(rect, 4), false],
  ['what a fill has gathered', gathered(5, 15), true],
  ['values that do not go with their pixels', gathered(5, 14), false],
  ['anything else', Uint8Array.of(1, 2, 3), false],
])('%s: a result of the plate or not', (_, bytes, is) => {
  expect(isResultOf(plate, bytes)).toBe(is)
})
