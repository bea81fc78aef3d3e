import { parseDocument, serialiseDocument, type MendDocument } from './document'
import type { PathArea } from './areas'
import { sampleMend } from '../../tests/fixtures/sampleMend'

const plate = {
  name: 'plate',
  width: 100,
  height: 60,
  firstFrame: 1001,
  frameCount: 48,
  frameRate: { num: 24, den: 1 },
}
const document: MendDocument = {
  format: 'fillagrant-mends',
  version: 4,
  plate,
  mends: [sampleMend()],
  tracks: [],
}
const pathOf = (d: MendDocument) => d.mends[0]!.areas[0] as PathArea
const reasonOf = (text: string) => {
  const result = parseDocument(text)
  return result.ok ? null : `${result.reason}: ${result.detail}`
}
const changed = (change: (value: never) => void) => {
  const copy = structuredClone(document)
  change(copy as never)
  return JSON.stringify(copy)
}

test('what is written is read back', () =>
  expect(parseDocument(serialiseDocument(document))).toEqual({ ok: true, document }))

test('each mistake is named, with its place', () => {
  expect(reasonOf('hello')).toMatch(/^not-json: .*Export the mends again/)
  expect(reasonOf('{"a":1}')).toMatch(/^not-a-document/)
  expect(reasonOf(changed((d: { version: number }) => (d.version = 7)))).toMatch(
    /^wrong-version: It has version 7; this program reads versions 1, 2, 3/,
  )
  expect(reasonOf(serialiseDocument(document).replace('"x": 40', '"x": NaN'))).toMatch(/^not-json/)
  expect(
    reasonOf(changed((d: MendDocument) => Object.assign(pathOf(d).keys[0]!.points[0]!, { widthPx: 9e9 }))),
  ).toMatch(/mends\.0\.areas\.0\.keys\.0\.points\.0\.widthPx/)
  expect(reasonOf(changed((d: MendDocument) => Object.assign(d.mends[0]!.finish, { strength: 2 })))).toMatch(
    /finish\.strength/,
  )
  expect(
    reasonOf(changed((d: MendDocument) => Object.assign(d.mends[0]!.fill, { methodId: 'magic' }))),
  ).toMatch(/no fill is called "magic"/)
  expect(
    reasonOf(changed((d: MendDocument) => Object.assign(d.mends[0]!.fill.params, { reachPx: -4 }))),
  ).toMatch(/fill\.params\.reachPx/)
  expect(reasonOf(changed((d: MendDocument) => Object.assign(d.mends[0]!, { extra: 1 })))).toMatch(/extra/)
  expect(reasonOf(changed((d: { mends: unknown[] }) => d.mends.push(d.mends[0])))).toMatch(/used twice/)
  expect(reasonOf(changed((d: MendDocument) => pathOf(d).keys.push(pathOf(d).keys[0]!)))).toMatch(
    /rising order/,
  )
})
