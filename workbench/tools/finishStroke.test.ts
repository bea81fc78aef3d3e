import { sampleRecord } from '../../tests/fixtures/sampleMend'
import type { StrokeArea } from '../../core/document/areas'
import { DEFAULT_BRUSH, strokeArea, type BrushPoint } from '../../core/document/brush'
import { translationBy } from '../../core/geometry/transform'
import { placeArea } from '../../core/plan/placedArea'
import { SCENE_FORMAT, type Scene } from '../../core/scene/scene'
import { finishStroke } from './finishStroke'
import { strokeSoFar, withWetStroke } from './wetStroke'
import { advanceTool, brushTool, type Tool, type ToolEvent, type ToolStep } from './tool'

const plate = {
  id: 'p',
  width: 200,
  height: 100,
  channels: 3,
  bitDepth: 8 as const,
  frameRate: { num: 24, den: 1 },
  firstFrame: 1,
  lastFrame: 20,
}
const moved = (i: number) => ({ x: -3.3 * i, y: 0.7 * i })
const scene: Scene = {
  format: SCENE_FORMAT,
  version: 1,
  plate: { width: 200, height: 100, firstFrame: 1, frameCount: 20 },
  layers: [
    {
      motions: Array.from({ length: 20 }, (_, i) => translationBy(moved(i).x, moved(i).y) as never),
      sure: new Array<number>(20).fill(1),
      points: 100,
      hiddenBy: [],
    },
  ],
  exposureStops: new Array<number>(20).fill(0),
  cells: null,
}
const state = (over: object = {}) => ({
  plate,
  frame: 7,
  records: new Map(),
  tracks: new Map(),
  selectedId: null,
  trackId: null,
  brush: DEFAULT_BRUSH,
  ...over,
})
const document = { mends: [], tracks: new Map(), plate, scene }
const points: BrushPoint[] = [
  { x: 80, y: 40, pressure: 1 },
  { x: 120, y: 50, pressure: 0.5 },
]
const painted = { points, isErasing: false, pickedAt: null }
const strokeIn = ({ edit }: ReturnType<typeof finishStroke>) =>
  edit.changes[0]!.after!.areas.at(-1) as StrokeArea

test('the first stroke begins a brush, the next one joins it where it is selected', () => {
  const first = finishStroke(state(), painted, document)
  expect(first.edit.changes).toMatchObject([{ before: null, after: { kind: 'brush', name: 'Brush 1' } }])
  const brush = sampleRecord({
    id: 'b',
    kind: 'brush',
    name: 'Brush 1',
    areas: [strokeArea('a', points, DEFAULT_BRUSH, 7, { firstFrame: 1, lastFrame: 20 })],
  })
  const records = new Map([['b', brush]])
  const joined = finishStroke(state({ records, selectedId: 'b' }), painted, document)
  expect(joined).toMatchObject({ mendId: 'b', edit: { label: 'Stroke of Brush 1' } })
  expect(joined.edit.changes[0]!.after!.areas).toHaveLength(2)
  expect(finishStroke(state({ records }), painted, document).mendId).not.toBe('b')
})

test('a stroke that rides on the scene stays where it was painted, within a fifth of a pixel, all over the shot', () => {
  const brush = { ...DEFAULT_BRUSH, ridesOn: 'scene', lives: 'span' } as const
  const made = finishStroke(state({ brush }), painted, document)
  const track = made.edit.tracks[0]!.after!
  const tracks = new Map([[track.id, track]])
  for (let frame = 1; frame <= 20; frame++) {
    const { shape } = placeArea(strokeIn(made), tracks, frame)
    if (shape.shape !== 'path') throw new Error('a stroke is a path')
    const [gone, here] = [moved(frame - 1), moved(6)]
    for (const [i, point] of points.entries()) {
      expect(Math.abs(shape.points[i]!.x - point.x - gone.x + here.x)).toBeLessThan(0.2)
      expect(Math.abs(shape.points[i]!.y - point.y - gone.y + here.y)).toBeLessThan(0.2)
    }
  }
  // The next one rides on the same track.
  const records = new Map([[made.mendId, made.edit.changes[0]!.after!]])
  const next = finishStroke(state({ brush, records, tracks, selectedId: made.mendId }), painted, document)
  expect(next.edit.tracks).toEqual([])
  expect(strokeIn(next).follow).toEqual(strokeIn(made).follow)
})

