import type { MendMeasure } from '../measure/mendMeasure'
import { sampleEllipse, sampleMend } from '../../tests/fixtures/sampleMend'
import { findSnags, snagsOfMeasures } from './snags'

const PICTURE = { width: 640, height: 360 }
const calm: MendMeasure = { mendId: 'm', x: 40, y: 30, line: null, rimStep: 1, grainRatio: 1, cells: null, faults: null, repeated: null, gathered: null, shade: null, mark: null } // prettier-ignore
const reasons = (over: Partial<MendMeasure>, before: MendMeasure[] = []) =>
  snagsOfMeasures([{ ...calm, ...over }], 1004, before).map(({ reason }) => reason)
const cells = (inside: number[], around: number[]) => ({ inside, around })

const gone: NonNullable<MendMeasure['mark']> = { left: 0.02, leftSure: 9, change: 0.2, offPx: 0.05, offSure: 9, ghost: 0.01, ghostSure: 1, clippedShare: 0 } // prettier-ignore
const lifted: NonNullable<MendMeasure['shade']> = { by: 'frames', depthStops: [1], glintShare: 0, offStops: 0.01, castStops: 0.01, contrast: 1 } // prettier-ignore

test('a mark that is gone and ground as in the light have none; what is small or unsure is none', () => {
  expect(reasons({ mark: gone, shade: lifted })).toEqual([])
  expect(reasons({ mark: { ...gone, left: 0.5, leftSure: 2 } })).toEqual([])
  expect(reasons({ mark: { ...gone, left: 0.2, leftSure: 9, change: 0.02 } })).toEqual([])
  expect(
    reasons({ shade: { ...lifted, by: 'edge', offStops: 0.2, castStops: 0.1, contrast: null } }),
  ).toEqual([])
})

test('a mend that measures as its surroundings do has no snag', () => {
  expect(reasons({})).toEqual([])
  expect(reasons({ rimStep: null, grainRatio: null })).toEqual([])
})

test.each([
  ['source-outside', { faults: { outsidePicture: 0.2, insideOthers: 0 } }],
  ['source-covered', { faults: { outsidePicture: 0, insideOthers: 0.5 } }],
  ['rim-shows', { rimStep: 9 }],
  ['grain-smooth', { grainRatio: 0.2 }],
  ['grain-strong', { grainRatio: 2.5 }],
  ['repeats', { repeated: 0.95 }],
  ['line-shows', { line: { ratio: 50, x: 7, y: 8 } }],
  ['mark-edge', { mark: { ...gone, left: -0.2, leftSure: 9 } }],
  ['mark-ghost', { mark: { ...gone, ghost: 0.15, ghostSure: 6 } }],
  ['mark-beside', { mark: { ...gone, offPx: 0.5, offSure: 7 } }],
  ['clipped', { mark: { ...gone, clippedShare: 0.2 } }],
  ['shade-off', { shade: { ...lifted, offStops: -0.3 } }],
  ['shade-off', { shade: { ...lifted, by: 'edge', offStops: 0.5 } }],
  ['shade-cast', { shade: { ...lifted, castStops: 0.1 } }],
  ['shade-contrast', { shade: { ...lifted, contrast: 0.6 } }],
] as const)('%s is told from its number, in words, at a place', (reason, over) => {
  const [snag, ...others] = snagsOfMeasures([{ ...calm, ...(over as Partial<MendMeasure>) }], 1004)
  expect(others).toEqual([])
  expect(snag).toMatchObject({
    mendId: 'm',
    frame: 1004,
    reason,
    words: expect.stringMatching(/^[A-Z].*\.$/),
  })
  expect([snag!.x, snag!.y]).toEqual(reason === 'line-shows' ? [7, 8] : [40, 30])
})

test('a small share of the source that is not to be had is no snag', () => {
  expect(reasons({ faults: { outsidePicture: 0.01, insideOthers: 0.015 } })).toEqual([])
})

test('flicker needs a change well above that of the surroundings, and one that is seen', () => {
  const before = { ...calm, cells: cells([0.4, 0.5], [0.4, 0.5]) }
  expect(reasons({ cells: cells([0.46, 0.44], [0.4, 0.5]) }, [before])).toEqual(['flicker'])
  expect(reasons({ cells: cells([0.46, 0.44], [0.46, 0.44]) }, [before])).toEqual([]) // all of it changes: a flash
  expect(reasons({ cells: cells([0.404, 0.504], [0.4, 0.5]) }, [before])).toEqual([]) // a step of eight bits
  expect(reasons({ cells: cells([0.46, 0.44], [0.4, 0.5]) })).toEqual([]) // the frame before is not known
  expect(reasons({ cells: cells([0.46, 0.44], [0.4, 0.5]) }, [{ ...before, mendId: 'other' }])).toEqual([])
})

test('two areas of one mend are compared each with itself', () => {
  const [first, second] = [cells([0.2], [0.2]), cells([0.7], [0.7])]
  const before = [{ ...calm, cells: first }, { ...calm, cells: second }] // prettier-ignore
  expect(snagsOfMeasures(before, 1004, before)).toEqual([])
  const swapped = snagsOfMeasures([{ ...calm, cells: cells([0.2], [0.2]) }, { ...calm, cells: cells([0.5], [0.7]) }], 1004, before) // prettier-ignore
  expect(swapped.map(({ reason }) => reason)).toEqual(['flicker'])
})

test('the data alone: a jump, a start without a key, an area that leaves; a mend that is off has none', () => {
  const key = (frame: number, x: number) => ({ frame, x, y: 100, radiusXPx: 10, radiusYPx: 10, turnDeg: 0 })
  const span = { firstFrame: 1001, lastFrame: 1010 }
  const mend = (keys: ReturnType<typeof key>[], over = {}) =>
    sampleMend({ areas: [sampleEllipse({ interpolation: 'linear', keys })], span, ...over })
  const found = (one: ReturnType<typeof mend>) =>
    findSnags(one, new Map(), PICTURE).map(({ frame, reason }) => [frame, reason])
  expect(found(mend([key(1001, 50), key(1010, 60)]))).toEqual([])
  expect(found(mend([key(1003, 50), key(1010, 60)]))).toEqual([[1001, 'no-start-key']])
  expect(found(mend([key(1001, 600), key(1010, 690)]))).toEqual([[1006, 'area-leaves']])
  expect(found(mend([key(1001, 50), key(1004, 53), key(1005, 140), key(1010, 145)]))).toContainEqual([
    1005,
    'area-jump',
  ])
  expect(found(mend([key(1001, 600), key(1010, 690)], { isOn: false }))).toEqual([])
})
