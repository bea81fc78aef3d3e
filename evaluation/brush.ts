/**
 * What the brush paints behind the bollard of LM_080, beside the truth without grain.
 *
 *   node --import tsx evaluation/brush.ts [FILM]
 *
 * FILM holds the demo film (.data/test-demo). Five strokes cover the bollard and go with it over the whole shot; on the frames that are scored other frames say what
 * is behind. A JSON line: `psnr` of what was painted and seen on other frames, dB, and of each frame alone; `seen`, the share of it; `outside`, samples changed elsewhere. `ridesPx`: by how much dabs that ride on the
 * scene, at places of wall and columns, leave the place that they were painted on, over all frames in which it is in sight: mean and worst, px.
 */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import sharp from 'sharp'
import { readScene } from '../cli/readScene'
import { sceneOfFootage } from '../cli/scene'
import type { StrokeArea } from '../core/document/areas'
import { ALL_PARTS } from '../core/document/basics'
import { DEFAULT_BRUSH, ridingStroke, strokeArea } from '../core/document/brush'
import { DOCUMENT_FORMAT, DOCUMENT_VERSION, serialiseDocument } from '../core/document/document'
import { startingFill, startingFinish, type Mend } from '../core/document/mend'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { layPatches } from '../core/evaluate/finished'
import { cropSamples, type Samples } from '../core/image/samples'
import { placeArea } from '../core/plan/placedArea'
import { planFrame } from '../core/plan/planFrame'
import { sceneTrack } from '../core/plan/sceneTrack'
import type { ShotDocument } from '../core/plan/shotDocument'
import type { Clip } from '../core/shot/clip'
import { LM_080, momentAt } from '../demo/lm080/scene'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { createCache } from '../workers/cache'

const film = resolve(process.argv[2] ?? '.data/test-demo', LM_080.name)
const { firstFrame, frameCount, width, height } = LM_080
const lastFrame = firstFrame + frameCount - 1
const span = { firstFrame, lastFrame }
const SCORE_EVERY = 6
const ON = firstFrame + Math.floor(frameCount / 2)

/** From the foot of the bollard, px: down its middle and both its sides, across its foot and its shadow. */
const STROKES = [
  { from: [-22, -280], to: [-22, 8] },
  { from: [0, -290], to: [0, 8] },
  { from: [22, -280], to: [22, 8] },
  { from: [-58, 0], to: [58, 0] },
  { from: [-58, 16], to: [58, 16] },
] as const

function stroke(id: string, { from, to }: (typeof STROKES)[number]): StrokeArea {
  const at = momentAt(ON).bollard
  const points = [from, to].map(([dx, dy]) => ({ x: at.x + dx, y: at.y + dy, pressure: 1 }))
  const settings = { ...DEFAULT_BRUSH, sizePx: 60, softness: 0, lives: 'span', past: 'mends' } as const
  const drawn = strokeArea(id, points, settings, ON, span)
  const keys = Array.from({ length: frameCount }, (_, i) => {
    const { x, y } = momentAt(firstFrame + i).bollard
    const moved = drawn.keys[0]!.points.map((point) => ({
      ...point,
      x: point.x + x - at.x,
      y: point.y + y - at.y,
    }))
    return { frame: firstFrame + i, points: moved }
  })
  return { ...drawn, keys }
}

const decibels = (sum: number, samples: number): number =>
  Math.round(100 * 10 * Math.log10((255 * 255 * samples) / sum)) / 100

/** Places of the wall and of columns, px of the frame they are painted on; the truth says which they are. */
const RIDERS = [150, 260, 370, 480, 800, 910, 1020, 1130].flatMap((x) => [120, 260].map((y) => ({ x, y })))

function ridesPx(document: ShotDocument): { mean: number; worst: number } {
  const errors = RIDERS.map((place, i) => {
    const dab = strokeArea(`r${i}`, [{ ...place, pressure: 1 }], DEFAULT_BRUSH, ON, span)
    const track = sceneTrack('scene', 'Scene', dab, document, ON)!
    const tracks = new Map([[track.id, track]])
    const riding = ridingStroke(dab, tracks, ON, { trackId: track.id, uses: ALL_PARTS })
    const [wall, columns] = (['wall', 'columns'] as const).map((layer) =>
      Array.from({ length: frameCount }, (_, at) => {
        const [here, there] = [momentAt(ON).layers[layer], momentAt(firstFrame + at).layers[layer]]
        const [x, y] = [place.x + there.x - here.x, place.y + there.y - here.y]
        if (x < 0 || x >= width) return 0
        const { middle } = placeArea(riding, tracks, firstFrame + at)
        return Math.hypot(middle.x - x, middle.y - y)
      }),
    )
    // A dab lies on one of the two; on the wrong one it would be many px off at once.
    return Math.max(...wall!) < Math.max(...columns!) ? wall! : columns!
  }).flat()
  const round = (px: number) => Math.round(1000 * px) / 1000
  return { mean: round(errors.reduce((sum, one) => sum + one, 0) / errors.length), worst: round(Math.max(...errors)) } // prettier-ignore
}

