import { samplePlate } from '../../tests/fixtures/sampleBench'
import { createBench } from '../store/bench'
import { HeldComparison } from './useHeldComparison'

function hand() {
  const ignore = () => undefined
  const store = createBench({ plate: samplePlate, records: [], tracks: [], history: [], frame: 1001, selectedId: null, save: ignore, onBlocked: ignore }) // prettier-ignore
  return { held: new HeldComparison(store), mode: () => store.getState().compare.mode }
}

test('pressed it stays, pressed again it goes', () => {
  const { held, mode } = hand()
  held.press('wipe', 0)
  held.letGo(100)
  expect(mode()).toBe('wipe')
  held.press('wipe', 1000)
  held.letGo(1050)
  expect(mode()).toBe('off')
})

test('held it goes with the key, however often the key repeats itself, back to what there was', () => {
  const { held, mode } = hand()
  held.press('wipe', 0)
  held.letGo(100)
  held.press('difference', 1000)
  for (const at of [1400, 1430, 1460]) held.press('difference', at)
  expect(mode()).toBe('difference')
  held.letGo(1500)
  expect(mode()).toBe('wipe')
  // Held down on what was there already it is put away.
  held.press('wipe', 2000)
  held.letGo(3000)
  expect(mode()).toBe('off')
  held.letGo(4000)
  expect(mode()).toBe('off')
})
