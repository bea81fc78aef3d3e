/** What of a mend is the same on every frame: its fill with its parameters read, its finish, how far it looks. */
import { isCurveKeys, levelledAt } from '../curveKeys'
import { isStepKeys, settledAt } from '../stepKeys'
import type { StrokeArea } from '../document/areas'
import type { Finish, Mend } from '../document/mend'
import type { Span } from '../document/span'
import type { Stroke } from '../document/stroke'
import type { FillSettings } from '../document/fillSettings'
import type { FillMethod, FramesWanted } from '../fill/method'
import { findFill } from '../fill/registry'
import { outerPxOf } from '../matte/edge'
import type { Frame, FrameRange } from '../time'

export interface PlannedMend {
  /** Also the seed of its grain. */
  readonly id: string
  readonly fill: FillSettings
  /** Null where this program has no such fill. */
  readonly method: FillMethod | null
  /** As they hold on all frames: settings that change from frame to frame are still keyed. */
  readonly params: Record<string, unknown>
  readonly isKeyed: boolean
  /** Where the fill looks for the thing outside its area, the area is as large as that. */
  readonly finish: Finish
  /** From the drawn edge to where coverage ends, px. */
  readonly outerPx: number
  readonly source: Mend['source']
  readonly span: Mend['span']
  /** Of a stroke, its own frames within the span; null for all else. */
  readonly strokeSpan: Span | null
  readonly usesSource: boolean
}

const kept = new WeakMap<Mend, PlannedMend>()

export function plannedMend(mend: Mend): PlannedMend {
  let planned = kept.get(mend)
  if (!planned) kept.set(mend, (planned = workOut(mend)))
  return planned
}

function workOut(mend: Mend): PlannedMend {
  const method = findFill(mend.fill.methodId) ?? null
  const params = method ? method.params.parse(mend.fill.params) : {}
  const widensPx = method?.widensPx?.(params) ?? 0
  const finish = widensPx > 0 ? { ...mend.finish, growPx: mend.finish.growPx + widensPx } : mend.finish
  return {
    id: mend.id,
    fill: mend.fill,
    method,
    params,
    isKeyed: Object.values(params).some((value) => isStepKeys(value) || isCurveKeys(value)),
    finish,
    outerPx: outerPxOf(finish),
    source: mend.source,
    span: mend.span,
    strokeSpan: null,
    usesSource: mend.source !== null && method?.needsSource?.(params) === true,
  }
}

const strokeTexts = new WeakMap<Stroke, string>()

/** What of a stroke decides its fill, apart from where it lies and when it is there. */
function strokeText(area: StrokeArea): string {
  let text = strokeTexts.get(area.stroke)
  if (text === undefined) {
    const { fill, source, softness, strength, span } = area.stroke
    text = JSON.stringify([fill, source, softness, strength, span])
    strokeTexts.set(area.stroke, text)
  }
  return `${text} ${tipPx(area)}`
}

/** The width of a stroke where it is widest, px. */
const tipPx = ({ keys }: StrokeArea): number =>
  keys[0]!.points.reduce((max, { widthPx }) => Math.max(max, widthPx), 0)

const keptStrokes = new WeakMap<Mend, Map<string, PlannedMend>>()

/** A stroke is planned as a mend of its own, with the finish of the brush; strokes with the same settings are the same one. */
export function plannedStroke(mend: Mend, area: StrokeArea): PlannedMend {
  let known = keptStrokes.get(mend)
  if (!known) keptStrokes.set(mend, (known = new Map<string, PlannedMend>()))
  const text = strokeText(area)
  let planned = known.get(text)
  if (!planned) {
    const { fill, source, softness, strength, span } = area.stroke
    const finish = {
      ...mend.finish,
      growPx: 0,
      featherOutPx: 0,
      featherInPx: (softness * tipPx(area)) / 2,
      strength: mend.finish.strength * strength,
    }
    planned = { ...workOut({ ...mend, fill, source, finish }), strokeSpan: span }
    known.set(text, planned)
  }
  return planned
}

/** The frames that a mend gathers from on a frame; undefined where it gathers from none. */
export const framesGathered = (
  mend: PlannedMend,
  frame: Frame,
  plate: FrameRange,
): FramesWanted | undefined => mend.method?.steady?.gathers?.(paramsAt(mend, frame), frame, plate)

/** The parameters as they hold on a frame: what a setting says on other frames has no part in this one. */
export function paramsAt({ params, isKeyed }: PlannedMend, frame: Frame): Record<string, unknown> {
  if (!isKeyed) return params
  return Object.fromEntries(
    Object.entries(params).map(([name, value]) => [
      name,
      isStepKeys(value) ? settledAt(value, frame) : isCurveKeys(value) ? levelledAt(value, frame) : value,
    ]),
  )
}
