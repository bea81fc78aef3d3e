/**
 * Marks taken off LM_060, beside its truth and Telea's inpainting of the exact matte in the same run.
 *
 *   node --import tsx evaluation/marks.ts [FILM]
 *
 * FILM holds the demo film (.data/test-demo). Both marks are drawn as boxes that are too large by 4 px; the one that travels is placed on six frames,
 * up to 1.5 px off. A JSON line for each: `opacityError`, mean; `placePx`, how far off its course is, mean and most; `psnr`, of the whole
 * mark against the truth, dB, on every fourth frame.
 */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import sharp from 'sharp'
import { mendFootage } from '../cli/mend'
import { sceneOfFootage } from '../cli/scene'
import { takeMarks } from '../cli/takeMarks'
import type { Area } from '../core/document/areas'
import {
  DOCUMENT_FORMAT,
  DOCUMENT_VERSION,
  parseDocument,
  serialiseDocument,
} from '../core/document/document'
import { startingFill, startingFinish, type Mend } from '../core/document/mend'
import { placeArea } from '../core/plan/placedArea'
import { LM_060, momentAt, STILL_MARK, STOPS, TRAVELLING_MARK } from '../demo/lm060/scene'
import { markFromSamples } from '../core/image/markPicture'
import { readMarkPicture } from '../server/media/markPicture.server'
import { inpaint, loadOpenCv } from './opencv'

const film = resolve(process.argv[2] ?? '.data/test-demo', LM_060.name)
const BOX_PX = 4
/** Hands are off by so much, px. */
const OFF_PX = [1.1, -0.7, 1.5, -1.2, 0.4, -1.4]
const { firstFrame, frameCount, width, height } = LM_060
const lastFrame = firstFrame + frameCount - 1
const pathOf = (kind: string, frame: number) => join(film, kind, `${LM_060.name}.${frame}.png`)

function mendOf(
  id: string,
  size: { width: number; height: number },
  places: readonly { frame: number; x: number; y: number }[],
): Mend {
  const keys = places.map(({ frame, x, y }) => ({
    frame,
    x: x + size.width / 2,
    y: y + size.height / 2,
    widthPx: size.width + 2 * BOX_PX,
    heightPx: size.height + 2 * BOX_PX,
    turnDeg: 0,
    cornerPx: 0,
  }))
  const area: Area = { id: 'a', shape: 'box', role: 'cover', interpolation: 'linear', follow: null, keys }
  const span = { firstFrame, lastFrame, rampInFrames: 0, rampOutFrames: 0 }
  return {
    id,
    kind: 'mark',
    name: id,
    isOn: true,
    areas: [area],
    fill: startingFill('mark'),
    source: null,
    finish: startingFinish('mark'),
    span,
  }
}

const placed = STOPS.slice(1).map(({ frame, x, y }, i) => ({
  frame,
  x: x + OFF_PX[i]!,
  y: y - OFF_PX[5 - i]!,
}))
const mends = [
  mendOf('still', STILL_MARK, [{ frame: firstFrame, x: STILL_MARK.x, y: STILL_MARK.y }]),
  mendOf('travelling', TRAVELLING_MARK, placed),
]
const pixelsOf = async (path: string): Promise<Uint8Array> =>
  new Uint8Array(await sharp(path).raw().toBuffer())
const matteOf = async (frame: number): Promise<Uint8Array> =>
  new Uint8Array(await sharp(pathOf('matte', frame)).extractChannel(0).raw().toBuffer())
const dbOf = (squares: number, count: number) =>
  Math.round(1000 * Math.log10((255 * 255 * count) / squares)) / 100

