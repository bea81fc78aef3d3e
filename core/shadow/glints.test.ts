import { glintsOf } from './glints'

const [WIDTH, HEIGHT] = [60, 50]
const pixels = Int32Array.from({ length: WIDTH * HEIGHT }, (_, at) => at)
const places = { width: WIDTH, height: HEIGHT, colours: 1, pixels }
const MISSING = 0.6
const lit = new Float32Array(pixels.length).fill(0.3)
const everywhere = new Uint8Array(pixels.length).fill(1)
/** Ground in the shadow, and something that shines as much lit as not. */
const ownWith = (isBright: (x: number, y: number) => boolean) =>
  Float32Array.from(pixels, (at) =>
    isBright(at % WIDTH, Math.floor(at / WIDTH)) ? 0.3 : 0.3 * (1 - MISSING),
  )
const countIn = (own: Float32Array, isLit = everywhere) =>
  glintsOf(own, lit, isLit, places).reduce((sum, one) => sum + one, 0)

test('small places that shine are glints; plain ground is none, nor where nothing was seen lit', () => {
  const specks = ownWith((x, y) => x % 12 < 2 && y % 12 < 2)
  expect(countIn(specks)).toBe(specks.filter((light) => light > 0.2).length)
  expect(countIn(ownWith(() => false))).toBe(0)
  expect(
    countIn(
      specks,
      everywhere.map(() => 0),
    ),
  ).toBe(0)
})

test('somebody in a white shirt is no glint but for a rim', () => {
  const shirt = ownWith((x, y) => x > 15 && x < 45 && y > 10 && y < 40)
  expect(countIn(shirt)).toBeLessThan(0.1 * shirt.filter((light) => light > 0.2).length)
})

test('grain that was raised is no glint', () => {
  const grainy = ownWith(() => false).map(
    (light, at) => light * (1 + 0.12 * Math.sin(at * 12.9898) * Math.cos(at * 78.233)),
  )
  expect(countIn(Float32Array.from(grainy))).toBe(0)
})

test('a shadow’s own sharp edge is no glint', () => {
  const edge = ownWith((x) => x >= 30)
  expect(countIn(edge)).toBe(0)
  const corner = ownWith((x, y) => x >= 30 || y >= 25)
  expect(countIn(corner)).toBe(0)
})
