/** Tones learnt from a made-up face in two lights. */
import { FACE, paintedFace, partAt } from '../../tests/fixtures/paintedFace'
import { documentOf } from '../../tests/fixtures/sampleDocument'
import { fillOf, sampleEllipse, sampleMend } from '../../tests/fixtures/sampleMend'
import { NEVER_STOPS, sourceOfSamples } from '../../tests/fixtures/sampleSource'
import { samplesFromRaster } from '../image/samples'
import { findLightChanges, learnToneOf } from './learnTones'

const SKIN = [62, 11, 18] as const
const [day, lamp] = [paintedFace(SKIN, [1, 1, 1]), paintedFace(SKIN, [1.3, 1.1, 0.85])]
const [FIRST, LAST, CHANGED] = [1001, 1010, 1006]
const clip = sourceOfSamples((frame) => samplesFromRaster(frame < CHANGED ? day : lamp, 8))
const area = sampleEllipse({
  keys: [{ frame: FIRST, x: FACE.x, y: FACE.y, radiusXPx: FACE.radiusX + 4, radiusYPx: FACE.radiusY + 4, turnDeg: 0 }], // prettier-ignore
})
const span = { firstFrame: FIRST, lastFrame: LAST }
const mendWith = (params: Record<string, unknown> = {}) => {
  const fill = fillOf('even-skin')
  return sampleMend({ id: 'skin', kind: 'skin', areas: [area], span, fill: { ...fill, params: { ...fill.params, radiusPx: 12, ...params } } }) // prettier-ignore
}
const documentWith = (params?: Record<string, unknown>) =>
  documentOf([mendWith(params)], new Map(), { ...span, width: FACE.width, height: FACE.height })

test('the light changes at one frame: learnt before and after, nothing changes any more', async () => {
  const changes = (await findLightChanges(documentWith(), 'skin', clip, NEVER_STOPS))!
  expect(changes.map(({ from, to }) => [from.frame, to.frame])).toEqual([[CHANGED - 1, CHANGED]])
  const tones = changes
    .flatMap(({ from, to }) => [from, to])
    .map((at) => ({ use: 'learnt', beside: null, ...at }))
  expect(await findLightChanges(documentWith({ tones }), 'skin', clip, NEVER_STOPS)).toEqual([])
  expect(await findLightChanges(documentWith(), 'skin', clip, { shouldStop: () => true })).toBeNull()
})

test('lips are another tone than the skin; nothing is learnt from nothing', async () => {
  const document = documentWith()
  const own = (await learnToneOf(
    document,
    { mendId: 'skin', frame: FIRST, use: 'learnt', disc: null },
    clip,
  ))!
  let [x, y, count] = [0, 0, 0]
  for (let at = 0; at < FACE.width * FACE.height; at++) {
    const [col, row] = [at % FACE.width, Math.floor(at / FACE.width)]
    if (partAt(col, row) !== 'lips') continue
    x += col + 0.5
    y += row + 0.5
    count++
  }
  const disc = { x: x / count, y: y / count, radiusPx: 4 }
  const lips = (await learnToneOf(document, { mendId: 'skin', frame: FIRST, use: 'added', disc }, clip))!
  expect(lips.beside).toEqual(own.tone)
  expect(lips.tone.red).toBeGreaterThan(own.tone.red + 0.02)
  expect(
    await learnToneOf(
      document,
      { mendId: 'skin', frame: FIRST, use: 'added', disc: { ...disc, radiusPx: 1 } },
      clip,
    ),
  ).toBeNull()
  expect(
    await learnToneOf(document, { mendId: 'nobody', frame: FIRST, use: 'learnt', disc: null }, clip),
  ).toBeNull()
})
