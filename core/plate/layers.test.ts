import { NO_LAYER } from '../scene/layerMap'
import { chooseLayers } from './layers'

describe('the layer of a hidden place', () => {
  const side = 40
  const pixels = Array.from({ length: side * side }, (_, at) => at)
  const isHole = (at: number) => at % side >= 10 && at % side < 30 && at >= 10 * side && at < 30 * side
  const [hidden, around] = [
    Int32Array.from(pixels.filter(isHole)),
    Int32Array.from(pixels.filter((at) => !isHole(at))),
  ]
  const aroundLayers = Uint8Array.from(around, (at) => (at < 20 * side ? 0 : 1))

  const told = new Uint8Array(hidden.length).fill(NO_LAYER)

  test('is the one that the frames agree about', () => {
    const cost = (layer: number) =>
      Float32Array.from(hidden, (at) => ((at % side < 20 ? 0 : 1) === layer ? 0.15 : 1.2))
    const labels = chooseLayers({ hidden, costs: [cost(0), cost(1)], around, aroundLayers, told }, side, side)
    const right = labels.filter((label, i) => label === (hidden[i]! % side < 20 ? 0 : 1)).length
    expect(right / labels.length).toBeGreaterThan(0.85)
  })

  test('is that of its surroundings where too few frames saw it', () => {
    const unknown = new Float32Array(hidden.length).fill(NaN)
    const labels = chooseLayers({ hidden, costs: [unknown, unknown], around, aroundLayers, told }, side, side)
    labels.forEach((label, i) => {
      const row = Math.floor(hidden[i]! / side)
      if (Math.abs(row - 19.5) > 3) expect(label).toBe(row < 20 ? 0 : 1)
    })
  })

  test('is what the scene says, unless frames speak clearly against it', () => {
    const unknown = new Float32Array(hidden.length).fill(NaN)
    const says = told.slice().fill(1)
    expect(
      [
        ...chooseLayers({ hidden, costs: [unknown, unknown], around, aroundLayers, told: says }, side, side),
      ].every((one) => one === 1),
    ).toBe(true)
    const [good, bad] = [new Float32Array(hidden.length).fill(0.1), new Float32Array(hidden.length).fill(1.2)]
    expect(
      [...chooseLayers({ hidden, costs: [good, bad], around, aroundLayers, told: says }, side, side)].every(
        (one) => one === 0,
      ),
    ).toBe(true)
  })
})
