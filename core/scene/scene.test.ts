import { readyDigests } from '../shot/digest'
import { apply } from '../geometry/transform'
import { sceneSource, wavesAt, type SceneFrame } from '../../tests/fixtures/sampleScene'
import { analyseScene } from './analyseScene'
import { layerAt, NO_LAYER } from './layerMap'
import { cellsFromRuns, runsFromCells } from './cellRuns'
import { isLocked, motionBetween, sceneSchema, sceneSureAt, type Scene } from './scene'
import { layerMapOf, layersDigest, openedCellsBytes } from './sceneLayers'

beforeAll(readyDigests)

const SIZE = { width: 320, height: 200 }
const RANGE = { firstFrame: 1001, lastFrame: 1016 }
const context = { shouldStop: () => false }
const nothing = async () => null
const nowhere = () => false

const analysed = async (frameOf: (frame: number) => SceneFrame, size = SIZE): Promise<Scene> =>
  (await analyseScene({ range: RANGE, maskAt: nothing }, sceneSource(size, frameOf), context))!

describe('a camera that drifts and turns', () => {
  const motion = (frame: number) => {
    const i = frame - 1001
    const turn = 0.002 * i
    return { c: Math.cos(turn), s: Math.sin(turn), x: 1.7 * i, y: 0.6 * i }
  }
  const frameOf = (frame: number): SceneFrame => {
    const { c, s, x: dx, y: dy } = motion(frame)
    // Where a place of this frame lay on the first: turned back about the middle.
    return {
      background: (x, y, channel) => {
        const [px, py] = [x - dx - 160, y - dy - 100]
        return wavesAt(160 + c * px + s * py, 100 - s * px + c * py, channel, 2)
      },
      isHidden: nowhere,
    }
  }

  test('is found to less than 0.15 px from the first frame to the last, in one layer', async () => {
    const scene = await analysed(frameOf)
    expect(sceneSchema.safeParse(scene).success).toBe(true)
    expect(scene.layers).toHaveLength(1)
    expect(isLocked(scene)).toBe(false)
    const { c, s, x: dx, y: dy } = motion(1016)
    for (const [x, y] of [
      [60, 50],
      [160, 100],
      [260, 150],
    ] as const) {
      const [px, py] = [x - 160, y - 100]
      const truth = { x: 160 + dx + c * px - s * py, y: 100 + dy + s * px + c * py }
      const found = apply(motionBetween(scene, 0, 1001, 1016), x, y)
      expect(Math.hypot(found.x - truth.x, found.y - truth.y)).toBeLessThan(0.15)
    }
    for (let frame = 1001; frame <= 1016; frame++) expect(sceneSureAt(scene, frame)).toBeGreaterThan(0.8)
  })
})

test('a locked camera is said to be locked, whatever the light does; exposure is told in stops', async () => {
  const stopsAt = (frame: number) => 0.1 * Math.sin(frame)
  const scene = await analysed((frame) => ({
    // Light that doubles with each stop, seen through the curve of IEC 61966-2-1 near its middle.
    background: (x, y, c) => encode(decode(wavesAt(x, y, c, 3)) * 2 ** (stopsAt(frame) - stopsAt(1001))),
    isHidden: nowhere,
  }))
  expect(isLocked(scene)).toBe(true)
  for (let i = 0; i < 16; i++)
    expect(scene.exposureStops[i]).toBeCloseTo(stopsAt(1001 + i) - stopsAt(1001), 1)
})

describe('a fence before a wall', () => {
  const WIDE = { width: 480, height: 220 }
  const wallAt = (frame: number) => 2.1 * (frame - 1001)
  const fenceAt = (frame: number) => 4.4 * (frame - 1001)
  const isFence = (x: number) => ((x % 190) + 190) % 190 < 84
  const frameOf = (frame: number): SceneFrame => ({
    background: (x, y, c) =>
      isFence(x + fenceAt(frame))
        ? wavesAt(x + fenceAt(frame), y, c, 5)
        : wavesAt(x + wallAt(frame), y, c, 2),
    isHidden: nowhere,
  })

  test('comes out as two layers, each with its own motion; the fence passes in front', async () => {
    const scene = await analysed(frameOf, WIDE)
    const goneBy = (layer: number) => 160 - apply(motionBetween(scene, layer, 1001, 1016), 160, 100).x
    expect(scene.layers.length).toBeGreaterThanOrEqual(2)
    const layerThatGoes = (px: number) =>
      scene.layers.findIndex((_, layer) => Math.abs(goneBy(layer) - px) < 0.3)
    const [wall, fence] = [layerThatGoes(wallAt(1016)), layerThatGoes(fenceAt(1016))]
    expect(wall).toBeGreaterThanOrEqual(0)
    expect(fence).toBeGreaterThanOrEqual(0)
    // Cells: away from the posts' edges most carry the right label.
    const map = layerMapOf(scene, 1008, { col: 0, row: 0, ...WIDE })!
    let [right, asked] = [0, 0]
    for (let x = 24; x < 456; x += 8) {
      const at = x + fenceAt(1008)
      const isPost = isFence(at)
      if (isFence(at - 14) !== isPost || isFence(at + 14) !== isPost) continue
      const label = layerAt(map, x, 100)
      if (label === NO_LAYER) continue
      asked++
      if (label === (isPost ? fence : wall)) right++
    }
    expect(asked).toBeGreaterThan(8)
    expect(right / asked).toBeGreaterThan(0.8)
    expect(scene.layers[fence]!.hiddenBy).not.toContain(wall)
  })
})

