import { geometryOf, mendFromDrawing } from './finishDrawing'
import {
  advanceTool,
  brushTool,
  drawTool,
  hintOf,
  idleTool,
  type DrawnShape,
  type Place,
  type Purpose,
  type Tool,
  type ToolEvent,
  type ToolStep,
} from './tool'

const wire: Purpose = { for: 'mend', kind: 'wire' }
const at = (x: number, y: number): Place => ({ x, y })
const press = (x: number, y: number): ToolEvent => ({ kind: 'press', at: at(x, y), pxPerScreenPx: 1 })
const release = (x: number, y: number): ToolEvent => ({ kind: 'release', at: at(x, y), pxPerScreenPx: 1 })
const click = (x: number, y: number): ToolEvent[] => [press(x, y), release(x, y)]

function play(start: Tool, ...events: ToolEvent[]): { tool: Tool; drawn: ToolStep['drawn'][] } {
  let tool = start
  const drawn: ToolStep['drawn'][] = []
  for (const event of events) {
    const step = advanceTool(tool, event)
    tool = step.tool
    if (step.drawn) drawn.push(step.drawn)
  }
  return { tool, drawn }
}
const of = (shape: DrawnShape, purpose: Purpose = wire) => drawTool(shape, purpose)

test('a path is clicked along, and Enter or its last point again ends it', () => {
  const three = [...click(1, -5), { kind: 'move', at: at(9, 9) } as const, ...click(20, 30), ...click(30, 60)]
  const places = [at(1, -5), at(20, 30), at(30, 60)]
  const byEnter = play(of('path'), ...three, { kind: 'finish' })
  expect(byEnter.tool).toBe(idleTool)
  expect(byEnter.drawn).toEqual([{ shape: 'path', purpose: wire, places }])
  expect(play(of('path'), ...three, ...click(31, 61)).drawn[0]!.places).toEqual(places)
})

test('too few places are no drawing; escape stops; idle does nothing', () => {
  const one = play(of('path'), ...click(1, 1), ...click(2, 1), { kind: 'finish' })
  expect(one.drawn).toEqual([])
  expect(one.tool).toMatchObject({ kind: 'draw', places: [at(1, 1)] })
  expect(play(of('outline'), ...click(1, 1), ...click(50, 1), { kind: 'finish' }).drawn).toEqual([])
  expect(play(of('path'), ...click(1, 1), { kind: 'escape' }).tool).toBe(idleTool)
  expect(advanceTool(idleTool, press(0, 0))).toEqual({ tool: idleTool })
})

test('an outline closes on its first point, an ellipse and a box are one stroke', () => {
  expect(
    play(of('outline'), ...click(0, 0), ...click(40, 0), ...click(40, 40), ...click(2, 2)).drawn[0]!.places,
  ).toHaveLength(3)
  expect(play(of('ellipse'), press(50, 50), release(70, 58)).drawn[0]!.places).toEqual([
    at(50, 50),
    at(70, 58),
  ])
  expect(play(of('ellipse'), ...click(50, 50)).drawn[0]!.places).toEqual([at(50, 50)])
  // A box that was clicked waits for its other corner.
  expect(play(of('box'), ...click(10, 10), ...click(60, 40)).drawn[0]!.places).toEqual([
    at(10, 10),
    at(60, 40),
  ])
  expect(play(of('pair'), ...click(1, 1), ...click(90, 1)).drawn[0]!.places).toHaveLength(2)
})

test('dust goes on: one mote after the other until it is stopped', () => {
  const dust: Purpose = { for: 'mend', kind: 'dust' }
  const { tool, drawn } = play(of('ellipse', dust), ...click(10, 10), ...click(40, 40))
  expect(drawn).toHaveLength(2)
  expect(tool).toMatchObject({ kind: 'draw', places: [] })
})

