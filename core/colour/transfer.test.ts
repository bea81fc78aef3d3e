import { converter } from 'culori'
import { rec709, srgb } from './transfer'

// IEC 61966-2-1:1999, 5.2: the curve's two pieces meet at 0.0031308 linear, 0.04045 encoded.
// Half-light and mid-code values computed from the standard's formula.
test.each([
  [0, 0],
  [0.0031308, 0.04045],
  [0.18, 0.461356],
  [0.214041, 0.5],
  [0.5, 0.735357],
  [1, 1],
])('sRGB: light %f is code %f', (linear, encoded) => {
  expect(srgb.encode(linear)).toBeCloseTo(encoded, 5)
  expect(srgb.decode(encoded)).toBeCloseTo(linear, 5)
})

test('sRGB agrees with an independent library', () => {
  const toLinear = converter('lrgb')
  for (let code = 0; code <= 255; code++) {
    const value = code / 255
    expect(srgb.decode(value)).toBeCloseTo(toLinear({ mode: 'rgb', r: value, g: value, b: value }).r, 6)
  }
})

// ITU-R BT.709-6, item 1.2: 4.5 L below 0.018, 1.099 L^0.45 − 0.099 above.
test.each([
  [0, 0],
  [0.01, 0.045],
  [0.018, 0.081],
  [0.18, 0.409007],
  [0.5, 0.705515],
  [1, 1],
])('Rec. 709: light %f is code %f', (linear, encoded) => {
  expect(rec709.encode(linear)).toBeCloseTo(encoded, 3)
  expect(rec709.decode(encoded)).toBeCloseTo(linear, 3)
})

test('there and back returns, also below black and above white', () => {
  for (const curve of [srgb, rec709])
    for (let i = -20; i <= 60; i++) expect(curve.decode(curve.encode(i / 20))).toBeCloseTo(i / 20, 10)
})