const work = mkdtempSync(join(tmpdir(), 'marks-'))
try {
  const [file, scene] = [join(work, 'mends.json'), join(work, 'scene.json')]
  const options = {
    plate: join(film, 'plate', `${LM_060.name}.%04d.png`),
    firstFrame: String(firstFrame),
    rate: '',
  }
  const [quiet, never] = [() => undefined, new AbortController().signal]
  const plate = { name: LM_060.name, width, height, firstFrame, frameCount, frameRate: LM_060.frameRate }
  writeFileSync(
    file,
    serialiseDocument({ format: DOCUMENT_FORMAT, version: DOCUMENT_VERSION, plate, mends, tracks: [] }),
  )
  await sceneOfFootage({ ...options, mends: file, out: scene }, quiet, never)
  const begun = performance.now()
  const { marks } = await takeMarks({ ...options, mends: file, scene, out: file }, quiet, never)
  const seconds = Math.round(performance.now() - begun) / 1000
  await mendFootage({ ...options, mends: file, scene, out: join(work, '%04d.png') }, quiet, never)
  const taken = parseDocument(readFileSync(file, 'utf8'))
  if (!taken.ok) throw new Error(taken.detail)
  const { cv } = await loadOpenCv()
  for (const [i, name] of (['still', 'travelling'] as const).entries()) {
    const size = name === 'still' ? STILL_MARK : TRAVELLING_MARK
    const offs = Array.from({ length: frameCount }, (_, k) => {
      const [area, truth] = [taken.document.mends[i]!.areas[0]!, momentAt(firstFrame + k).marks[name]]
      const { middle } = placeArea(area, new Map(), firstFrame + k)
      return { x: middle.x - truth.x - size.width / 2, y: middle.y - truth.y - size.height / 2 }
    })
    // Where its box was drawn is the hand's; that it keeps its place in it is the mark's.
    const mean = {
      x: offs.reduce((sum, { x }) => sum + x, 0) / offs.length,
      y: offs.reduce((sum, { y }) => sum + y, 0) / offs.length,
    }
    const away = offs.map(({ x, y }) => Math.hypot(x - mean.x, y - mean.y))
    let [own, telea, count] = [0, 0, 0]
    for (let frame = firstFrame + 1; frame <= lastFrame; frame += 4) {
      const [plateRgb, truth, matte, mended] = await Promise.all([
        pixelsOf(pathOf('plate', frame)),
        pixelsOf(pathOf('truth', frame)),
        matteOf(frame),
        pixelsOf(join(work, `${frame}.png`)),
      ])
      const { x, y } = momentAt(frame).marks[name]
      const isIn = (pixel: number) => {
        const [col, row] = [pixel % width, Math.floor(pixel / width)]
        return col >= x - 1 && row >= y - 1 && col <= x + size.width + 1 && row <= y + size.height + 1
      }
      const hole = new Uint8Array(width * height)
      for (let pixel = 0; pixel < hole.length; pixel++)
        hole[pixel] = matte[pixel]! > 0 && isIn(pixel) ? 255 : 0
      const painted = inpaint(cv, plateRgb, width, height, hole, 'telea')
      for (let pixel = 0; pixel < hole.length; pixel++) {
        if (hole[pixel] === 0) continue
        for (let c = 0; c < 3; c++) {
          own += (mended[3 * pixel + c]! - truth[3 * pixel + c]!) ** 2
          telea += (painted[3 * pixel + c]! - truth[3 * pixel + c]!) ** 2
        }
        count += 3
      }
    }
    const picture = markFromSamples(await readMarkPicture(join(work, marks[i]!.picture)))
    const fill = taken.document.mends[i]!.fill.params as { leftPx: number; topPx: number; on: number }
    const on = momentAt(fill.on).marks[name]
    const matte = await matteOf(fill.on)
    let [off, covered] = [0, 0]
    for (let row = Math.floor(on.y); row < on.y + size.height; row++) {
      for (let col = Math.floor(on.x); col < on.x + size.width; col++) {
        const truth = matte[row * width + col]!
        if (truth === 0) continue
        const [u, v] = [Math.round(col - fill.leftPx), Math.round(row - fill.topPx)]
        const found =
          u >= 0 && v >= 0 && u < picture.width && v < picture.height
            ? picture.opacity[v * picture.width + u]!
            : 0
        off += Math.abs(found - truth / 255)
        covered++
      }
    }
    const rounded = (value: number) => Math.round(1000 * value) / 1000
    console.log(
      JSON.stringify({
        mark: name,
        opacityError: rounded(off / covered),
        placePx: {
          mean: rounded(away.reduce((sum, one) => sum + one, 0) / away.length),
          max: rounded(Math.max(...away)),
        },
        psnr: dbOf(own, count),
        telea: dbOf(telea, count),
        seen: rounded(marks[i]!.seenShare),
        sure: rounded(marks[i]!.minSure),
        legs: marks[i]!.legs,
        secondsForBoth: seconds,
      }),
    )
  }
} finally {
  rmSync(work, { recursive: true })
}
