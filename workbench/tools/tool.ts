/**
 * What the pointer does in the picture: one small state machine.
 *
 * A tool is a value; `advanceTool` takes an event and gives the next tool and what it asks for.
 * Escape leads back to idle from anywhere.
 */
import type { PathPoint } from '../../core/geometry/pathCurve'

export type Tool =
  | { readonly kind: 'idle' }
  /** Drawing a wire: the first end is placed, or not yet. */
  | { readonly kind: 'drawWire'; readonly from: Place | null; readonly at: Place | null }

export interface Place {
  readonly x: number
  readonly y: number
}

export type ToolEvent = { readonly kind: 'move'; readonly at: Place } | { readonly kind: 'click'; readonly at: Place } | { readonly kind: 'escape' }

export interface ToolStep {
  readonly tool: Tool
  /** A wire that has been drawn, ready to become a mend. */
  readonly drawn?: readonly PathPoint[]
}

export const idleTool: Tool = { kind: 'idle' }
export const drawWireTool: Tool = { kind: 'drawWire', from: null, at: null }

/** Two ends closer than this are one click too many, not a wire. */
const SHORTEST_WIRE_PX = 3
/** Common practice: a thin line at HD is about 10 px wide. */
export const FIRST_WIDTH_PX = 10

export function advanceTool(tool: Tool, event: ToolEvent): ToolStep {
  if (tool.kind === 'idle' || event.kind === 'escape') return { tool: idleTool }
  const { from } = tool
  if (event.kind === 'move') return { tool: { ...tool, at: event.at } }
  if (!from) return { tool: { kind: 'drawWire', from: event.at, at: event.at } }
  const isTooShort = (event.at.x - from.x) ** 2 + (event.at.y - from.y) ** 2 < SHORTEST_WIRE_PX ** 2
  if (isTooShort) return { tool }
  return { tool: idleTool, drawn: [from, event.at].map(({ x, y }) => ({ x, y, widthPx: FIRST_WIDTH_PX })) }
}

/** What to do next, in words. */
export function hintOf(tool: Tool): string | null {
  if (tool.kind === 'idle') return null
  return tool.from ? 'Click the other end of the wire. Esc stops.' : 'Click one end of the wire; ends may lie outside the picture. Esc stops.'
}
