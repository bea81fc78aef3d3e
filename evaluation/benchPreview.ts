/**
 *   preview-ms    Across on a 1200 px long, 12 px wide path, 1920 x 1080, median in Node, same core code; passing: as while
 *                 a handle is dragged, nothing measured
 *   telea-ms      opencv-js Telea on the same matte in the same run
 */
import { createPathCurve } from '../core/geometry/pathCurve'
import { DEFAULT_FINISH, type Mend } from '../core/document/mend'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { outerPxOf } from '../core/matte/edge'
import { measurePathField } from '../core/matte/pathField'
import { renderPathCoverage } from '../core/matte/pathMatte'
import { planFrame } from '../core/plan/planFrame'
import type { Clip } from '../core/shot/clip'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { sampleMend, samplePath } from '../tests/fixtures/sampleMend'
import { NEVER_STOPS, sourceOfSamples } from '../tests/fixtures/sampleSource'
import { benchPicture, print, round, timed } from './benchTools'
import { inpaint, loadOpenCv } from './opencv'

const [width, height] = [1920, 1080]

const mended = (source: Clip, mends: readonly Mend[], isPassing: boolean) =>
  evaluateFrame(planFrame(documentOf(mends), 1001), source, { ...NEVER_STOPS, isPassing })

export async function benchPreview(): Promise<void> {
  const plate = benchPicture(width, height)
  // 1200 px long, leaning as wires do.
  const points = [
    { x: 400, y: 200, widthPx: 12 },
    { x: 400 + 1128, y: 200 + 409, widthPx: 12 },
  ]
  const mend = sampleMend({ areas: [samplePath({ keys: [{ frame: 1001, points }] })] })
  // Nothing is kept: what is dragged is another mend every time.
  const source = sourceOfSamples(plate)
  const ours = await timed(25, () => mended(source, [mend], false))
  const passing = await timed(25, () => mended(source, [mend], true))

  const hole = new Uint8Array(width * height)
  const field = measurePathField(
    createPathCurve(points),
    { col: 0, row: 0, width, height },
    outerPxOf(DEFAULT_FINISH),
  )
  renderPathCoverage(field, DEFAULT_FINISH).forEach(
    (value, i) => (hole[field.pixels[i]!] = value > 0 ? 255 : 0),
  )
  const { cv } = await loadOpenCv()
  const telea = await timed(5, () => inpaint(cv, plate.data as Uint8Array, width, height, hole, 'telea'))
  print('preview-ms', ours, 'ms', { picture: `${width}x${height}`, path: '1200 x 12 px' })
  print('preview-passing-ms', passing, 'ms', { ratio: round(telea / passing) })
  print('telea-ms', telea, 'ms', { reference: 'opencv-js', ratio: round(telea / ours) })
}
