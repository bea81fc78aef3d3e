/**
 * Two ways to know what lies behind a thing, on real photographs with exact mattes: gathered for every frame anew, as the
 * clean plate does, or one plate of the layer in the layer's own coordinates, made once and read on every frame. JSON lines.
 *
 *   node --import tsx evaluation/layerPlates.ts FOLDER [sequence ...]
 *
 * `psnrDb` against the picture without grain, `detail` the high-pass energy over that of the picture without grain (below 1 is blurred),
 * `flicker` how much the difference from it changes from one frame to the next, code values.
 */
import type { Mend } from '../core/document/mend'
import { startingFinish } from '../core/document/mend'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { layPatches } from '../core/evaluate/finished'
import { masksOf } from '../core/evaluate/masks'
import { apply, type Matrix3 } from '../core/geometry/transform'
import { wholePicture } from '../core/image/rect'
import { medianOf } from '../core/image/median'
import { sampleManyInto } from '../core/image/sample'
import { rasterFromSamples, type Samples } from '../core/image/samples'
import { withKernelMemory } from '../core/kernels/memory'
import { psnrOf } from '../core/measure/difference'
import { planFrame } from '../core/plan/planFrame'
import { analyseScene } from '../core/scene/analyseScene'
import { motionBetween, type Scene } from '../core/scene/scene'
import type { Clip } from '../core/shot/clip'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { fillOf, sampleMend } from '../tests/fixtures/sampleMend'
import { NEVER_STOPS } from '../tests/fixtures/sampleSource'
import { cutMatte } from './film'
import { openSequence, sequencesIn, type PracticeSequence } from './practiceFootage'

const [folder = '', ...names] = process.argv.slice(2)
const DEFAULTS = ['object_02', 'object_03', 'rod_01', 'wire_03']
/** Scored: so many frames in the middle, each after the other. */
const SCORED = 6
/** Nothing of the thing's soft edge is taken. */
const CLEAR_PX = 2
/** As the join of frames: farther from the median than so many of its own deviations is another thing. */
const TOLERANCE = 3.5

interface Footage {
  readonly sequence: PracticeSequence
  readonly clip: Clip
  /** 1 for each pixel of the thing, grown by the least that keeps its soft edge out. */
  maskAt(frame: number): Promise<Uint8Array>
}

function footageOf(sequence: PracticeSequence): Footage {
  const { clip } = sequence
  const { width, height } = clip.plate
  const masks = new Map<number, Promise<Uint8Array>>()
  const matteOf = async (frame: number) => {
    const { data, channels } = await sequence.read('matte', frame)
    return Uint8Array.from({ length: width * height }, (_, i) => data[i * channels]!)
  }
  const work = async (frame: number) => {
    const matte = await matteOf(frame)
    const out = new Uint8Array(matte.length)
    for (let i = 0; i < matte.length; i++) {
      if (matte[i] === 0) continue
      const [col, row] = [i % width, (i / width) | 0]
      for (let y = Math.max(0, row - CLEAR_PX); y <= Math.min(height - 1, row + CLEAR_PX); y++)
        for (let x = Math.max(0, col - CLEAR_PX); x <= Math.min(width - 1, col + CLEAR_PX); x++)
          out[y * width + x] = 1
    }
    return out
  }
  const maskAt = (frame: number) => {
    let mask = masks.get(frame)
    if (!mask) masks.set(frame, (mask = work(frame)))
    return mask
  }
  const readMatte: Clip['readMatte'] = async (_, frame) => cutMatte(await matteOf(frame), width, height)
  return { sequence, clip: { ...clip, readMatte }, maskAt }
}

/** Pixels of a frame seen through a motion to another. */
const positionsOf = (pixels: Int32Array, width: number, motion: Matrix3): Float32Array => {
  const out = new Float32Array(2 * pixels.length)
  pixels.forEach((pixel, i) => {
    const at = apply(motion, (pixel % width) + 0.5, Math.floor(pixel / width) + 0.5)
    out[2 * i] = at.x
    out[2 * i + 1] = at.y
  })
  return out
}

/** In code values. */
function readAt(picture: Samples, positions: Float32Array): Float32Array {
  const raster = rasterFromSamples(picture)
  const out = new Float32Array((positions.length / 2) * 3)
  withKernelMemory(raster.data.byteLength + 3 * out.byteLength + 1024, (scope) =>
    sampleManyInto(out, raster, positions, 'bicubic', scope),
  )
  return out.map((value) => 255 * value)
}

/**
 * The plate of the scene's first layer, where a thing hides it on any frame: laid out as the middle frame sees it, each place the
 * mean of what frames show that agree with their median. Light is brought over by one gain a frame and channel.
 */
