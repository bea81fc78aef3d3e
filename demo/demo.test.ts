import { execFile } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import sharp from 'sharp'
import { FILM, findShot } from './film'
import { createSurvey } from '../core/survey/survey'
import { buildPrograms } from '../tests/builtPrograms'
import { CAMERA, shootCovered } from './camera'
import { createRandom } from './random'
import { filmGrain } from './shot'
import { LM_010, momentAt, mothPoint } from './lm010/scene'
import { CLAMP, LM_020, momentAt as momentAt020 } from './lm020/scene'
import { LAST_SHADED, LM_030, momentAt as craneAt, strengthAt } from './lm030/scene'
import { BLEMISHES, FLARE, LM_050, momentAt as headAt, placeOnHead } from './lm050/scene'
import { LM_070, momentAt as stagehandAt } from './lm070/scene'
import { BOLLARD_FOOT, floorRateAt, LM_080, momentAt as bollardAt, RATES } from './lm080/scene'
import { WALL_FOOT } from './arcade/paint'
import { MOTH } from './lm010/paint'

test('the same seed gives the same numbers', () => {
  const [a, b] = [createRandom(7), createRandom(7)]
  expect(Array.from({ length: 5 }, a)).toEqual(Array.from({ length: 5 }, b))
  expect(createRandom(8)()).not.toBe(createRandom(7)())
})

test('threads run from above the frame to the wing tips, 4 to 9 px wide, on every frame', () => {
  for (let frame = LM_010.firstFrame; frame < LM_010.firstFrame + LM_010.frameCount; frame++) {
    const { threads, moth } = momentAt(frame)
    for (const { points, contact, name } of threads) {
      expect(points[0]!.y).toBeLessThan(0)
      expect(points.at(-1)).toMatchObject(contact)
      expect(contact).toEqual(mothPoint(moth, name === 'left' ? MOTH.leftTip : MOTH.rightTip))
      for (const point of points) expect(point.widthPx >= 4 && point.widthPx <= 9).toBe(true)
    }
  }
})

test('the crane’s shadow lies inside its outline, and in the picture up to the frame that is said to be the last', () => {
  for (let frame = LM_030.firstFrame; frame < LM_030.firstFrame + LM_030.frameCount; frame++) {
    const { shadow, outline } = craneAt(frame)
    let [inPicture, outside] = [0, 0]
    for (let y = 0.5; y < LM_030.height; y += 6) {
      for (let x = 0.5; x < LM_030.width; x += 6) {
        if (strengthAt(shadow, x, y) === 0) continue
        inPicture++
        if (!isInside(outline, x, y)) outside++
      }
    }
    // Of the last frame only a few pixels are left, between those that are looked at.
    if (frame < LAST_SHADED) expect(inPicture).toBeGreaterThan(0)
    if (frame > LAST_SHADED) expect(inPicture).toBe(0)
    expect(outside).toBe(0)
  }
})

/** By the even-odd rule. */
function isInside(polygon: readonly number[], x: number, y: number): boolean {
  let inside = false
  for (let i = 0, j = polygon.length - 2; i < polygon.length; j = i, i += 2) {
    const [ax, ay, bx, by] = [polygon[j]!, polygon[j + 1]!, polygon[i]!, polygon[i + 1]!]
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) inside = !inside
  }
  return inside
}

/** Where the tests' own film lies, once it is made. */
const MADE = '.data/test-demo'

/** The trouble is in the picture on this frame, counted from 0. */
const SHARE = 20

/** One of each way of painting: a set by its layers, a surface that turns, an all-round picture. What the others are made of is the same. */
const PAINTED_AGAIN: ReadonlySet<string> = new Set(['LM_010', 'LM_050', 'LM_090'])

let programs: ReturnType<typeof buildPrograms>
beforeAll(() => void (programs = buildPrograms()))
afterAll(() => programs.remove())

