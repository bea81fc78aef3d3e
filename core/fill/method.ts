/**
 * What a fill is: a method that makes replacement pixels for an area.
 *
 * Each fill is one file that declares its parameters (label, unit, range, default) next to its
 * arithmetic; `registry.ts` lists them. Form, validation, stored settings, docs, contract tests and
 * evaluation walk that list. The caller crops the picture by `reach`, blends by coverage, puts grain
 * back and stores: done once, the same for all.
 */
import type { z } from 'zod'
import type { PathCurve } from '../geometry/pathCurve'
import type { Matrix3 } from '../geometry/transform'
import type { Raster } from '../image/raster'
import type { Rect, Size } from '../image/rect'
import type { Samples } from '../image/samples'
import type { MarkPicture } from '../image/markPicture'
import type { EdgeField } from '../matte/edge'
import type { PathField } from '../matte/pathField'
import type { GatheredMeasure, ShadeMeasure } from '../measure/mendMeasure'
import type { LayerMap } from '../scene/layerMap'
import type { RunContext } from '../shot/context'
import type { Frame, FrameRange } from '../time'

/** A part of a path: shares of its length, from 0 to 1. The same part is looked at on frames beside. */
export interface PathPart {
  readonly from: number
  readonly to: number
}

/** What a pixel of the surroundings is to a fill: nobody's business. */
export const FREE = 0
/** Another mend has been there already: taken only where nothing else is known. */
export const MENDED = 1
/** A holdout, or trouble that another mend covers and that still stands in this picture: never taken. */
export const NEVER = 2

/** A crop of a frame, and what of it may be taken. */
export interface Surroundings {
  /** Only read. */
  readonly picture: Raster
  /** Where the crop lies in the full picture. */
  readonly rect: Rect
  /** FREE, MENDED or NEVER for each pixel of the rectangle; null where all is free. */
  readonly taboo: Uint8Array | null
}

export interface FillInput extends Surroundings {
  /** The number of the frame, and of the mend: what randomness is made of. */
  readonly frame: Frame
  readonly seed: number
  /** Size of the full picture: nothing beyond it was ever seen. */
  readonly pictureSize: Size
  /** The area's pixels; entries whose `wanted` is 0 need no fill. */
  readonly field: EdgeField
  readonly wanted: ArrayLike<number>
  /** Of a path area its centreline on this frame, in px of the full picture, and where pixels lie along it. */
  readonly path: { readonly curve: PathCurve; readonly field: PathField } | null
  /** For each entry how far outside the mend's own holdouts it lies, px, as far as the fill looks; below 0 inside. Null where there is none. */
  readonly holdoutDistances: Float32Array | null
  /** Pixels of the crop around the area, some of those within `reach().aroundPx`, that show what is really there; empty unless asked for. */
  readonly around: Int32Array
  /** From the area's drawn edge to the rim, where the plate begins to be trusted, in px. */
  readonly rimPx: number
  /** From the drawn edge to where coverage ends, in px. */
  readonly outerPx: number
  /** For fills that copy: the plate at the source, and where a place of the area is taken from. */
  readonly source: FillSource | null
  /** For fills that show a picture of their own: it, and where a place of the area lies in it. */
  readonly still: FillStill | null
  /** For fills that take a mark off: its picture, and where that lies. */
  readonly mark: FillMark | null
  /** The rectangle as it was read, before any mend; for fills that ask for it. */
  readonly plate: Raster | null
  /** Layers of this frame around the area, where the scene has several and frames are gathered. */
  readonly layerMap: LayerMap | null
}

export interface FillMark {
  readonly picture: MarkPicture
  /** Its upper left corner, px of the full picture. */
  readonly x: number
  readonly y: number
}

export interface FillSource extends Surroundings {
  readonly sourceFromTarget: Matrix3
}

export interface FillStill {
  readonly samples: Samples
  /** Where the crop lies in the still. */
  readonly rect: Rect
  readonly stillFromTarget: Matrix3
}

export type FillResult =
  | {
      readonly ok: true
      /** The fill for each entry of the field, channels interleaved; 0 where nothing is wanted. */
      readonly values: Float32Array
      /** For each entry of the field: how much of the grain's variance its fill still carries, 0 to 1; more where it raises grain. */
      readonly grainKept: Float32Array
      /** For each entry of the field: how far it is a hole, 0 to 1; only where the fill makes holes. */
      readonly holes?: Float32Array
      /** For each entry of the field what would be there without grain, channels interleaved; NaN where nothing tells. Only where contrast was raised. */
      readonly grainless?: Float32Array
      readonly faults?: FillFaults
      /** Of a shadow that was lifted: how deep it was found to be. */
      readonly shade?: FoundShade
      /** For each entry of the field: how far it needs filling at all, 0 to 1; only where the fill can tell. */
      readonly needed?: Float32Array
      readonly gathered?: GatherReport
    }
  | {
      readonly ok: false
      readonly reason: 'stopped' | 'nothing-known' | 'no-source'
      readonly detail: string
    }

