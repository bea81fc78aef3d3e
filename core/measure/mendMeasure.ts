/** What the finished pixels of a mend's area tell: numbers that people's eyes would stumble over. */
import type { LineResidue } from './lineResidue'

export interface MendMeasure {
  readonly mendId: string
  /** Middle of the area, px of the picture: where a snag is shown. */
  readonly x: number
  readonly y: number
  /** Of a path: whether the line still shows. */
  readonly line: LineResidue | null
  /** The step across the rim against steps as far apart just outside it: 1 is usual. Null where too little is seen. */
  readonly rimStep: number | null
  /** Grain inside against grain around: 1 matches. Null where it cannot be told. */
  readonly grainRatio: number | null
  /** Means of a few cells of the area and of as many around it, the same cells on every frame; null where hardly any is seen. */
  readonly cells: {
    readonly inside: readonly (number | null)[]
    readonly around: readonly (number | null)[]
  } | null
  /** Shares of the area whose source was not to be had. */
  readonly faults: { readonly outsidePicture: number; readonly insideOthers: number } | null
  /** How much a copy stands out as one: likeness to its source against the likeness of other places, both visible. Null for other fills. */
  readonly repeated: number | null
  /** Of an area gathered from other frames: what that came to. Null for other fills. */
  readonly gathered: GatheredMeasure | null
  /** Of a shadow that was lifted; null for other fills. */
  readonly shade: ShadeMeasure | null
  /** Of a mark that was taken off; null for other fills, and where there is too little of it to tell. */
  readonly mark: MarkMeasure | null
}

/** What is left of a mark; each with how many of its own deviations it is: below 3 it may be nothing. */
export interface MarkMeasure {
  /** Share of the mark that is still there by its edges; below 0 more was taken off than there was. */
  readonly left: number
  readonly leftSure: number
  /** How much the whole mark changes what it lies on, mean, in the plate's scale. */
  readonly change: number
  /** How far beside its picture the mark lies, px. */
  readonly offPx: number
  readonly offSure: number
  /** As `left`, by means of a few px; null where there is too little of it. */
  readonly ghost: number | null
  readonly ghostSure: number
  /** Share of its pixels where the plate is at the end of its range: nothing comes through there. */
  readonly clippedShare: number
}

/** A shadow as it was found. */
export interface ShadeMeasure {
  /** By other frames that show the ground lit, or by what lies across its own edge; not at all where nothing is darker than that. */
  readonly by: 'frames' | 'edge' | 'nothing'
  /** Stops of light that are missing where it is full, for each colour; 0 where nothing is. */
  readonly depthStops: readonly number[]
  /** Share of the area that shines by light which the shadow does not take: there the ground is shown as other frames have it. */
  readonly glintShare: number
  /** How much brighter the lifted ground is than in the light, stops, mean of the colours; null where that cannot be told. */
  readonly offStops: number | null
  /** How far one colour is off beyond that, stops. */
  readonly castStops: number | null
  /** Contrast of its texture in parts of that in the light; null where it has none, or no frame shows it lit. */
  readonly contrast: number | null
}

export interface GatheredMeasure {
  /** Share of the area that some frame showed, 0 to 1. */
  readonly seenShare: number
  /** Side of the widest square that no frame showed, px. */
  readonly unseenWidePx: number
  /** Share of that on which the frames do not agree. */
  readonly ghostShare: number
  /** How well the frames lie over this one, 0 to 1. */
  readonly registrationSure: number
  readonly frames: number
  /** Where what was undone of a mark was weighed with it: what each probably errs by; null for all else. */
  readonly weighed: WeighedMeasure | null
}

/** Deviations of what was undone, of what other frames show, and of both weighed with each other, in the plate's scale. */
export interface WeighedMeasure {
  readonly undone: number
  readonly others: number
  readonly weighed: number
  /** Share of the mark by which the result still differs from other frames, and how many of its own deviations that is. */
  readonly ghost: number
  readonly ghostSure: number
}
