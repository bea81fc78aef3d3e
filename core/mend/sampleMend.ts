import { DEFAULT_FINISH, startingFill, type Mend, type MendRecord } from './schema'

/** A wire from one place to another, as it is when drawn with the default settings; for tests and bench. */
export function sampleMend(over: Partial<Mend> = {}): Mend {
  return {
    id: 'wire-1',
    kind: 'wire',
    name: 'Wire 1',
    isOn: true,
    area: {
      shape: 'path',
      travel: 'smooth',
      keys: [
        {
          frame: 1001,
          points: [
            { x: 40, y: -5, widthPx: 6 },
            { x: 60, y: 70, widthPx: 6 },
          ],
        },
      ],
    },
    fill: startingFill(),
    finish: DEFAULT_FINISH,
    span: { firstFrame: 1001, lastFrame: 1048 },
    ...over,
  }
}

export const sampleRecord = (over: Partial<MendRecord> = {}): MendRecord => ({ ...sampleMend(over), order: 1, ...over })
