import { regionInView, regionOfMend } from './scopeRegion'

const piece = (col: number, row: number, width: number, height: number) =>
  ({ col, row, bitmap: {} as ImageBitmap, samples: { width, height, channels: 3, data: new Uint8Array() }, hasHoles: false, covered: null }) as const // prettier-ignore
const mended = {
  patches: [piece(10, 10, 20, 10), piece(100, 50, 30, 30), piece(60, 10, 10, 10)],
  measures: [{ mendId: 'a', x: 15, y: 12 }, { mendId: 'a', x: 110, y: 70 }, { mendId: 'b', x: 65, y: 15 }], // prettier-ignore
} as never

test('a mend is where its pieces are, all of them; one that is not here is nowhere', () => {
  expect(regionOfMend(mended, 'a')).toEqual({ col: 10, row: 10, width: 120, height: 70 })
  expect(regionOfMend(mended, 'b')).toEqual({ col: 60, row: 10, width: 10, height: 10 })
  expect(regionOfMend(mended, 'c')).toBeNull()
  expect(regionOfMend(mended, null)).toBeNull()
  expect(regionOfMend(null, 'a')).toBeNull()
})

test('in view is what the panel shows of the picture', () => {
  const [panel, picture] = [
    { width: 200, height: 100 },
    { width: 640, height: 360 },
  ]
  expect(regionInView({ scale: 1, left: 0, top: 0 }, panel, picture)).toEqual({ col: 0, row: 0, width: 200, height: 100 }) // prettier-ignore
  expect(regionInView({ scale: 2, left: -100, top: 20 }, panel, picture)).toEqual({ col: 50, row: 0, width: 100, height: 40 }) // prettier-ignore
  expect(regionInView({ scale: 0.1, left: 60, top: 30 }, panel, picture)).toEqual({ col: 0, row: 0, width: 640, height: 360 }) // prettier-ignore
  expect(regionInView({ scale: 1, left: 300, top: 0 }, panel, picture)).toBeNull()
  expect(regionInView({ scale: 0, left: 0, top: 0 }, panel, picture)).toBeNull()
})