test('nothing in the film hangs on chance or the clock: all of it comes from seeds', () => {
  const files = readdirSync('demo', { recursive: true, encoding: 'utf8' }).filter(
    (name) => name.endsWith('.ts') && !name.endsWith('.test.ts'),
  )
  expect(files.length).toBeGreaterThan(20)
  for (const name of files)
    expect(`${name}: ${/Math\.random|Date\.now|new Date|performance\.now|randomUUID/.exec(readFileSync(join('demo', name), 'utf8'))?.[0] ?? 'nothing'}`).toBe(`${name}: nothing`) // prettier-ignore
})

test.each(FILM)(
  '$description.name: plate and truth differ inside the matte and nowhere else; one that is painted again has the same bytes',
  async ({ description }) => {
    const { name: shot, firstFrame } = description
    const folder = mkdtempSync(join(tmpdir(), 'demo-'))
    try {
      // In processes of their own, as the film is made; where it is made already, beside that.
      const made = join(MADE, shot)
      const isMade = existsSync(join(made, 'plate', `${shot}.${firstFrame + SHARE}.png`))
      const names = !isMade ? ['a', 'b'] : PAINTED_AGAIN.has(shot) ? ['a'] : []
      const runs = names.map((name) => {
        for (const kind of ['plate', 'truth', 'truth-without-grain', 'matte'])
          mkdirSync(join(folder, name, kind), { recursive: true })
        return promisify(execFile)(process.execPath, [
          programs.path('paintShare'),
          shot,
          join(folder, name),
          ...[firstFrame + SHARE, firstFrame + SHARE, 1].map(String),
        ])
      })
      await Promise.all(runs)
      const file = (name: string, kind: string) =>
        join(names.includes(name) ? join(folder, name) : made, kind, `${shot}.${firstFrame + SHARE}.png`)
      const [plate, truth, matte] = await Promise.all(
        ['plate', 'truth', 'matte'].map((kind) =>
          sharp(file('a', kind)).raw().toBuffer({ resolveWithObject: true }),
        ),
      )
      expect(plate!.info).toMatchObject({ width: description.width, height: description.height, channels: 3 })
      let [inside, outside] = [0, 0]
      for (let i = 0; i < plate!.data.length; i++) {
        if (plate!.data[i] === truth!.data[i]) continue
        if (matte!.data[Math.floor(i / 3) * matte!.info.channels]! > 0) inside++
        else outside++
      }
      expect(outside).toBe(0)
      expect(inside).toBeGreaterThan(5000)
      if (names.length === 0) return
      for (const kind of ['plate', 'truth', 'truth-without-grain', 'matte'])
        expect(readFileSync(file('b', kind)).equals(readFileSync(file('a', kind)))).toBe(true)
    } finally {
      rmSync(folder, { recursive: true })
    }
  },
)

describe('LM_020', () => {
  const moments = Array.from({ length: LM_020.frameCount }, (_, i) => momentAt020(LM_020.firstFrame + i))
  const boundsOf = (outline: readonly number[]) => {
    const [xs, ys] = [0, 1].map((axis) => outline.filter((_, i) => i % 2 === axis))
    return {
      left: Math.min(...xs!),
      right: Math.max(...xs!),
      top: Math.min(...ys!),
      bottom: Math.max(...ys!),
    }
  }

  test('the cart rocks a little, the rod goes with it and stays on the ground', () => {
    const [first] = moments
    for (const { cart, rod } of moments) {
      expect(Math.hypot(cart.x, cart.y)).toBeLessThan(4)
      expect(rod.to).toEqual(first!.rod.to)
      expect(rod.from.x - cart.x).toBeCloseTo(first!.rod.from.x - first!.cart.x, 9)
      expect(rod.widthPx).toBe(24)
    }
    const swing = moments.map(({ cart }) => cart.x)
    expect(Math.max(...swing) - Math.min(...swing)).toBeGreaterThan(4)
  })

  test('the banner comes in, passes in front of the clamp for part of the shot, and leaves', () => {
    const clamp = boundsOf(CLAMP.outline)
    const crosses = moments.map(({ banner }) => {
      const bounds = boundsOf(banner)
      return (
        bounds.left < clamp.right &&
        bounds.right > clamp.left &&
        bounds.top < clamp.bottom &&
        bounds.bottom > clamp.top
      )
    })
    expect(boundsOf(moments[0]!.banner).left).toBeGreaterThan(LM_020.width)
    expect(crosses.filter(Boolean).length).toBeGreaterThan(12)
    expect(crosses.filter((one) => !one).length).toBeGreaterThan(6)
    expect(crosses.at(-1)).toBe(false)
  })

  test('the outline round the clamp stays in the picture and round its middle', () => {
    const bounds = boundsOf(CLAMP.outline)
    expect(
      bounds.left > 0 && bounds.top > 0 && bounds.right < LM_020.width && bounds.bottom < LM_020.height,
    ).toBe(true)
    expect(
      CLAMP.x > bounds.left && CLAMP.x < bounds.right && CLAMP.y > bounds.top && CLAMP.y < bounds.bottom,
    ).toBe(true)
  })
})