/** A shadow as a fill found it; how well it was lifted is measured on what is finished. */
export type FoundShade = Pick<ShadeMeasure, 'by' | 'depthStops' | 'glintShare'>

/**
 * A result that still wants what `steady` made of other frames: they are looked at only where they are needed, such as those beside where something is left
 * to fill.
 */
export interface PendingFill {
  readonly wants: 'beside' | 'anchor'
  /** The parts of the path that are looked at there; null: all of the area. */
  readonly parts: readonly PathPart[] | null
  finish(prepared: readonly Prepared[]): FillOutcome
}
export type FillOutcome = FillResult | PendingFill

export const isPending = (outcome: FillOutcome): outcome is PendingFill => 'finish' in outcome

/** The result, finished where it is pending: with what was made of other frames, or without them. */
export const completed = (outcome: FillOutcome, prepared: readonly Prepared[] = []): FillResult =>
  isPending(outcome) ? completed(outcome.finish(prepared), prepared) : outcome

/** Shares, 0 to 1, of the wanted entries whose source was not to be had. */
export interface FillFaults {
  readonly outsidePicture: number
  readonly insideOthers: number
}

/** What gathering from other frames came to. */
export interface GatherReport extends GatheredMeasure {
  /** For each entry of the field, how many frames showed it; −1 where nothing was wanted. */
  readonly seen: Float32Array
  /** For each entry, the frame that had the most say; −1 where none did. */
  readonly from: Int32Array
  /** Deviation of the plate's grain for each channel, as frames that show the same places differ by it; null: not known. */
  readonly grainDeviations: readonly number[] | null
}

/** Another frame of the shot that a fill looks at, and how places move from the frame being filled to it. */
export interface OtherFrame {
  readonly frame: Frame
  readonly purpose: FramePurpose
  /** By the ground: the track that the area follows; nothing where it follows none. */
  readonly groundFromHere: Matrix3
  /** By the area: from its middle here to its middle there, a shift. */
  readonly areaFromHere: Matrix3
  /** By each layer of the scene, the largest first; where frames are gathered. */
  readonly layersFromHere?: readonly Matrix3[]
  /** Layers of the other frame, where the scene has several and frames are gathered. */
  readonly layerMap?: LayerMap | null
}

/**
 * beside: near in time, for steadiness. anchor: one frame for the whole span, on which what is worked out once
 * is worked out; the area there is all that it covers during the span. clear: the nearest frames on which no
 * holdout lies over the source. gather: the plate there at the places of the area here, with what covers it.
 */
export type FramePurpose = 'beside' | 'anchor' | 'clear' | 'gather'

/** What `prepare` made of another frame. */
export interface Prepared<P = unknown> extends OtherFrame {
  readonly value: P
}

/** What a fill wants of other frames, so that its result is steady over time. */
export interface Steadiness<S extends z.ZodObject = z.ZodObject, P = unknown> {
  /** How many frames to either side, and whether the anchor, at once or when a pending fill asks for it, and the clear frames. */
  wants(params: z.output<S>): {
    readonly besideFrames: number
    readonly anchor: boolean | 'late'
    readonly clear: boolean
  }
  /** Frames to gather from for a frame of the plate; undefined when none ever. */
  gathers?(params: z.output<S>, frame: Frame, plate: FrameRange): FramesWanted | undefined
  /**
   * Work on a single frame, kept by the caller; the plate there is without any mend. Null where nothing can be said.
   * @param parts  Those of the path that a pending fill asks for.
   */
  prepare(
    input: FillInput,
    params: z.output<S>,
    context: RunContext,
    purpose: FramePurpose,
    parts?: readonly PathPart[] | null,
  ): P | null
}

/** What was read of a frame that is gathered from. */
export interface OtherCrop {
  readonly samples: Samples
  /** Where the crop lies in the full picture. */
  readonly rect: Rect
  /** Not 0 where something covers it there; null where nothing does. */
  readonly masked: Uint8Array | null
}

/** Frames to gather from. */
export interface FramesWanted {
  readonly frames: readonly Frame[]
  /** By the scene's motion; or pixel by pixel, as they lie, and then with all that the area covers there. */
  readonly motion: 'scene' | 'none'
}

/** A picture of a fill's own. */
export interface StillWanted {
  /** The name under which it was brought in, or a frame of the plate. */
  readonly of: string | Frame
  /** Where its corners lie: x, y of the upper left, upper right, lower right and lower left one; null: as the plate's. */
  readonly corners: readonly number[] | null
  /** The frame on which it lies so; it goes with the ground from there. Null: it rests. */
  readonly on: Frame | null
}

/** The picture of a mark, and where its upper left corner lies on a frame, px; it goes with the area from there. */
export interface MarkWanted {
  readonly of: string
  readonly on: Frame
  readonly x: number
  readonly y: number
}

