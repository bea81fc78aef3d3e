/** The brush: what its next stroke is like, and the stroke that it makes. */
import { z } from 'zod'
import { borrow } from '../fill/borrow/borrow'
import { cleanPlate } from '../fill/cleanPlate/cleanPlate'
import { clone } from '../fill/clone/clone'
import { colour } from '../fill/colour/colour'
import { heal } from '../fill/heal/heal'
import { light } from '../fill/light/light'
import type { FillMethod } from '../fill/method'
import { plate } from '../fill/plate/plate'
import { regrain } from '../fill/regrain/regrain'
import { soften } from '../fill/soften/soften'
import { bendsOf } from '../geometry/bends'
import { dabAt } from '../geometry/pathCurve'
import { labelled } from '../parameter'
import type { Frame, FrameRange } from '../time'
import { WIDTH_PX, type PathKey, type StrokeArea } from './areas'
import type { Follow } from './basics'
import { withOnlyGeometry } from './keys'
import { ridingSource } from './sourceCommands'
import { NO_SHIFT, restingSource } from './sourceKeys'
import type { Span } from './span'
import { tipSchema, type Stroke } from './stroke'
import type { Tracks } from './tracks'

/** What a stroke lays down, and the settings of the brush that belong to it. */
export const LAYS = {
  behind: { title: 'Behind', fill: cleanPlate, names: ['past'] },
  clone: { title: 'Clone', fill: clone, names: ['offsetX', 'offsetY', 'turnDeg', 'scale'] },
  heal: { title: 'Heal', fill: heal, names: ['offsetX', 'offsetY', 'turnDeg', 'scale'] },
  borrow: { title: 'Other frame', fill: borrow, names: ['away'] },
  plate: { title: 'Plate', fill: plate, names: [] },
  soften: { title: 'Soften', fill: soften, names: ['radiusPx'] },
  light: { title: 'Light', fill: light, names: ['stops'] },
  colour: { title: 'Colour', fill: colour, names: ['red', 'green', 'blue'] },
  regrain: { title: 'Grain', fill: regrain, names: [] },
} as const satisfies Readonly<
  Record<
    string,
    { readonly title: string; readonly fill: unknown; readonly names: readonly (keyof BrushSettings)[] }
  >
>
export type Lays = keyof typeof LAYS

const offset = (title: string, help: string) =>
  labelled(z.number().min(-10_000).max(10_000).default(0), { title, help, unit: 'px', step: 1 })
const channel = (title: string) =>
  labelled(z.number().min(0).max(1).default(0.5), {
    title,
    help: 'Of the plain colour, in the plate’s own encoding.',
    unit: '',
    step: 0.01,
  })