async function layerPlate({ sequence, clip, maskAt }: Footage, scene: Scene) {
  const { width, height } = clip.plate
  const { firstFrame, lastFrame } = sequence.span
  const middle = (firstFrame + lastFrame) >> 1
  const margin = { x: width, y: height >> 1 } // pans leave the middle frame's picture
  const size = { width: width + 2 * margin.x, height: height + 2 * margin.y }
  const isWanted = new Uint8Array(size.width * size.height)
  const around = 3 // reading between pixels
  for (let frame = firstFrame; frame <= lastFrame; frame++) {
    const mask = await maskAt(frame)
    const motion = motionBetween(scene, 0, frame, middle)
    mask.forEach((one, i) => {
      if (one === 0) return
      const at = apply(motion, (i % width) + 0.5, Math.floor(i / width) + 0.5)
      const [col, row] = [Math.floor(at.x) + margin.x, Math.floor(at.y) + margin.y]
      for (let y = Math.max(0, row - around); y <= Math.min(size.height - 1, row + around); y++)
        for (let x = Math.max(0, col - around); x <= Math.min(size.width - 1, col + around); x++)
          isWanted[y * size.width + x] = 1
    })
  }
  const pixels = Int32Array.from(isWanted.keys()).filter((i) => isWanted[i] === 1)
  const readings: (readonly number[])[][] = Array.from(pixels, () => [])
  const gains = await gainsOf(sequence, scene, middle, maskAt)
  for (let frame = firstFrame; frame <= lastFrame; frame += 2) {
    const mask = await maskAt(frame)
    const motion = motionBetween(scene, 0, middle, frame)
    const positions = new Float32Array(2 * pixels.length)
    pixels.forEach((pixel, i) => {
      const at = apply(
        motion,
        (pixel % size.width) + 0.5 - margin.x,
        Math.floor(pixel / size.width) + 0.5 - margin.y,
      )
      positions[2 * i] = at.x
      positions[2 * i + 1] = at.y
    })
    const values = readAt(await sequence.read('plate', frame), positions)
    const gain = gains.get(frame)!
    for (let i = 0; i < pixels.length; i++) {
      const [col, row] = [Math.floor(positions[2 * i]!), Math.floor(positions[2 * i + 1]!)]
      if (col < 2 || row < 2 || col >= width - 2 || row >= height - 2 || mask[row * width + col] === 1)
        continue
      readings[i]!.push([0, 1, 2].map((c) => values[3 * i + c]! / gain[c]!))
    }
  }
  const plate = new Float32Array(size.width * size.height * 3).fill(NaN)
  pixels.forEach((pixel, i) => {
    if (readings[i]!.length === 0) return
    for (let c = 0; c < 3; c++) plate[3 * pixel + c] = agreed(readings[i]!.map((one) => one[c]!))
  })
  return { plate, size, margin, middle, gains }
}

function agreed(values: readonly number[]): number {
  const middle = medianOf(values)
  const deviation = 1.4826 * medianOf(values.map((one) => Math.abs(one - middle))) + 0.5
  const kept = values.filter((one) => Math.abs(one - middle) <= TOLERANCE * deviation)
  return kept.reduce((sum, one) => sum + one, 0) / kept.length
}

/** How much lighter each frame is than the middle one, channel by channel, from every 16th place that both show. */
async function gainsOf(
  sequence: PracticeSequence,
  scene: Scene,
  middle: number,
  maskAt: Footage['maskAt'],
): Promise<Map<number, number[]>> {
  const { width, height } = sequence.clip.plate
  const here = await sequence.read('plate', middle)
  const gains = new Map<number, number[]>()
  const [maskHere, pixels] = [await maskAt(middle), [] as number[]]
  for (let row = 8; row < height; row += 16)
    for (let col = 8; col < width; col += 16) pixels.push(row * width + col)
  for (let frame = sequence.span.firstFrame; frame <= sequence.span.lastFrame; frame++) {
    const positions = positionsOf(Int32Array.from(pixels), width, motionBetween(scene, 0, middle, frame))
    const values = readAt(await sequence.read('plate', frame), positions)
    const mask = await maskAt(frame)
    gains.set(
      frame,
      [0, 1, 2].map((c) => {
        const ratios = pixels.flatMap((pixel, i) => {
          const [col, row] = [Math.floor(positions[2 * i]!), Math.floor(positions[2 * i + 1]!)]
          const isIn = col >= 0 && row >= 0 && col < width && row < height
          const value = here.data[3 * pixel + c]!
          return isIn && mask[row * width + col] === 0 && maskHere[pixel] === 0 && value > 24
            ? [values[3 * i + c]! / value]
            : []
        })
        return medianOf(ratios)
      }),
    )
  }
  return gains
}

/** What a way makes of the thing's pixels on a frame; NaN where it knows nothing. */
type Way = (frame: number, pixels: Int32Array) => Promise<Float32Array>