describe('LM_050', () => {
  const moments = Array.from({ length: LM_050.frameCount }, (_, i) => headAt(LM_050.firstFrame + i))

  test('the head turns there and back; eight blemishes are always in sight, the ninth is not while it is turned away', () => {
    const turns = moments.map(({ head }) => head.turnRad)
    expect(Math.max(...turns) - Math.min(...turns)).toBeGreaterThan(0.5)
    expect(turns.at(-1)).toBeCloseTo(turns[0]!, 6)
    const facings = BLEMISHES.map((_, i) => moments.map(({ blemishes }) => blemishes[i]!.facing))
    for (const facing of facings.slice(0, 8)) expect(Math.min(...facing)).toBeGreaterThan(0.2)
    const ninth = facings[8]!
    expect([ninth[0]! > 0.3, Math.min(...ninth) < 0, ninth.at(-1)! > 0.3]).toEqual([true, true, true])
  })

  test('a place of the chart lies on the head, which does not change its shape', () => {
    const { head } = moments[7]!
    const [left, right, top, bottom] = [[-1, 0], [1, 0], [0, -1], [0, 1]].map(([u, v]) => placeOnHead({ ...head, turnRad: 0 }, u!, v!)) // prettier-ignore
    expect([left!.facing, top!.facing].map((one) => Math.abs(one) < 1e-9)).toEqual([true, true])
    expect(right!.x - left!.x).toBeCloseTo(2 * 212, 6)
    expect(bottom!.y - top!.y).toBeCloseTo(2 * 276, 6)
  })

  test('the lamp burns evenly, flares once, and burns warmer and brighter from then on', () => {
    const lamps = moments.map(({ lamp }) => lamp)
    const before = lamps.slice(0, FLARE.from - LM_050.firstFrame)
    const after = lamps.slice(FLARE.until - LM_050.firstFrame)
    for (const lamp of before) expect(lamp).toEqual(before[0])
    for (const lamp of after) expect(lamp).toEqual(after[0])
    expect(after[0]![0]).toBeGreaterThan(1.2 * before[0]![0])
    expect(after[0]![0] / after[0]![2]).toBeGreaterThan(1.2 * (before[0]![0] / before[0]![2]))
    expect(Math.max(...lamps.map(([red]) => red))).toBeGreaterThan(1.1 * after[0]![0])
  })
})

