/** Straight views against the published projections and against ffmpeg's filter; what is put back, and what stays. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createSamples, cropSamples, type Samples } from '../image/samples'
import { createRandom } from '../../tests/random'
import { putBack } from './putBack'
import { straighten } from './straighten'
import { NAMED_VIEWS, onAllRound, sizeOfView, ViewMapping, type StraightView } from './straightView'

const SIZE = { width: 512, height: 256 }
const PLATE = { ...SIZE, channels: 3, bitDepth: 8 } as const
const RAD = Math.PI / 180

/** A smooth picture that goes on across the seam and at the poles: sums of waves in space. @param at  Where in a pixel it is looked at. */
function painted(at = 0.5): Samples {
  const out = createSamples(SIZE.width, SIZE.height, 3, 8)
  for (let row = 0; row < SIZE.height; row++)
    for (let col = 0; col < SIZE.width; col++) {
      const [heading, pitch] = [2 * Math.PI * ((col + at) / SIZE.width - 0.5), Math.PI * (0.5 - (row + at) / SIZE.height)] // prettier-ignore
      const [x, y, z] = [Math.sin(heading) * Math.cos(pitch), Math.sin(pitch), Math.cos(heading) * Math.cos(pitch)] // prettier-ignore
      const first = 3 * (row * SIZE.width + col)
      out.data[first] = Math.round(128 + 50 * Math.sin(7 * x + 2) + 30 * Math.cos(9 * z))
      out.data[first + 1] = Math.round(128 + 60 * Math.sin(8 * y) + 30 * Math.cos(5 * x))
      out.data[first + 2] = Math.round(128 + 50 * Math.cos(6 * z - 1) + 40 * Math.sin(7 * y))
    }
  return out
}
const picture = painted()
const read = async (rect: Parameters<typeof cropSamples>[1]) => cropSamples(picture, rect)
const viewOf = (view: StraightView, side = sizeOfView(view, SIZE)) => new ViewMapping(view, side)
const wholeOf = ({ side }: ViewMapping) => ({ col: 0, row: 0, width: side, height: side })

test('the gnomonic projection as published', () => {
  // Snyder 1987, numerical example of the gnomonic projection on a sphere of radius 1: centre 40° N 100° W, the point 30° N 110° W lies
  // at x = −0.1542826, y = −0.1694739. Quoted from memory.
  const mapping = viewOf({ headingDeg: -100, pitchDeg: 40, angleDeg: 90 }, 2000)
  const place = new Float64Array(2)
  const [heading, pitch] = [-110 * RAD, 30 * RAD]
  expect(mapping.placeOf(Math.sin(heading) * Math.cos(pitch), Math.sin(pitch), Math.cos(heading) * Math.cos(pitch), place)).toBe(true) // prettier-ignore
  // Of 90° half the side is one radius.
  expect((place[0]! - 1000) / 1000).toBeCloseTo(-0.1542826, 6)
  expect((1000 - place[1]!) / 1000).toBeCloseTo(-0.1694739, 6)
  // Equations 22-4, 22-5 and 5-3 of the same work, at other places.
  for (const [lat, lon] of [
    [10, -80],
    [75, -120],
    [-5, -140],
    [40, -60],
  ] as const) {
    const [p, l, p1, l0] = [lat * RAD, lon * RAD, 40 * RAD, -100 * RAD]
    const cosc = Math.sin(p1) * Math.sin(p) + Math.cos(p1) * Math.cos(p) * Math.cos(l - l0)
    const x = (Math.cos(p) * Math.sin(l - l0)) / cosc
    const y = (Math.cos(p1) * Math.sin(p) - Math.sin(p1) * Math.cos(p) * Math.cos(l - l0)) / cosc
    mapping.placeOf(Math.sin(l) * Math.cos(p), Math.sin(p), Math.cos(l) * Math.cos(p), place)
    expect((place[0]! - 1000) / 1000).toBeCloseTo(x, 9)
    expect((1000 - place[1]!) / 1000).toBeCloseTo(y, 9)
  }
})