/** The next stroke. */
export const brushSchema = z.strictObject({
  lays: labelled(
    z
      .enum(['behind', 'clone', 'heal', 'borrow', 'plate', 'soften', 'light', 'colour', 'regrain'])
      .default('behind'),
    {
      title: 'Lays down',
      help: 'Behind: what other frames saw there. Plate: brings the plate back. The others as the fills of the same name.',
      unit: '',
      choices: {
        behind: 'Behind',
        clone: 'Clone',
        heal: 'Heal',
        borrow: 'Other frame',
        plate: 'Plate',
        soften: 'Soften',
        light: 'Light',
        colour: 'Colour',
        regrain: 'Grain',
      },
    },
  ),
  sizePx: labelled(z.number().min(1).max(WIDTH_PX.max).default(40), {
    title: 'Size',
    help: 'Width of the tip under full pressure.',
    unit: 'px',
    step: 1,
  }),
  softness: tipSchema.shape.softness,
  strength: tipSchema.shape.strength,
  spacing: tipSchema.shape.spacing,
  leanWidth: labelled(z.number().min(1).max(8).default(1), {
    title: 'Leaned',
    help: 'A pen that lies flat has a tip so many times as wide; upright it is as wide as set.',
    unit: '×',
    step: 0.1,
  }),
  steadyPx: labelled(z.number().min(0).max(200).default(0), {
    title: 'Steady',
    help: 'The tip is pulled along on a string as long as this: a hand that shakes draws a calm line.',
    unit: 'px',
    step: 1,
  }),
  lives: labelled(z.enum(['frame', 'some', 'onwards', 'before', 'span']).default('frame'), {
    title: 'Lives',
    help: 'On which frames a stroke is there. Some: for a number of frames from this one on.',
    unit: '',
    choices: { frame: 'Here', some: 'Some', onwards: 'Onwards', before: 'To here', span: 'All' },
  }),
  lastsFrames: labelled(z.int().min(1).max(10_000).default(5), {
    title: 'Lasts',
    help: 'So many frames, this one counted, up to the end of the shot.',
    unit: 'frames',
    step: 1,
    shownWhen: { parameter: 'lives', is: 'some' },
  }),
  rampFrames: labelled(z.int().min(0).max(1000).default(0), {
    title: 'Ramp',
    help: 'Over so many frames it comes and goes.',
    unit: 'frames',
    step: 1,
  }),
  ridesOn: labelled(z.enum(['nothing', 'scene', 'track']).default('nothing'), {
    title: 'Rides on',
    help: 'The picture; the background, wherever the camera goes; or the selected track.',
    unit: '',
    choices: { nothing: 'Nothing', scene: 'Scene', track: 'Track' },
  }),
  then: labelled(z.enum(['stay', 'next']).default('stay'), {
    title: 'Then',
    help: 'After a stroke: stay, or go to the next frame, for dirt that lives one frame.',
    unit: '',
    choices: { stay: 'Stay', next: 'Next frame' },
  }),
  past: labelled(z.enum(['front', 'mends']).default('front'), {
    title: 'Looks past',
    help: 'What is seen here, wherever it goes; or only what mends cover on other frames.',
    unit: '',
    choices: { front: 'What is here', mends: 'Mends' },
  }),
  offsetX: offset('From right', 'So far to the right of the stroke its pixels are taken from.'),
  offsetY: offset('From below', 'So far below the stroke its pixels are taken from.'),
  turnDeg: labelled(z.number().min(-180).max(180).default(0), {
    title: 'Turn',
    help: 'The source is turned against the stroke.',
    unit: '°',
    step: 1,
  }),
  scale: labelled(z.number().min(0.1).max(10).default(1), {
    title: 'Scale',
    help: 'Size of the source against the stroke.',
    unit: '×',
    step: 0.01,
  }),
  away: labelled(z.int().min(-240).max(240).default(-5), {
    title: 'Away',
    help: 'From so many frames later; below 0, earlier.',
    unit: 'frames',
    step: 1,
  }),
  radiusPx: labelled(z.number().min(0).max(64).default(8), {
    title: 'Radius',
    help: 'How far the picture is spread.',
    unit: 'px',
    step: 0.5,
  }),
  stops: labelled(z.number().min(-4).max(4).default(0.25), {
    title: 'Light',
    help: 'Brightens by so many stops; below 0 it darkens.',
    unit: 'stops',
    step: 0.05,
  }),
  red: channel('Red'),
  green: channel('Green'),
  blue: channel('Blue'),
})
export type BrushSettings = z.output<typeof brushSchema>

export const DEFAULT_BRUSH: BrushSettings = brushSchema.parse({})

/** Settings that every stroke has. */
export const TIP_SETTINGS = ['sizePx', 'softness', 'strength', 'spacing'] as const
/** Settings of the hand, that no stroke keeps. */
export const HAND_SETTINGS = ['leanWidth', 'steadyPx'] as const
export const LIFE_SETTINGS = ['lives', 'lastsFrames', 'rampFrames', 'ridesOn', 'then'] as const

/** A place that the pointer has been at. */
export interface BrushPoint {
  readonly x: number
  readonly y: number
  /** 0 to 1. */
  readonly pressure: number
  /** How far the pen leans: 0 upright, 1 flat on the tablet. */
  readonly lean?: number
}

/** A path holds so many points. */
const MAX_POINTS = 64
/** Pressed as lightly as can be the tip still has this share of its size. */
const MIN_TIP = 0.1

/** What the tip has drawn that was pulled along on a string, and where it was let go. Source: common practice. */
export function steadied(points: readonly BrushPoint[], stringPx: number): readonly BrushPoint[] {
  const [first, last] = [points[0], points.at(-1)]
  if (stringPx === 0 || points.length < 3 || !first || !last) return points
  const out = [first]
  let tip = first
  for (const point of points) {
    const [dx, dy] = [point.x - tip.x, point.y - tip.y]
    const away = Math.sqrt(dx * dx + dy * dy)
    if (away <= stringPx) continue
    const share = 1 - stringPx / away
    tip = { ...point, x: tip.x + share * dx, y: tip.y + share * dy }
    out.push(tip)
  }
  return [...out, last]
}

/** A stroke along what the pointer has drawn, resting where it was drawn. @param points  At least one. */
export function strokeArea(
  id: string,
  points: readonly BrushPoint[],
  settings: BrushSettings,
  frame: Frame,
  span: FrameRange,
): StrokeArea {
  return {
    id,
    shape: 'path',
    role: 'cover',
    interpolation: 'smooth',
    follow: null,
    keys: [{ frame, points: pathOf(steadied(points, settings.steadyPx), settings) }],
    stroke: strokeOf(settings, frame, span),
  }
}

