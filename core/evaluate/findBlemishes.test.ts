/** Blemishes of a made-up face under a Skin mend. Nothing here sets a constant. */
import { FACE, paintedFace } from '../../tests/fixtures/paintedFace'
import { documentOf } from '../../tests/fixtures/sampleDocument'
import { fillOf, sampleEllipse, sampleMend } from '../../tests/fixtures/sampleMend'
import { mendSamples, NEVER_STOPS, sourceOfSamples } from '../../tests/fixtures/sampleSource'
import type { Area } from '../document/areas'
import type { Mend } from '../document/mend'
import { samplesFromRaster, type Samples } from '../image/samples'
import { findBlemishes } from './findBlemishes'

const SPOTS = [
  { x: 46, y: 92, radiusPx: 2.5 },
  { x: 76, y: 96, radiusPx: 3 },
] as const

const ellipse = (id: string, x: number, y: number, rx: number, ry: number, over: Partial<Area> = {}) =>
  sampleEllipse({ id, keys: [{ frame: 1001, x, y, radiusXPx: rx, radiusYPx: ry, turnDeg: 0 }], ...(over as object) }) // prettier-ignore

function face(): Samples {
  const { data, ...size } = paintedFace([62, 11, 18], [1, 1, 1])
  for (let at = 0; at < FACE.width * FACE.height; at++)
    for (const { x, y, radiusPx } of SPOTS) {
      const away = Math.hypot((at % FACE.width) + 0.5 - x, Math.floor(at / FACE.width) + 0.5 - y)
      for (let c = 0; c < 3; c++)
        data[3 * at + c]! *= 1 - 0.28 * Math.max(0, Math.min(1, radiusPx + 0.5 - away))
    }
  return samplesFromRaster({ ...size, data }, 8)
}

const picture = face()
const skin = (areas: readonly Area[] = [], params: Record<string, unknown> = {}): Mend => {
  const fill = fillOf('even-skin')
  return sampleMend({
    id: 'skin',
    areas: [ellipse('face', FACE.x, FACE.y, FACE.radiusX + 3, FACE.radiusY + 3), ...areas],
    fill: { ...fill, params: { ...fill.params, radiusPx: 14, ...params } },
  })
}
const blemish: Mend = sampleMend({
  id: 'spot',
  areas: [ellipse('spot', SPOTS[0].x, SPOTS[0].y, 5, 5)],
  fill: { ...fillOf('heal'), params: { ...fillOf('heal').params, structure: 'own', touch: 'found' } },
})
const found = async (mends: readonly Mend[], id = 'skin') =>
  (await findBlemishes(documentOf(mends, new Map(), { firstFrame: 1001, lastFrame: 1001, width: FACE.width, height: FACE.height }), id, 1001, sourceOfSamples(picture), NEVER_STOPS))! // prettier-ignore
const isAt = (one: { x: number; y: number }, { x, y }: { x: number; y: number }) => Math.hypot(one.x - x, one.y - y) < 2 // prettier-ignore

test('the spots are found, where they lie in the full picture; by tone, and over all of the area', async () => {
  for (const where of ['tone', 'area']) {
    const spots = await found([skin([], { where })])
    for (const spot of SPOTS) expect(spots.some((one) => isAt(one, spot))).toBe(true)
  }
})

test('what another mend covers is left out, as is what is held out', async () => {
  expect((await found([skin(), blemish])).map((one) => isAt(one, SPOTS[1]))).toEqual([true])
  const heldOut = ellipse('out', SPOTS[1].x, SPOTS[1].y, 8, 8, { role: 'holdout' })
  expect((await found([skin([heldOut])])).map((one) => isAt(one, SPOTS[0]))).toEqual([true])
})

test('a mend that is no skin has none; nor has what is stopped', async () => {
  expect(await found([blemish], 'spot')).toEqual([])
  expect(await found([skin()], 'nobody')).toEqual([])
  const stopped = await findBlemishes(documentOf([skin()]), 'skin', 1001, sourceOfSamples(picture), { shouldStop: () => true }) // prettier-ignore
  expect(stopped).toBeNull()
})

test('a blemish on evened skin is healed from the skin around it: the skin mend is no trouble to it', async () => {
  const { finished, notes } = await mendSamples(sourceOfSamples(picture), [skin(), blemish])
  expect(notes).toEqual([])
  const at = (x: number, y: number) => 3 * (y * FACE.width + x) + 1
  const [{ x, y }] = SPOTS
  expect(picture.data[at(x, y)]!).toBeLessThan(picture.data[at(x - 7, y)]! - 20)
  expect(finished.data[at(x, y)]!).toBeGreaterThan(finished.data[at(x - 7, y)]! - 8)
})
