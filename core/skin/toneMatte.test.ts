/** Tones learnt from made-up faces: any complexion, any light. Generated skins only report: no constant was set on them. */
import { FACE, LIGHTS, paintedFace, partAt, SKINS } from '../../tests/fixtures/paintedFace'
import { BARE, NOT_SKIN, readPortrait } from '../../tests/fixtures/portrait'
import { flattenEllipse } from '../geometry/outline'
import { insidePolygon } from '../geometry/polygon'
import { blueDifference, brightnessOf, redDifference } from '../colour/ycc'
import { learnTone, offFrom, PUBLISHED_RANGE, squareOf, type Tone } from './tone'
import { BRIGHTER, FULL, grownMatte, RAMP, toneMatte, toneShares } from './toneMatte'

const only = (own: Tone) => ({ own, added: [], taken: [] })
const WIDTHS = { hue: 1, colour: 1, brightness: 1 }
/** Drawn by hand, a little too large. */
const everyPixel = Array.from({ length: FACE.width * FACE.height }, (_, pixel) => pixel)
const inFace = everyPixel.filter((pixel) => {
  const [x, y] = [pixel % FACE.width, Math.floor(pixel / FACE.width)]
  return ((x - FACE.x) / (FACE.radiusX + 5)) ** 2 + ((y - FACE.y) / (FACE.radiusY + 6)) ** 2 < 1
})

function sharesOf(matte: Float32Array) {
  const [covered, asked] = [
    { skin: 0, rest: 0 },
    { skin: 0, rest: 0 },
  ]
  matte.forEach((one, at) => {
    const [x, y] = [at % FACE.width, Math.floor(at / FACE.width)]
    // Places at an edge belong to both sides.
    if ([-2, 2].some((off) => partAt(x + off, y) !== partAt(x, y) || partAt(x, y + off) !== partAt(x, y)))
      return
    const part = partAt(x, y) === 'skin' ? 'skin' : 'rest'
    asked[part]++
    if (one >= 0.5) covered[part]++
  })
  return { skin: covered.skin / asked.skin, rest: covered.rest / asked.rest }
}

const cases = SKINS.flatMap(([name, l, a, b]) =>
  LIGHTS.map(([light, gains]) => [name, light, [l, a, b], gains] as const),
)
test.each(cases)('%s skin by %s light', (_name, _light, skin, gains) => {
  const face = paintedFace(skin, gains)
  const tone = learnTone(face, inFace)!
  const { skin: covered, rest } = sharesOf(toneMatte(face, only(tone), WIDTHS))
  expect(covered).toBeGreaterThan(0.9)
  expect(rest).toBeLessThan(0.05)
})

test('a tone that is known is found again when the light changes', () => {
  const [, l, a, b] = SKINS[2]
  const known = learnTone(paintedFace([l, a, b], [1, 1, 1]), inFace)!
  const flared = paintedFace([l, a, b], [1.35, 1.15, 0.9])
  const { skin, rest } = sharesOf(toneMatte(flared, only(learnTone(flared, inFace, known)!), WIDTHS))
  expect(skin).toBeGreaterThan(0.9)
  expect(rest).toBeLessThan(0.05)
})

test('wider takes in more, narrower less', () => {
  const face = paintedFace([62, 11, 18], [1, 1, 1])
  const tone = learnTone(face, inFace)!
  const sum = (widths: typeof WIDTHS) =>
    toneMatte(face, only(tone), widths).reduce((all, one) => all + one, 0)
  const usual = sum(WIDTHS)
  for (const axis of ['hue', 'colour', 'brightness'] as const) {
    expect(sum({ ...WIDTHS, [axis]: 2 })).toBeGreaterThanOrEqual(usual)
    expect(sum({ ...WIDTHS, [axis]: 0.4 })).toBeLessThanOrEqual(usual)
  }
  expect(sum({ hue: 0.1, colour: 0.1, brightness: 0.1 })).toBeLessThan(0.9 * usual)
})

/** Chai and Ngan 1999: skin lies within; a wall of grey-blue does not. */
test('the published range holds a daylight skin', () => {
  const face = paintedFace([62, 11, 18], [1, 1, 1])
  const tone = learnTone(face, inFace)!
  const [blue, red] = [255 * tone.blue + 128, 255 * tone.red + 128]
  expect(blue).toBeGreaterThan(PUBLISHED_RANGE.blue[0])
  expect(blue).toBeLessThan(PUBLISHED_RANGE.blue[1])
  expect(red).toBeGreaterThan(PUBLISHED_RANGE.red[0])
  expect(red).toBeLessThan(PUBLISHED_RANGE.red[1])
})

test('too few pixels, or no colours, tell no tone', () => {
  const face = paintedFace([62, 11, 18], [1, 1, 1])
  expect(learnTone(face, everyPixel.slice(0, 20))).toBeNull()
  expect(learnTone({ ...face, channels: 1, width: 3 * face.width }, everyPixel)).toBeNull()
})

