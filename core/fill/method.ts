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
import type { Raster } from '../image/raster'
import type { Rect, Size } from '../image/rect'
import type { EdgeField } from '../matte/edge'
import type { PathField } from '../matte/pathField'

export interface FillInput {
  /** The plate with earlier mends applied, cropped to `rect`. Only read. */
  readonly picture: Raster
  /** Where the crop lies in the full picture. */
  readonly rect: Rect
  /** Size of the full picture: nothing beyond it was ever seen. */
  readonly pictureSize: Size
  /** The area's pixels and how each is covered; entries with coverage 0 need no fill. */
  readonly field: EdgeField
  readonly coverage: Float32Array
  /** Of a path area its centreline on this frame, in px of the full picture, and where pixels lie along it. */
  readonly path: { readonly curve: PathCurve; readonly field: PathField } | null
  /** From the area's drawn edge to the rim, where the plate begins to be trusted, in px. */
  readonly rimPx: number
  /** From the drawn edge to where coverage ends, in px. */
  readonly outerPx: number
}

export type FillResult =
  | {
      readonly ok: true
      /** The fill for each entry of the field, channels interleaved; 0 where nothing is covered. */
      readonly values: Float32Array
      /** For each entry of the field: how much of the grain's variance its fill still carries, 0 to 1. */
      readonly grainKept: Float32Array
    }
  | { readonly ok: false; readonly reason: 'stopped' | 'nothing-known'; readonly detail: string }

export interface RunContext {
  /** True once the result is no longer wanted. */
  shouldStop(): boolean
}

export interface FillMethod<S extends z.ZodObject = z.ZodObject> {
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
  /** Whether it works along a path only. */
  readonly needsPath: boolean
  /** How far it reads around the covered pixels, in px. `halfPx` is the most that a
   * covered pixel is away from the centreline; 0 for closed areas. */
  reach(params: z.output<S>, halfPx: number): { readonly marginPx: number }
  run(input: FillInput, params: z.output<S>, context: RunContext): FillResult
}

/** Declares a fill; keeps the types of its parameters together. */
export const defineFill = <S extends z.ZodObject>(method: FillMethod<S>): FillMethod<S> => method
