import type { BenchPlate } from './bench'

/** A small plate of 48 frames; for tests. */
export const samplePlate: BenchPlate = {
  id: 'p',
  width: 100,
  height: 80,
  channels: 3,
  bitDepth: 8,
  frameRate: { num: 24, den: 1 },
  firstFrame: 1001,
  lastFrame: 1048,
}