const mend: Mend = {
  id: 'brush',
  kind: 'brush',
  name: 'Brush 1',
  isOn: true,
  areas: STROKES.map((one, i) => stroke(`s${i}`, one)),
  fill: startingFill('brush'),
  source: null,
  finish: { ...startingFinish('brush'), grain: 0 },
  span: { ...span, rampInFrames: 0, rampOutFrames: 0 },
}
const read = async (kind: string, frame: number): Promise<Samples> => {
  const { data, info } = await sharp(join(film, kind, `${LM_080.name}.${frame}.png`))
    .raw()
    .toBuffer({ resolveWithObject: true })
  return { width, height, channels: info.channels, data: new Uint8Array(data) }
}
const plates = new Map<number, Promise<Samples>>()
const plateAt = (frame: number): Promise<Samples> => {
  let plate = plates.get(frame)
  if (!plate) plates.set(frame, (plate = read('plate', frame)))
  return plate
}
const clip: Clip = {
  plate: { width, height, channels: 3, bitDepth: 8 },
  readRect: async (frame, rect) => cropSamples(await plateAt(frame), rect),
  readMatte: async () => null,
  readStill: async () => null,
  readMark: async () => null,
  cache: createCache(),
}

const work = mkdtempSync(join(tmpdir(), 'brush-'))
try {
  const [file, out] = [join(work, 'mends.json'), join(work, 'scene.json')]
  const options = {
    plate: join(film, 'plate', `${LM_080.name}.%04d.png`),
    firstFrame: String(firstFrame),
    rate: '',
  }
  const plate = { name: LM_080.name, width, height, firstFrame, frameCount, frameRate: LM_080.frameRate }
  writeFileSync(
    file,
    serialiseDocument({
      format: DOCUMENT_FORMAT,
      version: DOCUMENT_VERSION,
      plate,
      mends: [mend],
      tracks: [],
    }),
  )
  await sceneOfFootage({ ...options, mends: file, out }, () => undefined, new AbortController().signal)
  const scene = await readScene(out)
  const document = documentOf([mend], new Map(), { ...span, width, height }, scene)
  let [squares, count, thing, outside] = [0, 0, 0, 0]
  const ofFrames: Record<number, number> = {}
  for (let frame = firstFrame + 3; frame <= lastFrame; frame += SCORE_EVERY) {
    const [own, truth, matte] = await Promise.all([
      plateAt(frame),
      read('truth-without-grain', frame),
      read('matte', frame),
    ])
    const evaluated = await evaluateFrame(planFrame(document, frame), clip, {
      shouldStop: () => false,
      showsSeen: true,
    })
    const [squaresBefore, countBefore] = [squares, count]
    const mended = layPatches(own, evaluated.patches, 3)
    const seen = new Int16Array(width * height).fill(-1)
    // Later strokes lie on top.
    for (const { rect, seen: map } of evaluated.seenMaps)
      for (let at = 0; at < map.length; at++)
        if (map[at]! >= 0)
          seen[(rect.row + Math.floor(at / rect.width)) * width + rect.col + (at % rect.width)] = map[at]!
    for (let pixel = 0; pixel < width * height; pixel++) {
      const isThing = matte.data[pixel * matte.channels]! > 0
      if (isThing) thing++
      for (let c = 0; c < 3; c++) {
        const at = 3 * pixel + c
        if (seen[pixel] === -1 && mended.data[at] !== own.data[at]) outside++
        if (isThing && seen[pixel]! > 0) squares += (mended.data[at]! - truth.data[at]!) ** 2
      }
      if (isThing && seen[pixel]! > 0) count++
    }
    ofFrames[frame] = decibels(squares - squaresBefore, 3 * (count - countBefore))
  }
  const rides = ridesPx(document)
  const psnr = decibels(squares, 3 * count)
  console.log(
    JSON.stringify({ shot: LM_080.name, psnr, ofFrames, seen: Math.round((1000 * count) / thing) / 1000, outside, ridesPx: rides }), // prettier-ignore
  )
} finally {
  rmSync(work, { recursive: true })
}
