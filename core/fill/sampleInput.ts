/** What a fill is given, made by hand; for tests. */
import { createPathCurve, type PathPoint } from '../geometry/pathCurve'
import { IDENTITY } from '../geometry/transform'
import { createRaster, type Raster } from '../image/raster'
import { wholePicture } from '../image/rect'
import { coverageFromEdges, outerPxOf, rimPxOf, type Edge } from '../matte/edge'
import { measurePathField } from '../matte/pathField'
import { renderPathCoverage } from '../matte/pathMatte'
import { measurePolygonField } from '../matte/polygonMatte'
import type { FillInput } from './method'

export const SAMPLE_EDGE: Edge = { featherOutPx: 1.5, featherInPx: 0, growPx: 0.5 }
const MARGIN_PX = 24

const around = (picture: Raster, edge: Edge, over: Partial<FillInput>) => ({
  picture,
  rect: wholePicture(picture),
  pictureSize: picture,
  taboo: null,
  frame: 1001,
  seed: 7,
  rimPx: rimPxOf(edge),
  outerPx: outerPxOf(edge),
  held: null,
  source: null,
  still: null,
  layerMap: null,
  ...over,
})

/** A closed area, x, y pairs, on a whole picture. */
export function closedInput(
  picture: Raster,
  polygon: readonly number[],
  edge = SAMPLE_EDGE,
  over: Partial<FillInput> = {},
): FillInput {
  const field = measurePolygonField(polygon, wholePicture(picture), outerPxOf(edge) + MARGIN_PX)
  return { ...around(picture, edge, {}), field, wanted: coverageFromEdges(field, edge), path: null, ...over }
}

/** A path on a whole picture. */
export function pathInput(
  picture: Raster,
  points: readonly PathPoint[],
  edge = SAMPLE_EDGE,
  over: Partial<FillInput> = {},
): FillInput {
  const curve = createPathCurve(points)
  const field = measurePathField(curve, wholePicture(picture), outerPxOf(edge) + MARGIN_PX)
  return {
    ...around(picture, edge, {}),
    field,
    wanted: renderPathCoverage(field, edge),
    path: { curve, field },
    ...over,
  }
}

/** The picture itself as what is copied from, so many px to the right and down. */
export const shiftedSource = (
  picture: Raster,
  dx: number,
  dy: number,
  taboo: Uint8Array | null = null,
): FillInput['source'] => ({
  picture,
  rect: wholePicture(picture),
  taboo,
  sourceFromTarget: [1, 0, dx, 0, 1, dy, 0, 0, 1],
})

/** A picture of the plate's size that rests. */
export const stillAt = (picture: Raster): FillInput['still'] => ({
  picture,
  rect: wholePicture(picture),
  taboo: null,
  stillFromTarget: IDENTITY,
})

export function paintRaster(
  width: number,
  height: number,
  value: (x: number, y: number, channel: number) => number,
  channels = 3,
): Raster {
  const raster = createRaster(width, height, channels)
  for (let i = 0; i < raster.data.length; i++) {
    const pixel = Math.floor(i / channels)
    raster.data[i] = value((pixel % width) + 0.5, Math.floor(pixel / width) + 0.5, i % channels)
  }
  return raster
}
