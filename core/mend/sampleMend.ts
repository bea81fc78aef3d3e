import type { Area, PathArea } from './areas'
import { defaultsOf, findFill } from '../fill/registry'
import { DEFAULT_FINISH, type FillSettings, type Mend, type MendRecord, type Span } from './schema'

/** A fill with the settings it starts with. */
export function fillOf(id: string): FillSettings {
  const method = findFill(id)!
  return { methodId: id, methodVersion: method.version, params: defaultsOf(method) }
}

/** A path area as it is when drawn; for tests and bench. */
export const samplePath = (over: Partial<PathArea> = {}): PathArea => ({
  shape: 'path',
  id: 'a1',
  role: 'cover',
  travel: 'smooth',
  follow: null,
  keys: [
    {
      frame: 1001,
      points: [
        { x: 40, y: -5, widthPx: 6 },
        { x: 60, y: 70, widthPx: 6 },
      ],
    },
  ],
  ...over,
})

/** An ellipse that rests; for tests and bench. */
export const sampleEllipse = (
  over: Partial<Extract<Area, { shape: 'ellipse' }>> = {},
): Extract<Area, { shape: 'ellipse' }> => ({
  shape: 'ellipse',
  id: 'e1',
  role: 'cover',
  travel: 'smooth',
  follow: null,
  keys: [{ frame: 1001, x: 50, y: 40, radiusXPx: 12, radiusYPx: 8, turnDeg: 0 }],
  ...over,
})

/** What a sample differs in; of its span some parts are enough. */
type SampleOver<T extends Mend> = Partial<Omit<T, 'span'>> & { readonly span?: Partial<Span> }

/** A wire from one place to another, filled from both sides; for tests and bench. */
export function sampleMend({ span, ...over }: SampleOver<Mend> = {}): Mend {
  return {
    id: 'wire-1',
    kind: 'wire',
    name: 'Wire 1',
    isOn: true,
    areas: [samplePath()],
    fill: fillOf('across'),
    source: null,
    finish: DEFAULT_FINISH,
    span: { firstFrame: 1001, lastFrame: 1048, rampInFrames: 0, rampOutFrames: 0, ...span },
    ...over,
  }
}

export const sampleRecord = ({ order = 1, ...over }: SampleOver<MendRecord> = {}): MendRecord => ({
  ...sampleMend(over),
  order,
})