describe('the arcade', () => {
  const frames = Array.from({ length: LM_070.frameCount }, (_, i) => LM_070.firstFrame + i)
  const insideOf = (outline: readonly number[], x: number) => {
    const xs = outline.filter((_, i) => i % 2 === 0)
    return x > Math.min(...xs) && x < Math.max(...xs)
  }

  test('every part of it is bare on at least a third of the frames of LM_070, and the stagehand is on most of them', () => {
    const moments = frames.map(stagehandAt)
    for (let x = 0; x < LM_070.width; x += 8) {
      expect(moments.filter(({ figure }) => !insideOf(figure.outline, x)).length).toBeGreaterThan(
        frames.length / 3,
      )
    }
    expect(moments.filter(({ figure }) => figure.x > 0 && figure.x < LM_070.width).length).toBeGreaterThan(
      frames.length * 0.7,
    )
  })

  test('its lamps flicker by more than grain from frame to frame', () => {
    const lamps = frames.map((frame) => stagehandAt(frame).lamp)
    const steps = lamps.slice(1).map((lamp, i) => Math.abs(lamp - lamps[i]!))
    expect(steps.reduce((sum, step) => sum + step, 0) / steps.length).toBeGreaterThan(0.05)
    for (const lamp of lamps) expect(lamp > 0.7 && lamp < 1.3).toBe(true)
  })

  test('what is nearer passes faster in LM_080: wall, columns, bollard; the floor joins them', () => {
    const [first, last] = [bollardAt(LM_080.firstFrame), bollardAt(LM_080.firstFrame + LM_080.frameCount - 1)]
    const gone = (of: (moment: typeof first) => number) => of(first) - of(last)
    const [wall, columns, bollard] = [
      gone((one) => one.layers.wall.x),
      gone((one) => one.layers.columns.x),
      gone((one) => one.bollard.x),
    ]
    expect(wall).toBeGreaterThan(150)
    expect(columns / wall).toBeCloseTo(RATES.columns, 1)
    expect(bollard / wall).toBeCloseTo(RATES.bollard, 1)
    expect(columns).toBeGreaterThan(wall + 50)
    expect(bollard).toBeGreaterThan(columns + 80)
    expect(floorRateAt(WALL_FOOT)).toBeCloseTo(1, 9)
    expect(floorRateAt(BOLLARD_FOOT)).toBeCloseTo(RATES.bollard, 9)
  })
})

test('the simulated camera shoots with its lens covered: the survey finds every pixel that shines, with its class, and nothing else', () => {
  const { width, height, pixels } = CAMERA
  const survey = createSurvey({ width, height, channels: 3 }, 1001)
  for (let frame = 1001; frame < 1007; frame++)
    survey.add({ width, height, channels: 3, data: shootCovered(frame) })
  const { finds, rest } = survey.finish().survey
  expect(rest).toBe('covered')
  const shining = pixels.filter(({ fault }) => fault !== 'dead') // black on black is not to be seen
  expect(
    finds
      .map((find) => [find.kind === 'pixel' && find.class, Math.floor(find.x), Math.floor(find.y)].join(' '))
      .sort(),
  ).toEqual(shining.map(({ fault, col, row }) => [fault, col, row].join(' ')).sort())
})

describe('grain of the film', () => {
  test('has deviation 1 at every coarseness; coarse grain resembles its neighbours as the blur of white noise must', () => {
    const size = { width: 160, height: 160 }
    for (const coarsePx of [0, 0.55, 1]) {
      const grain = filmGrain(5, 1001, size, coarsePx)
      let [square, beside] = [0, 0]
      for (let row = 8; row < 152; row++) {
        for (let col = 8; col < 152; col++) {
          const at = (row * 160 + col) * 3
          square += grain[at]! ** 2
          beside += grain[at]! * grain[at + 3]!
        }
      }
      expect(Math.sqrt(square / 144 ** 2)).toBeCloseTo(1, 1)
      // White noise through taps t has the autocorrelation sum(t[i] t[i+1]) / sum(t[i]^2) at lag 1.
      const taps = Array.from({ length: 9 }, (_, i) =>
        coarsePx === 0 ? Number(i === 4) : Math.exp(-((i - 4) ** 2) / (2 * coarsePx ** 2)),
      )
      const expected =
        taps.reduce((sum, tap, i) => sum + tap * (taps[i + 1] ?? 0), 0) /
        taps.reduce((sum, tap) => sum + tap * tap, 0)
      expect(Math.abs(beside / square - expected)).toBeLessThan(0.03)
    }
  })

  test('a frame has other grain than the next, and the same again from the same seed', () => {
    const size = { width: 32, height: 8 }
    expect(filmGrain(5, 1001, size)).toEqual(filmGrain(5, 1001, size))
    expect(filmGrain(5, 1001, size)).not.toEqual(filmGrain(5, 1002, size))
  })
})

test('a shot that the film does not have is refused by name', () => {
  expect(findShot('LM_020').description.title).toBe('The tin handcart')
  expect(() => findShot('LM_999')).toThrow(/no shot "LM_999"/)
})