test('the kernel tells for each pixel what the distance from the tone says', () => {
  const face = paintedFace([47, 12, 17], [1.15, 1, 0.78])
  const tone = learnTone(face, inFace)!
  const widths = { hue: 1.3, colour: 0.8, brightness: 0.7 }
  const { guide, shares } = toneShares(face, only(tone), widths)
  for (let at = 0; at < shares.length; at += 7) {
    const [red, green, blue] = face.data.subarray(3 * at, 3 * at + 3) as unknown as [number, number, number]
    const brightness = brightnessOf(red, green, blue)
    const off = offFrom(tone, brightness, blueDifference(blue, brightness), redDifference(red, brightness))
    const { deviations } = tone
    const away = squareOf(off, {
      brightness: widths.brightness * deviations.brightness * (off.brightness > 0 ? BRIGHTER : 1),
      colour: widths.colour * deviations.colour,
      hue: widths.hue * deviations.hue,
    })
    expect(guide[at]).toBeCloseTo(brightness, 5)
    expect(shares[at]).toBeCloseTo(Math.min(1, Math.max(0, 1 - (Math.sqrt(away) - FULL) / (RAMP * FULL))), 3)
  }
})

/** A person on a photograph: scikit-image's sample portrait, regions drawn by hand. */
test('a portrait: bare skin is covered; hair, wall, suit and teeth are not', () => {
  const portrait = readPortrait()
  const face = [178, 92, 200, 76, 245, 80, 268, 100, 264, 140, 240, 170, 215, 174, 190, 150]
  const inside: number[] = []
  for (let at = 0; at < portrait.width * portrait.height; at++)
    if (insidePolygon(face, (at % portrait.width) + 0.5, Math.floor(at / portrait.width) + 0.5))
      inside.push(at)
  const matte = toneMatte(portrait, only(learnTone(portrait, inside)!), WIDTHS)
  const shareIn = (polygon: readonly number[]) => {
    let [sum, count] = [0, 0]
    matte.forEach((share, at) => {
      if (!insidePolygon(polygon, (at % portrait.width) + 0.5, Math.floor(at / portrait.width) + 0.5)) return
      sum += share >= 0.5 ? 1 : 0
      count++
    })
    return sum / count
  }
  const discs = BARE.map(([x, y, radius]) => flattenEllipse(x, y, radius, radius, 0))
  expect(Math.min(...discs.map(shareIn))).toBeGreaterThan(0.9)
  const rest = Object.values(NOT_SKIN).map(shareIn)
  expect(Math.max(...rest)).toBeLessThan(0.05)
})

test('a tone that is added is skin too; what lies nearer to one that is taken away is none', () => {
  const face = paintedFace([62, 11, 18], [1, 1, 1])
  const own = learnTone(face, inFace)!
  const lips = everyPixel.filter(
    (pixel) => partAt(pixel % FACE.width, Math.floor(pixel / FACE.width)) === 'lips',
  )
  const cheeks = everyPixel.filter(
    (pixel) => partAt(pixel % FACE.width, Math.floor(pixel / FACE.width)) === 'skin',
  )
  const lipTone = learnTone(face, lips)!
  const mean = (tones: Parameters<typeof toneShares>[1], where: number[]) => {
    const { shares } = toneShares(face, tones, WIDTHS)
    return where.reduce((sum, at) => sum + shares[at]!, 0) / where.length
  }
  const [plain, added] = [only(own), { own, added: [lipTone], taken: [] }]
  expect(mean(plain, lips)).toBeLessThan(0.2)
  expect(mean(added, lips)).toBeGreaterThan(0.9)
  const taken = { ...added, taken: [lipTone] }
  expect(mean(taken, lips)).toBeLessThan(0.6)
  expect(mean({ ...plain, taken: [lipTone] }, lips)).toBeLessThan(0.05)
  expect(mean({ ...plain, taken: [lipTone] }, cheeks)).toBeGreaterThan(0.95 * mean(plain, cheeks))
})

test('a matte grows and is pulled in by so many px, parts of a px too; softer edges go further', () => {
  const [width, height, radius] = [40, 40, 10]
  const disc = Float32Array.from({ length: width * height }, (_, at) =>
    Math.max(Math.abs((at % width) - 20), Math.abs(Math.floor(at / width) - 20)) <= radius ? 1 : 0,
  )
  const reachOf = (growPx: number) => {
    const grown = grownMatte(disc, width, height, growPx)
    let reach = 0
    for (let x = 20; x < width; x++) reach += grown[20 * width + x]!
    return reach - 1
  }
  expect(reachOf(0)).toBe(radius)
  expect(reachOf(3)).toBe(radius + 3)
  expect(reachOf(-4)).toBe(radius - 4)
  expect(reachOf(2.5)).toBeCloseTo(radius + 2.5, 5)
  const face = paintedFace([62, 11, 18], [1, 1, 1])
  const tones = only(learnTone(face, inFace)!)
  const sum = (softness: number) => toneShares(face, tones, { hue: 0.5, colour: 0.5, brightness: 0.5, softness }).shares.reduce((all, one) => all + one, 0) // prettier-ignore
  expect(sum(3)).toBeGreaterThan(sum(1))
})