test('frames that are asked for beyond the plate do not move; runs of cells come back as they were', () => {
  const scene: Scene = {
    format: 'fillagrant-scene',
    version: 1,
    plate: { width: 80, height: 40, firstFrame: 1001, frameCount: 2 },
    layers: [
      {
        motions: [
          [1, 0, 0, 0, 1, 0, 0, 0, 1],
          [1, 0, 3, 0, 1, -2, 0, 0, 1],
        ],
        sure: [1, 0.5],
        points: 20,
        hiddenBy: [],
      },
    ],
    exposureStops: [0, 0],
    cells: null,
  }
  expect(motionBetween(scene, 0, 1001, 1002)[2]).toBe(3)
  expect(motionBetween(scene, 0, 1002, 1001)[5]).toBe(2)
  expect(motionBetween(scene, 0, 1001, 1009)).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1])
  expect(sceneSureAt(scene, 1002)).toBe(0.5)
  expect(layerMapOf(scene, 1001, { col: 0, row: 0, width: 10, height: 10 })).toBeNull()
  const labels = Uint8Array.of(0, 0, 1, 255, 255, 2)
  expect(runsFromCells(labels)).toBe('0*2 1*1 -*2 2*1')
  expect(cellsFromRuns(runsFromCells(labels), 6)).toEqual(labels)
})

describe('layers of a part of a frame', () => {
  const [COLS, ROWS] = [100, 70]
  const sceneWith = (labelAt: (col: number, row: number) => number): Scene => ({
    format: 'fillagrant-scene',
    version: 1,
    plate: { width: 4 * COLS, height: 4 * ROWS, firstFrame: 1001, frameCount: 1 },
    layers: [0, 1].map(() => ({
      motions: [[1, 0, 0, 0, 1, 0, 0, 0, 1]],
      sure: [1],
      points: 9,
      hiddenBy: [],
    })),
    exposureStops: [0],
    cells: {
      cellPx: 4,
      cols: COLS,
      rows: ROWS,
      frames: [
        runsFromCells(
          Uint8Array.from({ length: COLS * ROWS }, (_, i) => labelAt(i % COLS, Math.floor(i / COLS))),
        ),
      ],
    },
  })
  const near = { col: 10, row: 10, width: 60, height: 60 }

  test('are the same cells whichever part is asked for, with what is seen beside', () => {
    const scene = sceneWith((col) => (col < 50 ? 0 : 1))
    const part = layerMapOf(scene, 1001, { col: 150, row: 30, width: 100, height: 40 })!
    expect([layerAt(part, 199, 50), layerAt(part, 200, 50), layerAt(part, 20, 50)]).toEqual([0, 1, NO_LAYER])
    const bitsAt = (x: number) => [
      ...part.cells.slice(3 * (Math.floor(x / 4) - part.firstCol) + 1).slice(0, 2),
    ]
    // 8 px beside the border the other layer is near; 12 px beside it is beside; further off it is not.
    expect([bitsAt(192), bitsAt(188), bitsAt(180)]).toEqual([
      [3, 3],
      [1, 3],
      [1, 1],
    ])
    expect(openedCellsBytes()).toBeGreaterThanOrEqual(3 * COLS * ROWS)
    expect(layerMapOf(scene, 1009, near)).toBeNull()
  })

  test('are told from others by what they are, where they were asked for and nowhere else', () => {
    const digest = (labelAt: (col: number, row: number) => number) =>
      layersDigest(sceneWith(labelAt), 1001, near)
    const plain = digest(() => 0)
    expect(digest(() => 0)).toBe(plain)
    expect(digest((col) => (col > 90 ? 1 : 0))).toBe(plain)
    expect(digest((col) => (col < 5 ? 1 : 0))).not.toBe(plain)
  })
})

test('it stops when it is told to', async () => {
  const source = sceneSource(SIZE, () => ({
    background: (x, y, c) => wavesAt(x, y, c, 1),
    isHidden: nowhere,
  }))
  expect(await analyseScene({ range: RANGE, maskAt: nothing }, source, { shouldStop: () => true })).toBeNull()
})

const decode = (value: number): number =>
  value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4
const encode = (light: number): number =>
  light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055
