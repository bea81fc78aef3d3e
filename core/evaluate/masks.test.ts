import { documentOf } from '../../tests/fixtures/sampleDocument'
import { sampleEllipse, sampleMend } from '../../tests/fixtures/sampleMend'
import { sourceOfSamples } from '../../tests/fixtures/sampleSource'
import { createSamples } from '../image/samples'
import { masksOf, masksOfOthers } from './masks'

const [WIDTH, HEIGHT] = [80, 50]
const clip = sourceOfSamples(() => createSamples(WIDTH, HEIGHT, 3, 8))
const at = (id: string, x: number) =>
  sampleMend({
    id,
    areas: [sampleEllipse({ keys: [{ frame: 1001, x, y: 25, radiusXPx: 8, radiusYPx: 8, turnDeg: 0 }] })],
  })
const document = documentOf([at('left', 20), at('right', 60)])
const coveredIn = (mask: Uint8Array | null, x: number) => mask?.[25 * WIDTH + x] ?? 0

test('the mask of a shot covers what all of its mends cover', async () => {
  const mask = await masksOf(document, clip)(1001)
  expect([20, 40, 60].map((x) => coveredIn(mask, x) !== 0)).toEqual([true, false, true])
})

test('others of a mend are all but itself; each frame is worked out once', async () => {
  const maskAt = masksOfOthers(document, 'left', clip)!
  const mask = maskAt(1001)
  expect(coveredIn(await mask, 20)).toBe(0)
  expect(coveredIn(await mask, 60)).not.toBe(0)
  expect(maskAt(1001)).toBe(mask)
  for (let frame = 1002; frame < 1040; frame++) await maskAt(frame)
  expect(maskAt(1001)).not.toBe(mask) // no more are kept than are wanted
})

test('a mend by itself has no others', () => {
  expect(masksOfOthers(documentOf([at('left', 20)]), 'left', clip)).toBeUndefined()
})
