import { execFile } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import sharp from 'sharp'
import { createRandom } from './random'
import { LM_010, momentAt, mothPoint } from './lm010/scene'
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

test('plate and truth differ inside the matte and nowhere else; painted again, a frame has the same bytes', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'demo-'))
  try {
    // In processes of their own, as the film is made.
    const runs = ['a', 'b'].map((name) => {
      for (const kind of ['plate', 'truth', 'truth-without-grain', 'matte']) mkdirSync(join(folder, name, kind), { recursive: true })
      return promisify(execFile)(process.execPath, ['--import', 'tsx', 'demo/paintShare.ts', join(folder, name), '0', String(LM_010.frameCount)])
    })
    await Promise.all(runs)
    const file = (name: string, kind: string) => join(folder, name, kind, `${LM_010.name}.${LM_010.firstFrame}.png`)
    const [plate, truth, matte] = await Promise.all(
      ['plate', 'truth', 'matte'].map((kind) => sharp(file('a', kind)).raw().toBuffer({ resolveWithObject: true })),
    )
    let [inside, outside] = [0, 0]
    for (let i = 0; i < plate!.data.length; i++) {
      if (plate!.data[i] === truth!.data[i]) continue
      if (matte!.data[Math.floor(i / 3) * matte!.info.channels]! > 0) inside++
      else outside++
    }
    expect(outside).toBe(0)
    expect(inside).toBeGreaterThan(5000)
    for (const kind of ['plate', 'truth', 'truth-without-grain', 'matte'])
      expect(readFileSync(file('b', kind)).equals(readFileSync(file('a', kind)))).toBe(true)
  } finally {
    rmSync(folder, { recursive: true })
  }
}, 60_000)
