import type { WeighedMeasure } from '../measure/mendMeasure'
import { bestOf } from './takenMark'

const measure = (undone: number, others: number): WeighedMeasure => ({
  undone,
  others,
  weighed: 1 / Math.sqrt(1 / undone ** 2 + 1 / others ** 2),
  ghost: 0,
  ghostSure: 0,
})

test('other frames are asked only where that gains, and alone where they are far better', () => {
  expect(bestOf([])).toBe('undone')
  expect(bestOf([measure(0.01, 0.04)])).toBe('undone')
  expect(bestOf([measure(0.01, 0.01), measure(0.012, 0.01)])).toBe('weighed')
  expect(bestOf([measure(0.03, 0.01)])).toBe('others')
})

test('other frames that cannot be relied on everywhere are not asked', () => {
  expect(bestOf([measure(0.02, 0.02), measure(0.003, 0.03), measure(0.02, 0.02)])).toBe('undone')
})
