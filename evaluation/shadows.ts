/**
 * The shadow of LM_030 lifted, beside its truth and beside Clone from the place that is suggested first.
 *
 *   node --import tsx evaluation/shadows.ts [FILM]
 *
 * FILM holds the demo film (.data/test-demo). The shadow is outlined on five frames and the mend ends where the shadow has left the picture. A JSON line for each
 * way, `followed` being outlined on one of them only and followed: `psnr` inside the shadow, dB; `rim`, the step across its edge in parts of the ground's own; `grain`, the deviation of what the grainless truth leaves in parts
 * of the truth's; `changedAfter`, samples changed after the span's end; `msPerFrame`, of the whole rendering.
 */
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import sharp from 'sharp'
import { followThings } from '../cli/followThing'
import { mendFootage } from '../cli/mend'
import { sceneOfFootage } from '../cli/scene'
import { suggestSourcesOf } from '../cli/source'
import type { Area } from '../core/document/areas'
import { DOCUMENT_FORMAT, DOCUMENT_VERSION, serialiseDocument } from '../core/document/document'
import { startingFill, startingFinish, type Mend } from '../core/document/mend'
import { findFill } from '../core/fill/registry'
import { LAST_SHADED, LM_030, momentAt, strengthAt } from '../demo/lm030/scene'

const film = resolve(process.argv[2] ?? '.data/test-demo', LM_030.name)
const KEYS = [1001, 1007, 1012, 1017, LAST_SHADED]
const ONCE = 1007
const STEP = 3
const { firstFrame, frameCount, frameRate, width, height } = LM_030
const pathOf = (kind: string, frame: number) => join(film, kind, `${LM_030.name}.${frame}.png`)

const area: Area = {
  id: 'a',
  shape: 'outline',
  role: 'cover',
  interpolation: 'smooth',
  follow: null,
  keys: KEYS.map((frame) => {
    const { outline } = momentAt(frame)
    const points = Array.from({ length: outline.length / 2 }, (_, i) => ({
      x: outline[2 * i]!,
      y: outline[2 * i + 1]!,
      inX: 0,
      inY: 0,
      outX: 0,
      outY: 0,
    }))
    return { frame, points }
  }),
}
const mend: Mend = {
  id: 'shadow',
  kind: 'shadow',
  name: 'Shadow',
  isOn: true,
  areas: [area],
  fill: startingFill('shadow'),
  source: null,
  finish: startingFinish('shadow'),
  span: { firstFrame, lastFrame: LAST_SHADED, rampInFrames: 0, rampOutFrames: 0 },
}

const pixelsOf = async (path: string): Promise<Uint8Array> =>
  new Uint8Array(await sharp(path).removeAlpha().raw().toBuffer())
const lumaOf = (rgb: Uint8Array, pixel: number) =>
  (rgb[3 * pixel]! + 2 * rgb[3 * pixel + 1]! + rgb[3 * pixel + 2]!) / 4

/** Means of the luma just inside the shadow's edge and just outside it. */
class Rim {
  readonly #sums = [0, 0]
  readonly #counts = [0, 0]
  add(rgb: Uint8Array, matte: Uint8Array, isNear: Uint8Array): void {
    for (let pixel = 0; pixel < matte.length; pixel++) {
      const side =
        matte[pixel]! >= 30 && matte[pixel]! <= 225 ? 0 : matte[pixel] === 0 && isNear[pixel] ? 1 : -1
      if (side < 0) continue
      this.#sums[side]! += lumaOf(rgb, pixel)
      this.#counts[side]!++
    }
  }
  get step(): number {
    return this.#sums[0]! / this.#counts[0]! - this.#sums[1]! / this.#counts[1]!
  }
}

const NEAR_PX = 10

