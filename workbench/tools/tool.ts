/**
 * What the pointer does in the picture: one small state machine.
 *
 * A tool is a value; `advanceTool` takes an event and gives the next tool and what has been drawn.
 * Escape leads back to idle from anywhere.
 */
import { isSeries } from '../../core/document/kinds'
import type { Recipe } from '../../core/document/recipes'
import type { MendKind } from '../../core/document/mend'
import type { Area } from '../../core/document/areas'
import type { BrushPoint } from '../../core/document/brush'
import type { TrackKind } from '../../core/document/tracks'
import type { Place } from '../../core/geometry/transform'

export type { Place }

/** What is drawn: a shape of an area, or one or two single points for a track. */
export type DrawnShape = 'path' | 'ellipse' | 'box' | 'outline' | 'point' | 'pair'

/** What the drawing is for. */
export type Purpose =
  | { readonly for: 'mend'; readonly kind: MendKind; readonly recipe?: Recipe }
  | { readonly for: 'area'; readonly mendId: string; readonly role: Area['role'] }
  | {
      readonly for: 'track'
      readonly kind: Exclude<TrackKind, 'cling' | 'thing' | 'surface' | 'face'>
      readonly mendId: string
      readonly areaId: string
    }
  /** A tone that is added to the skin of a mend or taken away from it. */
  | { readonly for: 'tone'; readonly mendId: string; readonly use: 'added' | 'taken' }
  /** Points of a many-point track inside the outline are deleted. */
  | { readonly for: 'lasso'; readonly trackId: string }

export interface DrawTool {
  readonly kind: 'draw'
  readonly shape: DrawnShape
  readonly purpose: Purpose
  readonly places: readonly Place[]
  /** Something of a series has been drawn with it. */
  readonly hasDrawn?: boolean
  /** Where the pointer is. */
  readonly at: Place | null
}

/** The brush in the hand. */
export interface BrushTool {
  readonly kind: 'brush'
  /** Of the stroke that is being painted. */
  readonly points: readonly BrushPoint[]
  /** A tablet's other end: it paints the plate. */
  readonly isErasing: boolean
  /** The next click says where a clone is taken from. */
  readonly isPicking: boolean
  /** Where the next stroke begins to take from. */
  readonly pickedAt: Place | null
  /** The middle of the tip whose rim is being dragged; null while none is. */
  readonly sizedAt: Place | null
  /** Where the last stroke ended: straight lines begin there. */
  readonly endedAt: BrushPoint | null
  readonly at: Place | null
}

export type Tool = { readonly kind: 'idle' } | DrawTool | BrushTool

/** What a pen says beside its place. */
export interface PenState {
  /** 0 to 1; a mouse presses with 1. */
  readonly pressure?: number
  /** How far it leans: 0 upright, 1 flat. */
  readonly lean?: number
  readonly isEraser?: boolean
  /** A straight line from where the last stroke ended. */
  readonly isStraight?: boolean
  /** Sets the tip instead of painting: its rim, or where it begins to fade. */
  readonly sets?: TipPart
}

/** What of a tip is dragged in the picture. */
export type TipPart = 'rim' | 'softness'

export type ToolEvent =
  | ({ readonly kind: 'move'; readonly at: Place } & PenState)
  /** The button went down; `pxPerScreenPx` says how long a slip of the hand is here. */
  | ({ readonly kind: 'press'; readonly at: Place; readonly pxPerScreenPx: number } & PenState)
  | { readonly kind: 'release'; readonly at: Place; readonly pxPerScreenPx: number }
  /** The pointer is no longer over the picture. */
  | { readonly kind: 'leave' }
  | { readonly kind: 'finish' }
  | { readonly kind: 'escape' }

export interface ToolStep {
  readonly tool: Tool
  /** The tip as its rim, or where it begins to fade, was dragged so far from its middle. */
  readonly tip?: { readonly part: TipPart; readonly radiusPx: number }
  /** A stroke that is complete. */
  readonly painted?: {
    readonly points: readonly BrushPoint[]
    readonly isErasing: boolean
    readonly pickedAt: Place | null
  }
  /** Places of a drawing that is complete. */
  readonly drawn?: {
    readonly shape: DrawnShape
    readonly purpose: Purpose
    readonly places: readonly Place[]
  }
}

