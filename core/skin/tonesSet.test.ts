import { setTones, learntToneAt, tonesOn, withTone, type SetTone } from './tonesSet'
import { lightChanges } from './lightChanges'
import type { Tone } from './tone'

const tone = (brightness: number, over: Partial<Tone> = {}): Tone => ({
  brightness,
  blue: -0.08,
  red: 0.12,
  slopes: { colour: 0.25, hue: 0 },
  brightest: brightness + 0.1,
  deviations: { brightness: 0.1, colour: 0.02, hue: 0.01 },
  ...over,
})
const learnt = (frame: number, of: Tone): SetTone => ({ use: 'learnt', frame, tone: of, beside: null })

test('what was learnt holds before the first and after the last, and goes straight between', () => {
  const keys = [learnt(1010, tone(0.4)), learnt(1020, tone(0.6, { blue: -0.1 }))]
  expect(learntToneAt([], 1010)).toBeNull()
  expect(learntToneAt(keys, 1001)).toEqual(tone(0.4))
  expect(learntToneAt(keys, 1030)).toEqual(tone(0.6, { blue: -0.1 }))
  const between = learntToneAt(keys, 1015)!
  expect(between.brightness).toBeCloseTo(0.5, 9)
  expect(between.brightest).toBeCloseTo(0.6, 9)
  expect(between.blue).toBeCloseTo(-0.09, 9)
  expect(between.deviations).toEqual(tone(0.4).deviations)
})

test('others change with the light as the skin’s own tone does', () => {
  const own = tone(0.5)
  const redder = tone(0.45, { red: 0.2 })
  const brighter = tone(0.7, { blue: -0.1 })
  const set: SetTone[] = [
    { use: 'added', frame: 1001, tone: redder, beside: own },
    { use: 'taken', frame: 1001, tone: tone(0.2), beside: null },
  ]
  const { added, taken } = tonesOn(set, brighter)
  expect(added[0]!.brightness).toBeCloseTo(0.65, 9)
  expect(added[0]!.blue).toBeCloseTo(-0.1, 9)
  expect(added[0]!.red).toBeCloseTo(0.2, 9)
  expect(taken).toEqual([tone(0.2)])
})

test('learnt again on a frame replaces what was learnt there, and only that; the order is held', () => {
  const added: SetTone = { use: 'added', frame: 1010, tone: tone(0.3), beside: null }
  const set = [learnt(1010, tone(0.4)), added]
  const again = withTone(withTone(set, learnt(1005, tone(0.5))), learnt(1010, tone(0.6)))
  expect(again.map(({ use, frame, tone: of }) => [use, frame, of.brightness])).toEqual([
    ['learnt', 1005, 0.5],
    ['added', 1010, 0.3],
    ['learnt', 1010, 0.6],
  ])
  expect(setTones.parse(again)).toEqual(again)
  expect(() => setTones.parse([learnt(1010, tone(0.4)), learnt(1010, tone(0.5))])).toThrow('rising order')
  expect(() => setTones.parse([learnt(1010, tone(NaN))])).toThrow()
})

describe('changes of the light', () => {
  /** Even light, a rise over eight frames, even light; with a tremble far below what matters. */
  const seen = Array.from({ length: 40 }, (_, i) => {
    const risen = Math.min(1, Math.max(0, (i - 15) / 8))
    return { frame: 1001 + i, tone: tone(0.4 + 0.2 * risen + 0.001 * (i % 2)) }
  })
  test('are told from where they begin to where they end', () => {
    const changes = lightChanges(seen, [])
    expect(changes).toHaveLength(1)
    expect(Math.abs(changes[0]!.from.frame - 1016)).toBeLessThanOrEqual(1)
    expect(Math.abs(changes[0]!.to.frame - 1024)).toBeLessThanOrEqual(1)
  })
  test('once they are learnt there are none', () => {
    const set = lightChanges(seen, []).flatMap(({ from, to }) =>
      [from, to].map((at) => learnt(at.frame, at.tone)),
    )
    expect(lightChanges(seen, set)).toEqual([])
  })
  test('none in even light, none where nothing is seen', () => {
    expect(lightChanges(seen.slice(0, 12), [])).toEqual([])
    expect(lightChanges([], [])).toEqual([])
  })
})
