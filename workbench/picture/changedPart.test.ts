import { createSamples } from '../../core/image/samples'
import { NO_COMPARISON } from '../../core/view/compare'
import { PLAIN_VIEW } from '../../core/view/viewTransform'
import type { ShownPatch } from '../preview/mendedPieces'
import { samplePlate } from '../../tests/fixtures/sampleBench'
import { changedBetween, changedPart } from './changedPart'
import type { PictureDrawing } from './drawPicture'

const [PLATE, OTHER_PLATE] = [{}, {}] as ImageBitmap[]

/** A piece at a place; of its samples one is another one. */
function piece(
  col: number,
  row: number,
  over: { readonly at?: readonly [number, number]; readonly hasHoles?: boolean } = {},
): ShownPatch {
  const samples = createSamples(20, 10, 3, 8)
  if (over.at) samples.data[3 * (over.at[1] * 20 + over.at[0]) + 1] = 1
  return { col, row, samples, bitmap: {} as ImageBitmap, hasHoles: over.hasHoles ?? false, covered: null }
}

const drawingOf = (patches: readonly ShownPatch[], over: Partial<PictureDrawing> = {}): PictureDrawing => ({
  ...SAME,
  pixels: { plate: PLATE!, mended: { patches } as PictureDrawing['pixels']['mended'] },
  ...over,
})
const SAME = {
  panel: { width: 800, height: 600 },
  view: { scale: 0.5, left: 10, top: 20 },
  plate: samplePlate,
  neighbour: null,
  frame: 1001,
  isPlateShown: false,
  compare: NO_COMPARISON,
  other: [],
  isFlipped: false,
  seenBy: null,
  mapView: 'off' as const,
  viewTransform: PLAIN_VIEW,
  clipPictures: { mean: null, spread: null },
}
const NOTHING = { col: 0, row: 0, width: 0, height: 0 }

test('of pieces at the same place what differs has changed; of others all that they cover', () => {
  const [here, there] = [piece(100, 50), piece(300, 200)]
  expect(changedBetween([here, there], [piece(300, 200), piece(100, 50)])).toBeNull()
  expect(changedBetween([here], [piece(100, 50, { at: [3, 7] })])).toEqual({
    col: 103,
    row: 57,
    width: 1,
    height: 1,
  })
  expect(changedBetween([here], [])).toEqual({ col: 100, row: 50, width: 20, height: 10 })
  expect(changedBetween([here], [piece(101, 50)])).toEqual({ col: 100, row: 50, width: 21, height: 10 })
  expect(changedBetween([], [])).toBeNull()
  // What a hole lets through is not told.
  expect(changedBetween([piece(0, 0, { hasHoles: true })], [piece(0, 0, { hasHoles: true })])).toEqual({ col: 0, row: 0, width: 20, height: 10 }) // prettier-ignore
})

test('a dab: only what it has changed is drawn, and as far around as pixels are averaged', () => {
  const before = drawingOf([piece(100, 50)])
  expect(changedPart(before, drawingOf([piece(100, 50)]))).toEqual(NOTHING)
  // From 60 to 60.5 and from 45 to 45.5 px of the panel.
  expect(changedPart(before, drawingOf([piece(100, 50, { at: [0, 0] })]))).toEqual({ col: 56, row: 41, width: 9, height: 9 }) // prettier-ignore
})

test.each<[string, Partial<PictureDrawing>]>([
  ['another plate', { pixels: { plate: OTHER_PLATE!, mended: null } }],
  ['another view', { view: { scale: 0.5, left: 11, top: 20 } }],
  ['another frame', { frame: 1002 }],
  ['the plate is shown', { isPlateShown: true }],
  ['differences are shown', { compare: { ...NO_COMPARISON, mode: 'difference' } }],
  ['a looking aid', { viewTransform: { ...PLAIN_VIEW, exposureStops: 1 } }],
])(
  'all is drawn where more than pieces has changed, or a pixel shows more than itself: %s',
  (_what, over) => {
    const before = drawingOf([piece(100, 50)])
    expect(changedPart(before, drawingOf([piece(100, 50)], over))).toBeNull()
    expect(changedPart(drawingOf([], over), drawingOf([piece(100, 50)]))).toBeNull()
    expect(changedPart(null, before)).toBeNull()
  },
)