test('it says what to do next, for every shape and purpose', () => {
  expect(hintOf(idleTool)).toBeNull()
  expect(hintOf(of('path'))).toMatch(/one end/)
  expect(hintOf(play(of('path'), ...click(1, 1)).tool)).toMatch(/other end/)
  expect(hintOf(play(of('path'), ...click(1, 1), ...click(50, 50)).tool)).toMatch(/Enter/)
  for (const shape of ['ellipse', 'box', 'outline', 'point', 'pair'] as const)
    expect(hintOf(of(shape))).toMatch(/Esc/)
  expect(hintOf(of('outline', { for: 'lasso', trackId: 't' }))).toMatch(/bad points/)
})

const PICTURE = { width: 1280, height: 720 }

test('places become shapes', () => {
  expect(geometryOf('path', [at(90, 90), at(95, 95)], 7, PICTURE)).toEqual({ shape: 'path', points: [{ x: 90, y: 90, widthPx: 7 }, { x: 95, y: 95, widthPx: 7 }] }) // prettier-ignore
  expect(geometryOf('ellipse', [at(10, 10)], 7, PICTURE)).toMatchObject({ radiusXPx: 12, radiusYPx: 12 })
  expect(geometryOf('box', [at(30, 40), at(10, 10)], 7, PICTURE)).toMatchObject({
    x: 20,
    y: 25,
    widthPx: 20,
    heightPx: 30,
  })
  expect(geometryOf('outline', [at(0, 0), at(9, 0), at(9, 9)], 7, PICTURE)).toMatchObject({
    shape: 'outline',
  })
})

test('a second mote joins the dust that is being marked, a second wire does not', () => {
  const span = { firstFrame: 1001, lastFrame: 1010 }
  const mote = geometryOf('ellipse', [at(10, 10)], 7, PICTURE)
  const first = mendFromDrawing(new Map(), 'dust', mote, span, 1001, null)
  const records = new Map([[first.mendId, first.edit.changes[0]!.after!]])
  const second = mendFromDrawing(records, 'dust', mote, span, 1001, first.mendId)
  expect(second.mendId).toBe(first.mendId)
  expect(second.edit.changes[0]!.after!.areas).toHaveLength(2)
  expect(
    mendFromDrawing(
      records,
      'wire',
      geometryOf('path', [at(0, 0), at(9, 9)], 7, PICTURE),
      span,
      1001,
      first.mendId,
    ).mendId,
  ).not.toBe(first.mendId)
})

test('the tip is set by dragging its rim or where it fades, and nothing is painted by that', () => {
  const sets = { pressure: 1, sets: 'rim' } as const
  const down = advanceTool(brushTool, { kind: 'press', at: at(10, 10), pxPerScreenPx: 1, ...sets })
  const out = advanceTool(down.tool, { kind: 'move', at: at(13, 14), ...sets })
  expect(out.tip).toEqual({ part: 'rim', radiusPx: 5 })
  expect(advanceTool(out.tool, { kind: 'move', at: at(10, 12), sets: 'softness' }).tip).toEqual({ part: 'softness', radiusPx: 2 }) // prettier-ignore
  const up = advanceTool(out.tool, release(13, 14))
  expect(up.painted).toBeUndefined()
  expect(up.tool).toMatchObject({ kind: 'brush', points: [], sizedAt: null })
  // Escape puts the rim down, not the brush.
  expect(advanceTool(out.tool, { kind: 'escape' }).tool).toMatchObject({ kind: 'brush', sizedAt: null })
})

test('a pen that leans says so at every point of a stroke', () => {
  const down = advanceTool(brushTool, { kind: 'press', at: at(0, 0), pxPerScreenPx: 1, pressure: 0.5, lean: 0.25 }) // prettier-ignore
  const along = advanceTool(down.tool, { kind: 'move', at: at(9, 0), pressure: 0.6, lean: 0.75 })
  const { painted } = advanceTool(along.tool, release(9, 0))
  expect(painted!.points.map(({ pressure, lean }) => [pressure, lean])).toEqual([[0.5, 0.25], [0.6, 0.75]]) // prettier-ignore
})