export const idleTool: Tool = { kind: 'idle' }
export const brushTool: BrushTool = {
  kind: 'brush',
  points: [],
  isErasing: false,
  isPicking: false,
  pickedAt: null,
  sizedAt: null,
  endedAt: null,
  at: null,
}
export const drawTool = (shape: DrawnShape, purpose: Purpose): DrawTool => ({
  kind: 'draw',
  shape,
  purpose,
  places: [],
  at: null,
})

/** Shapes drawn in one stroke from one place to another; dragging draws instead of moving the picture. */
export const isDragged = (shape: DrawnShape): boolean => shape === 'ellipse' || shape === 'box'

const SLIP_SCREEN_PX = 6
const MAX_PLACES = 64

export function advanceTool(tool: Tool, event: ToolEvent): ToolStep {
  if (tool.kind === 'brush') return advanceBrush(tool, event)
  if (tool.kind === 'idle' || event.kind === 'escape') return { tool: idleTool }
  const { places, shape } = tool
  switch (event.kind) {
    case 'move':
      return { tool: { ...tool, at: event.at } }
    case 'leave':
      return { tool }
    case 'finish':
      return places.length >= fewest(shape) ? complete(tool, places) : { tool }
    case 'press':
      if (isDragged(shape) && places.length === 0)
        return { tool: { ...tool, places: [event.at], at: event.at } }
      return { tool }
    case 'release':
      return isDragged(shape)
        ? endStroke(tool, event.at, event.pxPerScreenPx)
        : addPlace(tool, event.at, event.pxPerScreenPx)
  }
}

/** Nearer than this to the last one a point says nothing new. */
const MIN_STEP_PX = 0.5

function advanceBrush(tool: BrushTool, event: ToolEvent): ToolStep {
  const { points, endedAt } = tool
  switch (event.kind) {
    case 'finish':
      return { tool }
    case 'leave':
      return { tool: { ...tool, at: null } }
    case 'escape':
      return {
        tool:
          points.length > 0 || tool.isPicking || tool.sizedAt
            ? { ...tool, points: [], isPicking: false, sizedAt: null }
            : idleTool,
      }
    case 'press': {
      if (tool.isPicking) return { tool: { ...tool, isPicking: false, pickedAt: event.at } }
      if (event.sets) return { tool: { ...tool, sizedAt: event.at, at: event.at } }
      const point = pointOf(event)
      const begun = event.isStraight && endedAt ? [endedAt, point] : [point]
      return { tool: { ...tool, points: begun, isErasing: event.isEraser === true, at: event.at } }
    }
    case 'move': {
      if (tool.sizedAt) {
        const radiusPx = Math.hypot(event.at.x - tool.sizedAt.x, event.at.y - tool.sizedAt.y)
        return { tool, tip: { part: event.sets ?? 'rim', radiusPx } }
      }
      const last = points.at(-1)
      if (!last || Math.hypot(last.x - event.at.x, last.y - event.at.y) < MIN_STEP_PX)
        return { tool: { ...tool, at: event.at } }
      return { tool: { ...tool, points: [...points, pointOf(event)], at: event.at } }
    }
    case 'release': {
      if (tool.sizedAt) return { tool: { ...tool, sizedAt: null } }
      if (points.length === 0) return { tool }
      const { isErasing, pickedAt } = tool
      return {
        tool: { ...tool, points: [], pickedAt: null, endedAt: points.at(-1)!, at: event.at },
        painted: { points, isErasing, pickedAt },
      }
    }
  }
}

const pointOf = ({ at, pressure = 1, lean = 0 }: { readonly at: Place } & PenState): BrushPoint => ({
  ...at,
  pressure,
  lean,
})

