/**
 * Scene motion: how the background of a shot moves, in layers, with how sure that is for each frame and place.
 *
 * One answer for everything that needs it: gathering, still views, the survey. Matrices take places of a layer's
 * reference frame, the first, to a frame.
 */
import { z } from 'zod'
import { compose, IDENTITY, invert, type Matrix3 } from '../geometry/transform'
import type { Frame } from '../time'

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

export const isInScene = ({ plate }: Scene, frame: Frame): boolean =>
  frame >= plate.firstFrame && frame < plate.firstFrame + plate.frameCount

/** Where places of a layer on one frame lie on another; the identity beyond the plate's frames. */
export const motionBetween = (scene: Scene, layer: number, from: Frame, to: Frame): Matrix3 =>
  motionsBetween(scene, from, to)[layer] ?? IDENTITY

const MAX_PAIRS = 4096
const pairs = new WeakMap<Scene, Map<string, readonly Matrix3[]>>()

/** The same of all layers, the largest first. Asked for again and again: the last answers are kept with the scene. */
export function motionsBetween(scene: Scene, from: Frame, to: Frame): readonly Matrix3[] {
  let known = pairs.get(scene)
  if (!known) pairs.set(scene, (known = new Map<string, readonly Matrix3[]>()))
  const key = `${from} ${to}`
  let motions = known.get(key)
  if (motions) return motions
  motions = scene.layers.map(({ motions: ofLayer }) =>
    between(scene, ofLayer as readonly Matrix3[], from, to),
  )
  if (known.size >= MAX_PAIRS) known.delete(known.keys().next().value!)
  known.set(key, motions)
  return motions
}

function between(scene: Scene, motions: readonly Matrix3[], from: Frame, to: Frame): Matrix3 {
  if (from === to || !isInScene(scene, from) || !isInScene(scene, to)) return IDENTITY
  const [there, here] = [motions[to - scene.plate.firstFrame]!, motions[from - scene.plate.firstFrame]!]
  const back = invert(here)
  if (!back || there.every((value, i) => value === here[i])) return IDENTITY
  return compose(there, back)
}

/** How sure the scene's motion is on a frame: that of its largest layer. */
export const sceneSureAt = (scene: Scene, frame: Frame): number =>
  isInScene(scene, frame) ? (scene.layers[0]!.sure[frame - scene.plate.firstFrame] ?? 0) : 0

/** Nothing of the background moves. */
export const isLocked = ({ layers }: Scene): boolean =>
  layers.every(({ motions }) => motions.every((motion) => motion.every((value, i) => value === IDENTITY[i])))