async function score(name: string, way: string, footage: Footage, at: Way, other: Way): Promise<void> {
  const { sequence, maskAt } = footage
  const first = ((sequence.span.firstFrame + sequence.span.lastFrame) >> 1) - SCORED / 2
  let [squares, count, detail, trueDetail, changes, changeCount] = [0, 0, 0, 0, 0, 0]
  let before: Map<number, number> | null = null
  for (let frame = first; frame < first + SCORED; frame++) {
    const mask = await maskAt(frame)
    const pixels = Int32Array.from(mask.keys()).filter((i) => mask[i] === 1)
    const [values, others] = [await at(frame, pixels), await other(frame, pixels)]
    const clean = (await sequence.read('clean', frame)).data
    const known = new Map<number, number>()
    pixels.forEach((pixel, i) => {
      for (let c = 0; c < 3; c++) {
        const value = values[3 * i + c]!
        if (Number.isNaN(value) || Number.isNaN(others[3 * i + c]!)) continue
        known.set(3 * pixel + c, value - clean[3 * pixel + c]!)
        squares += (value - clean[3 * pixel + c]!) ** 2
        count++
      }
    })
    for (const [place, off] of known) {
      const beside = known.get(place + 3)
      if (beside !== undefined) {
        const step = clean[place + 3]! - clean[place]!
        detail += (step + beside - off) ** 2
        trueDetail += step ** 2
      }
      const then = before?.get(place)
      if (then !== undefined) {
        changes += Math.abs(off - then)
        changeCount++
      }
    }
    before = known
  }
  const rounded = (value: number) => Math.round(1000 * value) / 1000
  console.log(
    JSON.stringify({
      sequence: name,
      half: sequence.sets ? 'sets' : 'reports',
      way,
      psnrDb: rounded(psnrOf(squares / count, 255)),
      detail: rounded(detail / trueDetail),
      flicker: rounded(changes / changeCount),
      scored: count,
    }),
  )
}

for (const name of sequencesIn(folder, names.length > 0 ? names : DEFAULTS)) {
  const footage = footageOf(openSequence(folder, name))
  const { sequence, clip } = footage
  const { width } = clip.plate
  const fill = fillOf('clean-plate')
  const span = { ...sequence.span, rampInFrames: 0, rampOutFrames: 0 }
  const finish = { ...startingFinish('object'), grain: 0, featherOutPx: 1.5, growPx: 1 }
  const mend: Mend = sampleMend({
    areas: [{ id: 'a', role: 'cover', shape: 'matte', interpolation: 'linear', follow: null, pattern: 'exact', keys: [] }], // prettier-ignore
    fill: { ...fill, params: { ...fill.params, tidyPx: 0 } },
    finish,
    span,
  })
  const maskAt = masksOf(documentOf([mend], new Map(), { ...sequence.span, ...clip.plate }), clip)
  const scene = (await analyseScene({ range: sequence.span, maskAt }, clip, NEVER_STOPS)) as Scene
  const layer = await layerPlate(footage, scene)
  const gathered: Way = async (frame, pixels) => {
    const document = documentOf([mend], new Map(), { ...sequence.span, ...clip.plate }, scene)
    const done = await evaluateFrame(planFrame(document, frame), clip, { ...NEVER_STOPS, showsSeen: true })
    const [map] = done.seenMaps
    const { data } = layPatches(await clip.readRect(frame, wholePicture(clip.plate)), done.patches, 3)
    const out = new Float32Array(3 * pixels.length).fill(NaN)
    pixels.forEach((pixel, i) => {
      const [col, row] = [(pixel % width) - map!.rect.col, Math.floor(pixel / width) - map!.rect.row]
      const isInside = col >= 0 && row >= 0 && col < map!.rect.width && row < map!.rect.height
      if (!isInside || map!.seen[row * map!.rect.width + col]! <= 0) return
      for (let c = 0; c < 3; c++) out[3 * i + c] = data[3 * pixel + c]!
    })
    return out
  }
  const byLayer: Way = async (frame, pixels) => {
    const motion = motionBetween(scene, 0, frame, layer.middle)
    const positions = positionsOf(pixels, width, motion).map(
      (value, i) => value + (i % 2 === 0 ? layer.margin.x : layer.margin.y),
    )
    const out = new Float32Array(3 * pixels.length)
    const raster = { ...layer.size, channels: 3, data: layer.plate }
    withKernelMemory(layer.plate.byteLength + 3 * out.byteLength + 1024, (scope) =>
      sampleManyInto(out, raster, positions, 'bicubic', scope),
    )
    // As samples, as the other way's are.
    return out.map((value, i) => Math.round(value * layer.gains.get(frame)![i % 3]!))
  }
  await score(
    name,
    `gathered for each frame, ${scene.layers.length} layers known`,
    footage,
    gathered,
    byLayer,
  )
  await score(name, 'one plate of the first layer', footage, byLayer, gathered)
}
