/** Spots on made-up faces. Nothing here sets a constant. */
import { FACE, paintedFace, partAt, SKINS } from '../../tests/fixtures/paintedFace'
import type { Raster } from '../image/raster'
import { findSpots } from './findSpots'

const SIZES = { minRadiusPx: 1.5, maxRadiusPx: 6 }
const matte = Float32Array.from({ length: FACE.width * FACE.height }, (_, at) =>
  partAt(at % FACE.width, Math.floor(at / FACE.width)) === 'skin' ? 1 : 0,
)
const SPOTS = [
  { x: 46, y: 92, radiusPx: 2.5, by: 0.72 },
  { x: 76, y: 96, radiusPx: 3, by: 1.22 },
  { x: 60, y: 52, radiusPx: 2, by: 0.7 },
] as const

function spotted(face: Raster): Raster {
  const data = face.data.slice()
  for (let at = 0; at < FACE.width * FACE.height; at++)
    for (const { x, y, radiusPx, by } of SPOTS) {
      const away = Math.hypot((at % FACE.width) + 0.5 - x, Math.floor(at / FACE.width) + 0.5 - y)
      const share = Math.max(0, Math.min(1, radiusPx + 0.5 - away))
      for (let c = 0; c < 3; c++) data[3 * at + c]! *= 1 + share * (by - 1)
    }
  return { ...face, data }
}

test.each(SKINS)('on %s skin dark and light spots are found, and nothing else', (_name, l, a, b) => {
  const found = findSpots(spotted(paintedFace([l, a, b], [1, 1, 1])), matte, SIZES)
  for (const { x, y, by } of SPOTS) {
    const spot = found.find((one) => Math.hypot(one.x - x, one.y - y) < 2)
    expect(spot).toMatchObject({ isDarker: by < 1 })
    expect(spot!.radiusPx > 1 && spot!.radiusPx < 5).toBe(true)
  }
  expect(found).toHaveLength(SPOTS.length)
})

test('clean skin has none, eyes and lips among it; a line is none', () => {
  const face = paintedFace([62, 11, 18], [1, 1, 1])
  expect(findSpots(face, matte, SIZES)).toEqual([])
  const creased = { ...face, data: face.data.slice() }
  for (let x = 48; x < 72; x++)
    for (let row = 0; row < 2; row++)
      for (let c = 0; c < 3; c++) creased.data[3 * ((50 + row) * FACE.width + x) + c]! *= 0.8
  expect(findSpots(creased, matte, SIZES)).toEqual([])
})