export interface FillMethod<S extends z.ZodObject = z.ZodObject, P = unknown> {
  /** Stored in projects: never renamed. */
  readonly id: string
  /** Raised when the same input gives other pixels; part of every cache key. */
  readonly version: number
  readonly title: string
  /** What it is good for and where it fails, for the picker and the docs. */
  readonly summary: string
  /** Paper or textbook, or "common practice". */
  readonly source: string
  readonly params: S
  /** What of its parameters starts otherwise for an area of a size, px. */
  defaultsForSize?(area: Size): Partial<z.output<S>>
  /** Whether it works along a path only. */
  readonly needsPath: boolean
  /** Whether it copies from the mend's source, under these parameters. */
  needsSource?(params: z.output<S>): boolean
  /** The picture of its own that it shows under these parameters, or null. */
  needsStill?(params: z.output<S>): StillWanted | null
  /** The picture of a mark that it takes off under these parameters, or null. */
  needsMark?(params: z.output<S>): MarkWanted | null
  /** Whether it leaves holes, so that what is handed over needs an alpha channel. */
  makesHoles?(params: z.output<S>): boolean
  /** Its pixels come from elsewhere as they are: their brightness and colour can be made to agree with the new place. */
  readonly isCopy?: boolean
  /** It corrects what is there by what it finds to be wrong with it: where nothing is, the plate stays. */
  readonly corrects?: boolean
  /** It shows the plate as it was read: `FillInput.plate`. */
  readonly needsPlate?: boolean
  /** It works on what is there, the thing itself included: it hides nothing by itself. */
  readonly keepsThing?: boolean
  /** Nothing in its area is trouble: other mends may learn from what is there. */
  readonly hidesNothing?: boolean
  /** Contrast is raised, and the grain with it: more of it may be left than there was. */
  readonly raisesGrain?: boolean
  /** A coarser first result comes much sooner: see `RunContext.isPreview`. */
  readonly hasDraft?: boolean
  /** How far outside its area, as drawn and grown, it looks for the thing itself. */
  widensPx?(params: z.output<S>): number
  /** How far it reads around the covered pixels, in px. `halfPx` is the most that a
   * covered pixel is away from the centreline; 0 for closed areas. `ringPx`: how far outside the coverage it wants
   * entries of the field, if any; `aroundPx`: how far it wants some of the pixels around, to register frames by. */
  reach(
    params: z.output<S>,
    halfPx: number,
  ): { readonly marginPx: number; readonly ringPx?: number; readonly aroundPx?: number }
  readonly steady?: Steadiness<S, P>
  /** @param prepared  What `steady` asked for, in the order of frames; without `steady` empty. */
  run(
    input: FillInput,
    params: z.output<S>,
    context: RunContext,
    prepared?: readonly Prepared<P>[],
  ): FillOutcome
}

/** Declares a fill; keeps the types of its parameters and of what it prepares together. */
export const defineFill = <S extends z.ZodObject, P = never>(method: FillMethod<S, P>): FillMethod => method

/** Whether an entry of the field is taken for the thing itself: nothing is learnt from it. */
export const isTrouble = ({ field, rimPx }: Pick<FillInput, 'field' | 'rimPx'>, entry: number): boolean =>
  field.edges[entry]! < rimPx

/**
 * Which pixels of the rectangle may be learnt from: 1 where they are neither the thing itself nor another
 * mend's business. Where nothing is left that way, pixels that other mends have made are let in.
 */
export function knownPixels(input: FillInput): Uint8Array {
  const { picture, field, taboo } = input
  const known = new Uint8Array(picture.width * picture.height).fill(1)
  for (let i = 0; i < field.count; i++) if (isTrouble(input, i)) known[field.pixels[i]!] = 0
  if (!taboo) return known
  const free = known.slice()
  let isAny = false
  for (let i = 0; i < free.length; i++) {
    if (taboo[i] !== FREE) free[i] = 0
    isAny ||= free[i] === 1
  }
  if (isAny) return free
  for (let i = 0; i < known.length; i++) if (taboo[i] === NEVER) known[i] = 0
  return known
}

/** The plate's own values for every entry: what stays where nothing is filled. */
export function ownValues({
  picture: { channels, data },
  field: { count, pixels },
}: FillInput): Float32Array {
  const values = new Float32Array(count * channels)
  for (let i = 0; i < count;) {
    const end = runEnd(pixels, i, count)
    const from = pixels[i]! * channels
    values.set(data.subarray(from, from + (end - i) * channels), i * channels)
    i = end
  }
  return values
}

/** The entry after the last of those from `i` on that lie beside each other: what is copied is copied as a whole. */
export function runEnd(pixels: Int32Array, i: number, count: number): number {
  let end = i + 1
  while (end < count && pixels[end] === pixels[end - 1]! + 1) end++
  return end
}