test('without a known scene a stroke rests; the pen’s other end paints the plate; a picked source is an offset', () => {
  const brush = { ...DEFAULT_BRUSH, lays: 'clone', ridesOn: 'scene' } as const
  const unknown = { ...document, scene: null }
  expect(strokeIn(finishStroke(state({ brush }), painted, unknown)).follow).toBeNull()
  const erased = finishStroke(state({ brush }), { ...painted, isErasing: true }, unknown)
  expect(strokeIn(erased).stroke.fill.methodId).toBe('plate')
  const picked = finishStroke(state({ brush }), { ...painted, pickedAt: { x: 20, y: 90 } }, unknown)
  expect(strokeIn(picked).stroke.source!.keys[0]).toMatchObject({ dx: -60, dy: 50 })
  expect(picked.brush).toMatchObject({ offsetX: -60, offsetY: 50 })
})

test('a stroke that is being painted keeps its ids as it grows, and is finished as it was shown', () => {
  const start = { ...state(), wet: null }
  const short = strokeSoFar(start, { ...painted, points: points.slice(0, 1) }, scene)
  const long = strokeSoFar({ ...start, wet: short }, painted, scene)
  expect([long.made.mendId, long.made.areaId]).toEqual([short.made.mendId, short.made.areaId])
  expect(strokeIn(long.made).keys[0]!.points).toHaveLength(2)
  expect(withWetStroke(start, long).records.get(long.made.mendId)).toBe(long.made.edit.changes[0]!.after)
  // Let go at the same place nothing is made anew; with another brush, or on another frame, it is.
  expect(strokeSoFar({ ...start, wet: long }, painted, scene)).toBe(long)
  const other = { ...start, wet: long, brush: { ...DEFAULT_BRUSH, sizePx: 3 } }
  expect(strokeSoFar(other, painted, scene).made.edit).not.toEqual(long.made.edit)
  expect(strokeIn(strokeSoFar({ ...start, wet: long, frame: 9 }, painted, scene).made).stroke.span.firstFrame).toBe(9) // prettier-ignore
})

describe('the brush in the hand', () => {
  const run = (tool: Tool, ...events: readonly ToolEvent[]): ToolStep =>
    events.reduce<ToolStep>((step, event) => advanceTool(step.tool, event), { tool })
  const press = (x: number, over: object = {}): ToolEvent => ({
    kind: 'press',
    at: { x, y: 0 },
    pxPerScreenPx: 1,
    ...over,
  })
  const move = (x: number, pressure = 1): ToolEvent => ({ kind: 'move', at: { x, y: 0 }, pressure })
  const release: ToolEvent = { kind: 'release', at: { x: 9, y: 0 }, pxPerScreenPx: 1 }

  test('paints while it is pressed, with the pressure of each place', () => {
    const { painted, tool } = run(
      brushTool,
      move(1),
      press(2, { pressure: 0.3 }),
      move(2.1),
      move(6, 0.8),
      release,
    )
    expect(painted!.points).toEqual([
      { x: 2, y: 0, pressure: 0.3, lean: 0 },
      { x: 6, y: 0, pressure: 0.8, lean: 0 },
    ])
    expect(tool).toMatchObject({ kind: 'brush', points: [] })
  })

  test('draws a straight line from the last stroke; escape lets go of a stroke, then of the brush', () => {
    const once = run(brushTool, press(2), release)
    const line = run(once.tool, press(40, { isStraight: true }), release)
    expect(line.painted!.points.map(({ x }) => x)).toEqual([2, 40])
    const let1 = run(brushTool, press(2), { kind: 'escape' })
    expect(let1).toMatchObject({ tool: { kind: 'brush', points: [] } })
    expect(advanceTool(let1.tool, { kind: 'escape' }).tool.kind).toBe('idle')
  })

  test('a click picks where to take from, and paints nothing', () => {
    const { tool, painted } = run({ ...brushTool, isPicking: true }, press(30), release)
    expect(painted).toBeUndefined()
    expect(tool).toMatchObject({ isPicking: false, pickedAt: { x: 30, y: 0 } })
  })
})
