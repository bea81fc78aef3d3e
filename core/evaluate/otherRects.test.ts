/** A frame says all that it will read before it reads it: what lies far comes in one request. */
import { KINDS } from '../document/kinds'
import { startingFill, startingFinish, type Mend, type MendKind } from '../document/mend'
import { restingSource } from '../document/sourceKeys'
import { createSamples } from '../image/samples'
import { uniteRects, type Rect } from '../image/rect'
import { planFrame } from '../plan/planFrame'
import type { Clip } from '../shot/clip'
import { readyDigests } from '../shot/digest'
import { createCache } from '../../workers/cache'
import { createRandom } from '../../tests/random'
import { documentOf } from '../../tests/fixtures/sampleDocument'
import { NEVER_STOPS, sourceOfSamples } from '../../tests/fixtures/sampleSource'
import { fillOf, sampleEllipse, sampleMend, samplePath } from '../../tests/fixtures/sampleMend'
import { evaluateFrame } from './evaluateFrame'

beforeAll(readyDigests)

const plate = createSamples(320, 200, 3, 8)
const random = createRandom(2)
for (let i = 0; i < plate.data.length; i++) plate.data[i] = 90 + 80 * Math.sin(i / 700) + 20 * random()

const mendOf = (kind: MendKind): Mend => {
  const area =
    KINDS[kind].shape === 'path'
      ? samplePath({ keys: [{ frame: 1001, points: [{ x: 120, y: 40, widthPx: 6 }, { x: 140, y: 150, widthPx: 6 }] }] }) // prettier-ignore
      : sampleEllipse({ keys: [{ frame: 1001, x: 130, y: 90, radiusXPx: 14, radiusYPx: 10, turnDeg: 0 }] })
  const [fill, finish] = [startingFill(kind), startingFinish(kind)]
  const source = kind === 'patch' ? restingSource({ firstFrame: 1001, lastFrame: 1048 }, { dx: 90, dy: 20, turnDeg: 0, scale: 1 }) : null // prettier-ignore
  return sampleMend({ id: kind, kind, areas: [area], fill, finish, source })
}

/** A clip far away: each frame that is read must have been said before, all of it. */
function farClip() {
  const said = new Map<number, Rect>()
  const unsaid: string[] = []
  let times = 0
  const source = sourceOfSamples(plate)
  const clip: Clip = {
    ...source,
    cache: createCache(),
    prefetch(wanted) {
      times++
      for (const { frame, rect } of wanted) said.set(frame, uniteRects(said.get(frame) ?? rect, rect))
    },
    readRect(frame, rect) {
      const known = said.get(frame)
      const all = known && uniteRects(known, rect)
      if (!known || all!.width > known.width || all!.height > known.height)
        unsaid.push(`${frame} ${JSON.stringify(rect)}`)
      return source.readRect(frame, rect)
    },
  }
  return { clip, unsaid, times: () => times }
}

const across = (): Mend => ({ ...mendOf('wire'), fill: fillOf('across') })

test.each([
  ...(Object.keys(KINDS) as MendKind[]).map((kind) => [kind, () => mendOf(kind)] as const),
  ['wire that is filled across, steadied by frames beside', across] as const,
])('a %s says all that it reads, at once', async (_, mend) => {
  const { clip, unsaid, times } = farClip()
  const { patches } = await evaluateFrame(planFrame(documentOf([mend()]), 1020), clip, NEVER_STOPS)
  expect(patches).toHaveLength(1)
  expect(unsaid).toEqual([])
  expect(times()).toBe(1)
})
