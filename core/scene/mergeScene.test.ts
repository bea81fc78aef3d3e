import { translationBy } from '../geometry/transform'
import { changedCells, leftOutGrid, leftOutOn, mattersToScene } from './leftOut'
import { mergeScene } from './mergeScene'
import { cellsFromRuns, runsFromCells } from './cellRuns'
import { SCENE_FORMAT, SCENE_VERSION, type Scene } from './scene'

const [width, height] = [640, 320]
const FRAMES = 4
const CELLS = { cellPx: 16, cols: 40, rows: 20 }

/** 1 in a box, px. */
const boxMask = (left: number, top: number, right: number, bottom: number): Uint8Array =>
  Uint8Array.from({ length: width * height }, (_, i) => {
    const [col, row] = [i % width, Math.floor(i / width)]
    return col >= left && col < right && row >= top && row < bottom ? 1 : 0
  })

function sceneOf(mask: Uint8Array | null, label: number, pxAFrame = 3): Scene {
  const motions = Array.from(
    { length: FRAMES },
    (_, i) => [...translationBy(pxAFrame * i, 0)] as Scene['layers'][number]['motions'][number],
  )
  const layer = { motions, sure: [1, 1, 1, 1], points: 40, hiddenBy: [] }
  return {
    format: SCENE_FORMAT,
    version: SCENE_VERSION,
    plate: { width, height, firstFrame: 1001, frameCount: FRAMES },
    layers: [layer, layer],
    exposureStops: [0, 0, 0, 0],
    cells: {
      ...CELLS,
      frames: motions.map(() => runsFromCells(new Uint8Array(CELLS.cols * CELLS.rows).fill(label))),
    },
    leftOut: { ...leftOutGrid(width, height), frames: motions.map(() => leftOutOn(mask, width, height)) },
  }
}

test('what is left out is told in cells; a thread or a corner of a cell is nothing', () => {
  const { cols, rows } = leftOutGrid(width, height)
  const cells = (mask: Uint8Array | null) => cellsFromRuns(leftOutOn(mask, width, height), cols * rows)
  expect(cells(null).includes(1)).toBe(false)
  expect(cells(boxMask(100, 0, 108, 320)).includes(1)).toBe(false)
  const box = cells(boxMask(64, 64, 128, 96))
  expect([...box].flatMap((value, cell) => (value === 1 ? [cell] : []))).toEqual([2 * cols + 2, 2 * cols + 3])
})

test('a change matters when it is more than a speck', () => {
  const of = (mask: Uint8Array | null) => sceneOf(mask, 0).leftOut!
  expect(mattersToScene(changedCells(undefined, of(null)))).toBe(false)
  expect(mattersToScene(changedCells(of(boxMask(0, 0, 128, 128)), of(boxMask(0, 0, 128, 128))))).toBe(false)
  expect(mattersToScene(changedCells(undefined, of(boxMask(0, 0, 128, 128))))).toBe(true)
  expect(mattersToScene(changedCells(of(boxMask(0, 0, 128, 128)), of(null)))).toBe(true)
})

describe('merging', () => {
  const [last, fresh] = [sceneOf(null, 0), sceneOf(boxMask(320, 96, 416, 192), 1)]

  test('takes new cells only around what has changed, and keeps motions that agree', () => {
    const merged = mergeScene(last, { ...fresh, layers: sceneOf(null, 0, 3.02).layers })
    expect(merged.layers).toBe(last.layers)
    expect(merged.leftOut).toEqual(fresh.leftOut)
    const labels = cellsFromRuns(merged.cells!.frames[2]!, CELLS.cols * CELLS.rows)
    const labelAt = (x: number, y: number) =>
      labels[Math.floor(y / CELLS.cellPx) * CELLS.cols + Math.floor(x / CELLS.cellPx)]
    expect([labelAt(360, 140), labelAt(300, 80), labelAt(440, 210)]).toEqual([1, 1, 1])
    expect([labelAt(200, 140), labelAt(360, 300), labelAt(600, 20)]).toEqual([0, 0, 0])
  })

  test('takes all of the new one where its motions are others', () => {
    const moved = { ...fresh, layers: sceneOf(null, 0, 3.4).layers }
    expect(mergeScene(last, moved)).toBe(moved)
    const fewer = { ...fresh, layers: fresh.layers.slice(1) }
    expect(mergeScene(last, fewer)).toBe(fewer)
  })

  test('of a scene that did not say what it left out, what is left out now is new', () => {
    const { leftOut: _, ...silent } = last
    const labels = cellsFromRuns(mergeScene(silent, fresh).cells!.frames[0]!, CELLS.cols * CELLS.rows)
    expect(labels.includes(1)).toBe(true)
    expect(labels.includes(0)).toBe(true)
  })
})