async function score(folder: string) {
  let [squares, count, changedAfter, grain, own] = [0, 0, 0, 0, 0]
  const [rim, truthRim] = [new Rim(), new Rim()]
  for (let frame = firstFrame; frame < firstFrame + frameCount; frame += STEP) {
    const result = await pixelsOf(join(folder, `${frame}.png`))
    if (frame > LAST_SHADED) {
      const plate = await pixelsOf(pathOf('plate', frame))
      for (let i = 0; i < plate.length; i++) changedAfter += plate[i] === result[i] ? 0 : 1
      continue
    }
    const [truth, clean] = await Promise.all([
      pixelsOf(pathOf('truth', frame)),
      pixelsOf(pathOf('truth-without-grain', frame)),
    ])
    const matte = new Uint8Array(await sharp(pathOf('matte', frame)).extractChannel(0).raw().toBuffer())
    const { shadow } = momentAt(frame)
    const [rootPx, headPx, discPx] = [
      shadow.rootPx + NEAR_PX,
      shadow.headPx + NEAR_PX,
      shadow.discPx + NEAR_PX,
    ]
    const grown = { ...shadow, rootPx, headPx, discPx }
    const near = Uint8Array.from(matte, (_, pixel) =>
      strengthAt(grown, (pixel % width) + 0.5, Math.floor(pixel / width) + 0.5) > 0 ? 1 : 0,
    )
    rim.add(result, matte, near)
    truthRim.add(truth, matte, near)
    for (let pixel = 0; pixel < matte.length; pixel++) {
      if (matte[pixel] === 0) continue
      for (let c = 0; c < 3; c++) {
        const [value, wanted, smooth] = [result[3 * pixel + c]!, truth[3 * pixel + c]!, clean[3 * pixel + c]!]
        squares += (value - wanted) ** 2
        grain += (value - smooth) ** 2
        own += (wanted - smooth) ** 2
      }
      count += 3
    }
  }
  const rounded = (value: number) => Math.round(1000 * value) / 1000
  return {
    psnr: rounded(10 * Math.log10((255 * 255 * count) / squares)),
    rim: rounded(rim.step / truthRim.step),
    rimCodes: rounded(rim.step - truthRim.step),
    grain: rounded(Math.sqrt(grain / own)),
    changedAfter,
  }
}

const work = mkdtempSync(join(tmpdir(), 'shadows-'))
try {
  const [quiet, never] = [() => undefined, new AbortController().signal]
  const plate = { name: LM_030.name, width, height, firstFrame, frameCount, frameRate }
  const options = {
    plate: join(film, 'plate', `${LM_030.name}.%04d.png`),
    firstFrame: String(firstFrame),
    rate: '',
  }
  const [file, scene] = [join(work, 'mends.json'), join(work, 'scene.json')]
  const write = (one: Mend) =>
    writeFileSync(
      file,
      serialiseDocument({
        format: DOCUMENT_FORMAT,
        version: DOCUMENT_VERSION,
        plate,
        mends: [one],
        tracks: [],
      }),
    )
  write(mend)
  await sceneOfFootage({ ...options, mends: file, out: scene }, quiet, never)
  const clone = findFill('clone')!
  const ways = [
    { way: 'lift', mend },
    {
      way: 'followed',
      mend: { ...mend, areas: [{ ...area, keys: area.keys.filter(({ frame }) => frame === ONCE) }] },
    },
    {
      way: 'clone',
      mend: {
        ...mend,
        fill: { methodId: 'clone', methodVersion: clone.version, params: clone.params.parse({}) },
      },
    },
  ]
  for (const one of ways) {
    write(one.mend)
    if (one.way === 'clone')
      await suggestSourcesOf({ ...options, mends: file, scene, out: file }, quiet, never)
    if (one.way === 'followed')
      await followThings({ ...options, mends: file, scene, out: file }, quiet, never)
    const folder = join(work, one.way)
    mkdirSync(folder)
    const begun = performance.now()
    await mendFootage({ ...options, mends: file, scene, out: join(folder, '%04d.png') }, quiet, never)
    const msPerFrame = Math.round((performance.now() - begun) / frameCount)
    console.log(JSON.stringify({ way: one.way, ...(await score(folder)), msPerFrame }))
  }
} finally {
  rmSync(work, { recursive: true, force: true })
}
