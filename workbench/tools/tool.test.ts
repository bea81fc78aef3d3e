import { advanceTool, drawWireTool, hintOf, idleTool, type Tool, type ToolEvent } from './tool'

function play(...events: ToolEvent[]) {
  let tool: Tool = drawWireTool
  let drawn: unknown
  for (const event of events) {
    const step = advanceTool(tool, event)
    tool = step.tool
    drawn = step.drawn ?? drawn
  }
  return { tool, drawn }
}

test('two clicks draw a wire', () => {
  const { tool, drawn } = play({ kind: 'click', at: { x: 1, y: -5 } }, { kind: 'move', at: { x: 9, y: 9 } }, { kind: 'click', at: { x: 20, y: 30 } })
  expect(tool).toBe(idleTool)
  expect(drawn).toEqual([
    { x: 1, y: -5, widthPx: 10 },
    { x: 20, y: 30, widthPx: 10 },
  ])
})

test('a double click is no wire, escape stops, idle does nothing', () => {
  const twice = play({ kind: 'click', at: { x: 1, y: 1 } }, { kind: 'click', at: { x: 2, y: 1 } })
  expect(twice.tool.kind).toBe('drawWire')
  expect(twice.drawn).toBeUndefined()
  expect(play({ kind: 'click', at: { x: 1, y: 1 } }, { kind: 'escape' }).tool).toBe(idleTool)
  expect(advanceTool(idleTool, { kind: 'click', at: { x: 0, y: 0 } })).toEqual({ tool: idleTool })
})

test('it says what to do next', () => {
  expect(hintOf(drawWireTool)).toMatch(/one end/)
  expect(hintOf(play({ kind: 'click', at: { x: 1, y: 1 } }).tool)).toMatch(/other end/)
  expect(hintOf(idleTool)).toBeNull()
})