function endStroke(tool: DrawTool, at: Place, pxPerScreenPx: number): ToolStep {
  const [from] = tool.places
  if (!from) return { tool }
  const isClick = isSlip(from, at, pxPerScreenPx)
  if (!isClick) return complete(tool, [from, at])
  // A click makes an ellipse or a bad pixel of a usual size; any other box waits for its other corner.
  return tool.shape === 'ellipse' || isOneOfMany(tool) ? complete(tool, [from]) : { tool: { ...tool, at } }
}

function addPlace(tool: DrawTool, at: Place, pxPerScreenPx: number): ToolStep {
  const { places, shape } = tool
  const last = places.at(-1)
  const isAgain = last !== undefined && isSlip(last, at, pxPerScreenPx)
  const isClosed = shape === 'outline' && places.length >= 3 && isSlip(places[0]!, at, pxPerScreenPx)
  if ((isAgain || isClosed) && places.length >= fewest(shape)) return complete(tool, places)
  if (isAgain) return { tool }
  const next = [...places, at]
  return next.length >= most(shape) ? complete(tool, next) : { tool: { ...tool, places: next, at } }
}

const isSlip = (a: Place, b: Place, pxPerScreenPx: number): boolean =>
  Math.hypot(a.x - b.x, a.y - b.y) < SLIP_SCREEN_PX * pxPerScreenPx

const fewest = (shape: DrawnShape): number =>
  ({ path: 2, ellipse: 1, box: 2, outline: 3, point: 1, pair: 2 })[shape]
const most = (shape: DrawnShape): number =>
  ({ path: MAX_PLACES, ellipse: 2, box: 2, outline: MAX_PLACES, point: 1, pair: 2 })[shape]

function complete(tool: DrawTool, places: readonly Place[]): ToolStep {
  return {
    tool: isOneOfMany(tool) ? { ...tool, places: [], at: null, hasDrawn: true } : idleTool,
    drawn: { shape: tool.shape, purpose: tool.purpose, places },
  }
}

const isOneOfMany = ({ purpose }: DrawTool): boolean => purpose.for === 'mend' && isSeries(purpose.kind)

/** What to do next, in words. */
export function hintOf(tool: Tool): string | null {
  if (tool.kind === 'idle') return null
  if (tool.kind === 'brush')
    return tool.isPicking
      ? 'Click where the next stroke is to take from. Esc stops.'
      : 'Drag to paint, Shift for a straight line from the last stroke. Ctrl drags the rim of the tip, with Shift its soft edge. Esc puts the brush down.'
  const { shape, places, purpose } = tool
  switch (shape) {
    case 'path':
      if (places.length === 0) return 'Click one end of it; ends may lie outside the picture. Esc stops.'
      return places.length === 1
        ? 'Click along it, and its other end.'
        : 'Click on. Enter, or the last point again, ends it.'
    case 'ellipse':
      if (purpose.for === 'tone')
        return purpose.use === 'added'
          ? 'Click skin that is missing in the matte, or drag over it. Esc stops.'
          : 'Click what is no skin, or drag over it. Esc stops.'
      return purpose.for === 'mend' && purpose.kind === 'dust'
        ? 'Click each mote; drag for its size. Esc when all are marked.'
        : 'Drag from the middle to the rim. Esc stops.'
    case 'box':
      if (isOneOfMany(tool)) return 'Click each bad pixel; drag round larger ones. Esc when all are marked.'
      return places.length === 0 ? 'Drag from corner to corner. Esc stops.' : 'Click the corner across.'
    case 'outline':
      if (purpose.for === 'lasso') return 'Click round the bad points. Enter deletes them, Esc stops.'
      return places.length < 3
        ? 'Click round it. Esc stops.'
        : 'Click on. Enter, or the first point, closes it.'
    case 'point':
      return 'Click a spot with contrast. Esc stops.'
    case 'pair':
      return places.length === 0
        ? 'Click the first of two spots with contrast. Esc stops.'
        : 'Click the second spot, well away from the first.'
  }
}
