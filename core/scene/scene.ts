/**
 * Scene motion: how the background of a shot moves, in layers, with how sure that is for each frame and place.
 *
 * One answer for everything that needs it: gathering, still views, the survey. Matrices take places of a layer's
 * reference frame, the first, to a frame.
 */
import { z } from 'zod'
import { compose, IDENTITY, invert, type Matrix3 } from '../geometry/transform'
import type { Rect } from '../image/rect'
import type { Frame } from '../time'
import { NO_LAYER, type LayerMap } from './layerMap'

export const SCENE_FORMAT = 'fillagrant-scene'
export const SCENE_VERSION = 1

const matrixSchema = z.tuple([
  z.number(),
  z.number(),
  z.number(),
  z.number(),
  z.number(),
  z.number(),
  z.number(),
  z.number(),
  z.number(),
])

export const sceneSchema = z.strictObject({
  format: z.literal(SCENE_FORMAT),
  version: z.literal(SCENE_VERSION),
  plate: z.strictObject({
    width: z.int().min(1),
    height: z.int().min(1),
    firstFrame: z.int().min(0),
    frameCount: z.int().min(1),
  }),
  layers: z
    .array(
      z.strictObject({
        motions: z
          .array(matrixSchema)
          .meta({ description: 'For each frame, row by row: where places of the first frame lie on it, px' }),
        sure: z
          .array(z.number().min(0).max(1))
          .meta({ description: 'For each frame, how well its points agree' }),
        points: z.int().min(0).meta({ description: 'Points that were followed on it' }),
        hiddenBy: z.array(z.int().min(0)).meta({ description: 'Layers that pass in front of it' }),
      }),
    )
    .min(1)
    .max(8)
    .meta({ description: 'The largest part of the background first' }),
  exposureStops: z
    .array(z.number())
    .meta({ description: 'For each frame, how much brighter it is than the first' }),
  cells: z
    .strictObject({
      cellPx: z.int().min(1),
      cols: z.int().min(1),
      rows: z.int().min(1),
      frames: z.array(z.string()).meta({
        description:
          'For each frame, the layer of each cell in reading order, as runs: "0*120 1*4 -*2"; - is not known',
      }),
    })
    .nullable(),
  leftOut: z
    .strictObject({
      cellPx: z.int().min(1),
      cols: z.int().min(1),
      rows: z.int().min(1),
      frames: z.array(z.string()).meta({
        description:
          'For each frame, 1 for each cell that mends covered, 0 for the others, as runs: "0*120 1*4"',
      }),
    })
    .optional()
    .meta({ description: 'What was left out, in large cells' }),
})
export type Scene = z.output<typeof sceneSchema>

const isInside = ({ plate }: Scene, frame: Frame): boolean =>
  frame >= plate.firstFrame && frame < plate.firstFrame + plate.frameCount

/** Where places of a layer on one frame lie on another; the identity beyond the plate's frames. */
export function motionBetween(scene: Scene, layer: number, from: Frame, to: Frame): Matrix3 {
  const motions = scene.layers[layer]?.motions
  if (!motions || from === to || !isInside(scene, from) || !isInside(scene, to)) return IDENTITY
  const [there, here] = [
    motions[to - scene.plate.firstFrame] as Matrix3,
    motions[from - scene.plate.firstFrame] as Matrix3,
  ]
  const back = invert(here)
  if (!back || there.every((value, i) => value === here[i])) return IDENTITY
  return compose(there, back)
}

/** How sure the scene's motion is on a frame: that of its largest layer. */
export const sceneSureAt = (scene: Scene, frame: Frame): number =>
  isInside(scene, frame) ? (scene.layers[0]!.sure[frame - scene.plate.firstFrame] ?? 0) : 0

/** Nothing of the background moves. */
export const isLocked = ({ layers }: Scene): boolean =>
  layers.every(({ motions }) => motions.every((motion) => motion.every((value, i) => value === IDENTITY[i])))

export function layerMapOf(scene: Scene, frame: Frame, rect: Rect): LayerMap | null {
  const { cells } = scene
  if (!cells || !isInside(scene, frame)) return null
  const labels = openedCells(cells, frame - scene.plate.firstFrame)
  const { cellPx } = cells
  const firstCol = Math.max(0, Math.floor(rect.col / cellPx))
  const firstRow = Math.max(0, Math.floor(rect.row / cellPx))
  const cols = Math.min(cells.cols, Math.ceil((rect.col + rect.width) / cellPx)) - firstCol
  const rows = Math.min(cells.rows, Math.ceil((rect.row + rect.height) / cellPx)) - firstRow
  const out: number[] = []
  for (let row = 0; row < rows; row++)
    for (let col = 0; col < cols; col++) out.push(labels[(firstRow + row) * cells.cols + firstCol + col]!)
  return {
    cellPx,
    firstCol,
    firstRow,
    cols,
    rows,
    labels: out,
    hiddenBy: scene.layers.map((layer) => layer.hiddenBy),
  }
}

const opened = new WeakMap<object, Map<number, Uint8Array>>()

function openedCells(cells: NonNullable<Scene['cells']>, index: number): Uint8Array {
  let byFrame = opened.get(cells)
  if (!byFrame) opened.set(cells, (byFrame = new Map<number, Uint8Array>()))
  let labels = byFrame.get(index)
  if (!labels)
    byFrame.set(index, (labels = cellsFromRuns(cells.frames[index] ?? '', cells.cols * cells.rows)))
  return labels
}

export function cellsFromRuns(text: string, count: number): Uint8Array {
  const out = new Uint8Array(count).fill(NO_LAYER)
  let at = 0
  for (const run of text.split(' ')) {
    const [label, length] = run.split('*')
    const end = Math.min(count, at + Number(length ?? 1))
    if (label !== '-' && label !== '') out.fill(Number(label), at, end)
    at = end
  }
  return out
}

export function runsFromCells(labels: Uint8Array): string {
  const runs: string[] = []
  for (let i = 0; i < labels.length;) {
    let end = i
    while (end < labels.length && labels[end] === labels[i]) end++
    runs.push(`${labels[i] === NO_LAYER ? '-' : labels[i]}*${end - i}`)
    i = end
  }
  return runs.join(' ')
}