test('the equidistant cylindrical projection: x and y grow as longitude and latitude do', () => {
  // Snyder 1987, equations 12-1 and 12-2 with the equator as standard parallel.
  for (const [lat, lon] of [
    [0, 0],
    [45, 90],
    [-30, -179],
    [89, 10],
  ] as const) {
    const direction = [Math.sin(lon * RAD) * Math.cos(lat * RAD), Math.sin(lat * RAD), Math.cos(lon * RAD) * Math.cos(lat * RAD)] as const // prettier-ignore
    const { x, y } = onAllRound(direction, SIZE)
    expect(x).toBeCloseTo((lon / 360 + 0.5) * 512, 9)
    expect(y).toBeCloseTo((0.5 - lat / 180) * 256, 9)
  }
})

test('there and back, over the seam and the poles', () => {
  const random = createRandom(8)
  const place = new Float64Array(2)
  for (const { headingDeg, pitchDeg } of Object.values(NAMED_VIEWS)) {
    const mapping = viewOf({ headingDeg, pitchDeg, angleDeg: 100 }, 300)
    for (let i = 0; i < 20; i++) {
      const [x, y] = [300 * random(), 300 * random()]
      const [right, up, ahead] = mapping.directionAt(x, y)
      expect(mapping.placeOf(right, up, ahead, place)).toBe(true)
      expect(Math.hypot(place[0]! - x, place[1]! - y)).toBeLessThan(1e-6)
      expect(mapping.placeOf(-right, -up, -ahead, place)).toBe(false)
    }
  }
})

const VIEWS: readonly StraightView[] = [
  { headingDeg: 0, pitchDeg: 0, angleDeg: 90 },
  { headingDeg: 35, pitchDeg: -25, angleDeg: 60 },
  { headingDeg: 178, pitchDeg: 10, angleDeg: 80 },
  { headingDeg: 20, pitchDeg: -90, angleDeg: 90 },
  { headingDeg: 0, pitchDeg: 90, angleDeg: 70 },
]

test('the picture of a view is that of ffmpeg’s filter v360', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'fillagrant-view-'))
  try {
    writeFileSync(join(folder, 'all.rgb'), picture.data)
    const offs: number[] = []
    for (const view of VIEWS) {
      const mapping = viewOf(view)
      const { side } = mapping
      const filter = `v360=input=e:output=flat:yaw=${view.headingDeg}:pitch=${view.pitchDeg}:h_fov=${view.angleDeg}:v_fov=${view.angleDeg}:w=${side}:h=${side}:interp=cubic`
      execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-s', '512x256', '-i', join(folder, 'all.rgb'), '-vf', `format=gbrp,${filter},format=rgb24`, '-f', 'rawvideo', join(folder, 'out.rgb')]) // prettier-ignore
      const theirs = readFileSync(join(folder, 'out.rgb'))
      const { data } = await straighten(mapping, wholeOf(mapping), PLATE, read)
      let sum = 0
      data.forEach((value, i) => (sum += Math.abs(value - theirs[i]!)))
      offs.push(sum / data.length)
    }
    expect(offs.reduce((sum, off) => sum + off) / offs.length).toBeLessThan(1)
    // ffmpeg 5.1 places rows a fraction of a pixel off, which shows most where all columns meet.
    for (const off of offs) expect(off).toBeLessThan(1.5)
  } finally {
    rmSync(folder, { recursive: true })
  }
})

test('a rectangle of a view is a part of the whole of it', async () => {
  for (const view of VIEWS) {
    const mapping = viewOf(view)
    const whole = await straighten(mapping, wholeOf(mapping), PLATE, read)
    const rect = { col: 9, row: 30, width: 40, height: 21 }
    const part = await straighten(mapping, rect, PLATE, read)
    const expected = cropSamples(whole, rect)
    // Places next to the seam are reckoned from another side: their last bit may differ.
    expect(part.data.every((value, i) => Math.abs(value - expected.data[i]!) <= 1)).toBe(true)
  }
})