/** How wide the tip is at a point of a stroke, px. */
export function tipWidthPx(
  { pressure, lean = 0 }: Pick<BrushPoint, 'pressure' | 'lean'>,
  { sizePx, leanWidth }: Pick<BrushSettings, 'sizePx' | 'leanWidth'>,
): number {
  const widthPx = sizePx * Math.max(MIN_TIP, pressure) * (1 + (leanWidth - 1) * lean)
  return Math.min(WIDTH_PX.max, Math.max(WIDTH_PX.min, widthPx))
}

function pathOf(points: readonly BrushPoint[], settings: BrushSettings): PathKey['points'] {
  const { sizePx } = settings
  const wide = points.map((point) => ({ x: point.x, y: point.y, widthPx: tipWidthPx(point, settings) }))
  const [first] = wide
  if (wide.length === 1) return dabAt(first!)
  let tolerance = Math.max(0.25, 0.01 * sizePx)
  let kept = bendsOf(wide, tolerance, offLine)
  while (kept.length > MAX_POINTS) kept = bendsOf(wide, (tolerance *= 1.5), offLine)
  const [a, b] = [kept[0]!, kept.at(-1)!]
  // A stroke that ends where it began has a length all the same.
  return kept.length === 2 && a.x === b.x && a.y === b.y ? dabAt(a) : kept
}

type WidePoint = PathKey['points'][number]

/** In place and in width. */
function offLine(point: WidePoint, a: WidePoint, b: WidePoint): number {
  const [dx, dy, dw] = [b.x - a.x, b.y - a.y, b.widthPx - a.widthPx]
  const [px, py, pw] = [point.x - a.x, point.y - a.y, point.widthPx - a.widthPx]
  const length = dx * dx + dy * dy + dw * dw
  const share = length > 0 ? Math.min(1, Math.max(0, (px * dx + py * dy + pw * dw) / length)) : 0
  const [ox, oy, ow] = [px - share * dx, py - share * dy, pw - share * dw]
  return Math.sqrt(ox * ox + oy * oy + ow * ow)
}

/** What a stroke of these settings lays down, begun on a frame. @param span  All frames of its mend. */
export function strokeOf(settings: BrushSettings, frame: Frame, span: FrameRange): Stroke {
  const { lays, softness, strength, spacing } = settings
  const method: FillMethod = LAYS[lays].fill
  const names: readonly (keyof BrushSettings)[] = LAYS[lays].names
  const own: Record<string, unknown> = Object.fromEntries(
    names.filter((name) => name in method.params.shape).map((name) => [name, settings[name]]),
  )
  if (lays === 'behind' || lays === 'borrow') own['unseen'] = 'near'
  if (lays === 'borrow') own['away'] = [{ frame: 0, value: settings.away }]
  const params = method.params.parse(own)
  const shift = {
    ...NO_SHIFT,
    dx: settings.offsetX,
    dy: settings.offsetY,
    turnDeg: settings.turnDeg,
    scale: settings.scale,
  }
  return {
    fill: { methodId: method.id, methodVersion: method.version, params },
    source: method.needsSource?.(params) ? restingSource(span, shift) : null,
    softness,
    strength,
    spacing,
    span: lifeOf(settings, frame, span),
    isHidden: false,
  }
}

/** The frames on which a stroke of these settings is there, begun on a frame. */
export function lifeOf(
  { lives, lastsFrames, rampFrames }: Pick<BrushSettings, 'lives' | 'lastsFrames' | 'rampFrames'>,
  frame: Frame,
  { firstFrame, lastFrame }: FrameRange,
): Span {
  const first = lives === 'before' || lives === 'span' ? firstFrame : frame
  const lastBy = { frame, some: Math.min(lastFrame, frame + lastsFrames - 1), before: frame, onwards: lastFrame, span: lastFrame } // prettier-ignore
  const last = lastBy[lives]
  return {
    firstFrame: first,
    lastFrame: last,
    rampInFrames: first > firstFrame ? rampFrames : 0,
    rampOutFrames: last < lastFrame ? rampFrames : 0,
  }
}

/** What a stroke lays down, by its fill. */
export const laysOf = ({ fill }: Stroke): Lays =>
  (Object.keys(LAYS) as Lays[]).find((one) => LAYS[one].fill.id === fill.methodId) ?? 'behind'

/** A stroke that rides on a track lies on a frame as it was drawn there, its source too. */
export function ridingStroke(drawn: StrokeArea, tracks: Tracks, frame: Frame, follow: Follow): StrokeArea {
  const geometry = { shape: 'path', points: drawn.keys[0]!.points } as const
  const area = withOnlyGeometry({ ...drawn, follow }, tracks, frame, geometry) as StrokeArea
  const { source } = drawn.stroke
  const { frame: _frame, ...seen } = source?.keys[0] ?? { frame, ...NO_SHIFT }
  return {
    ...area,
    stroke: { ...drawn.stroke, source: source && ridingSource(source, seen, area, tracks, follow, frame) },
  }
}