test('what is put back lies where it was mended; elsewhere every sample stays', async () => {
  for (const view of VIEWS) {
    const mapping = viewOf(view)
    const plate = await straighten(mapping, wholeOf(mapping), PLATE, read)
    const rect = { col: 20, row: 25, width: 31, height: 31 }
    const samples = createSamples(31, 31, 3, 8)
    const before = cropSamples(plate, rect)
    const covered = new Float32Array(31 * 31)
    for (let i = 0; i < covered.length; i++) {
      const away = Math.hypot((i % 31) - 15, Math.floor(i / 31) - 15)
      covered[i] = Math.min(1, Math.max(0, (13 - away) / 3))
      for (let c = 0; c < 3; c++) samples.data[3 * i + c] = Math.round(covered[i]! * [250, 10, 90][c]! + (1 - covered[i]!) * before.data[3 * i + c]!) // prettier-ignore
    }
    const frame = cropSamples(picture, { col: 0, row: 0, ...SIZE })
    const { length: count } = putBack(frame, mapping, { rect, samples, covered }, before)
    expect(count).toBeGreaterThan(100)
    const place = new Float64Array(2)
    let [inside, worst, touched] = [0, 0, 0]
    for (let pixel = 0; pixel < SIZE.width * SIZE.height; pixel++) {
      const [heading, pitch] = [2 * Math.PI * (((pixel % 512) + 0.5) / 512 - 0.5), Math.PI * (0.5 - (Math.floor(pixel / 512) + 0.5) / 256)] // prettier-ignore
      const isBefore = mapping.placeOf(Math.sin(heading) * Math.cos(pitch), Math.sin(pitch), Math.cos(heading) * Math.cos(pitch), place) // prettier-ignore
      const away = isBefore ? Math.hypot(place[0]! - 35.5, place[1]! - 40.5) : Infinity
      for (let c = 0; c < 3; c++) {
        const [now, was] = [frame.data[3 * pixel + c]!, picture.data[3 * pixel + c]!]
        if (away < 9) worst = Math.max(worst, Math.abs(now - [250, 10, 90][c]!))
        else if (away > 15 && now !== was) touched++
      }
      if (away < 9) inside++
    }
    expect(worst).toBeLessThanOrEqual(2)
    expect(touched).toBe(0)
    expect(inside).toBeGreaterThan(50)
  }
})

test('a patch over a whole view reaches every pixel that the view sees', async () => {
  const place = new Float64Array(2)
  for (const view of VIEWS) {
    const mapping = viewOf(view)
    const rect = wholeOf(mapping)
    const samples = createSamples(rect.width, rect.height, 3, 8)
    samples.data.fill(200)
    const before = await straighten(mapping, rect, PLATE, read)
    const frame = cropSamples(picture, { col: 0, row: 0, ...SIZE })
    const covered = new Float32Array(rect.width * rect.height).fill(1)
    const { length: count } = putBack(frame, mapping, { rect, samples, covered }, before)
    let seen = 0
    for (let pixel = 0; pixel < SIZE.width * SIZE.height; pixel++) {
      const [heading, pitch] = [2 * Math.PI * (((pixel % 512) + 0.5) / 512 - 0.5), Math.PI * (0.5 - (Math.floor(pixel / 512) + 0.5) / 256)] // prettier-ignore
      const isBefore = mapping.placeOf(Math.sin(heading) * Math.cos(pitch), Math.sin(pitch), Math.cos(heading) * Math.cos(pitch), place) // prettier-ignore
      if (isBefore && place[0]! >= 0 && place[1]! >= 0 && place[0]! < rect.width && place[1]! < rect.height)
        seen++
    }
    expect(count).toBe(seen)
  }
})

test('a patch that does not tell what it covers is refused', () => {
  const mapping = viewOf(VIEWS[0]!)
  const samples = createSamples(2, 2, 3, 8)
  expect(() => putBack(picture, mapping, { rect: { col: 0, row: 0, width: 2, height: 2 }, samples }, samples)).toThrow(RangeError) // prettier-ignore
})
