/**
 * What no frame has seen, on photographs: invented texture, beside Telea's inpainting of the same exact matte in the same run.
 *
 *   node --import tsx evaluation/neverSeen.ts SEQUENCES SCORER [--only=fill_01] [--fill=across]
 *
 * With --fill every mend is filled by that one alone, as if nothing behind it were ever seen: so bars are compared.
 *
 * A JSON line for each sequence. `blurred`: PSNR inside the matte of both pictures blurred by sigma 4 px, dB: form and light, not single
 * leaves. `detail`: the scorer's high-pass ratio, 1 is as sharp as the truth. `flicker`: rms change from frame
 * to frame inside, over that of the plate around, up to 16 px off.
 */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { convolveSeparable, gaussianTaps } from '../core/image/convolve'
import { boxSums } from '../core/image/windows'
import { createRaster } from '../core/image/raster'
import type { Samples } from '../core/image/samples'
import { inpaint, loadOpenCv } from './opencv'
import { Attempt } from './practiceAttempt'
import { FIRST_FRAME, openSequence, samplesOf, sequencesIn } from './practiceFootage'

const SIGMA_PX = 4
const FRAMES = [6, 13] as const
const { positionals, values } = parseArgs({
  allowPositionals: true,
  options: { only: { type: 'string' }, fill: { type: 'string' } },
})
const [folder, scorer] = positionals
if (!folder || !scorer) throw new Error('Say the folder of the sequences and that of the scorer.')

/** Mean square of the difference of two pictures inside a matte, in code values, both blurred. */
function errorInside(a: Uint8Array, b: Uint8Array, { width, height, data, channels }: Samples): number {
  const off = createRaster(width, height, 3)
  for (let i = 0; i < off.data.length; i++) off.data[i] = a[i]! - b[i]!
  const taps = gaussianTaps(SIGMA_PX)
  const blurred = convolveSeparable(off, taps, taps).data
  let [sum, count] = [0, 0]
  for (let pixel = 0; pixel < width * height; pixel++) {
    if (data[pixel * channels]! < 128) continue
    for (let c = 0; c < 3; c++) sum += blurred[3 * pixel + c]! ** 2
    count += 3
  }
  return sum / count
}

const AROUND_PX = 16

/** 1 within some px of a matte, beyond it. */
function ringOf(isInside: Uint8Array, width: number, height: number): Uint8Array {
  const near = boxSums(Float32Array.from(isInside), width, height, AROUND_PX)
  return Uint8Array.from(isInside, (inside, i) => (inside === 0 && near[i]! > 0 ? 1 : 0))
}

/** Rms change between two pictures on some pixels. */
function changeOn(a: Uint8Array, b: Uint8Array, mask: Uint8Array): number {
  let [sum, count] = [0, 0]
  for (let pixel = 0; pixel < mask.length; pixel++) {
    if (mask[pixel] === 0) continue
    for (let c = 0; c < 3; c++) sum += (a[3 * pixel + c]! - b[3 * pixel + c]!) ** 2
    count += 3
  }
  return Math.sqrt(sum / count)
}

const dbOf = (squares: readonly number[]): number =>
  Math.round(1000 * Math.log10((255 * 255 * squares.length) / squares.reduce((sum, one) => sum + one, 0))) /
  100

const { cv } = await loadOpenCv()
for (const name of sequencesIn(folder, values.only ? [values.only] : ['fill_', 'wire_05'])) {
  const sequence = openSequence(folder, name)
  const work = mkdtempSync(join(tmpdir(), 'never-seen-'))
  try {
    const attempt = new Attempt(sequence, folder, scorer, work)
    await attempt.prepare()
    if (values.fill) attempt.useFill(values.fill)
    const { score } = await attempt.render(`${FRAMES[0]}:${FRAMES[1] + 1}`, 0)
    const [own, telea, changes, changesAround]: number[][] = [[], [], [], []]
    let last: Uint8Array | null = null
    for (let frame = FRAMES[0]; frame <= FRAMES[1]; frame++) {
      const [truth, plate, matte] = await Promise.all(
        ['clean', 'plate', 'matte'].map((kind) => sequence.read(kind, FIRST_FRAME + frame)),
      )
      const mended = await samplesOf(join(work, 'out-0', `${String(frame).padStart(4, '0')}.png`), 8)
      const { width, height } = truth!
      const hole = Uint8Array.from({ length: width * height }, (_, i) =>
        matte!.data[i * matte!.channels]! > 0 ? 255 : 0,
      )
      const rgb = (one: Samples) => one.data as Uint8Array
      own!.push(errorInside(rgb(mended), rgb(truth!), matte!))
      telea!.push(errorInside(inpaint(cv, rgb(plate!), width, height, hole, 'telea'), rgb(truth!), matte!))
      const isInside = hole.map((one) => (one > 0 ? 1 : 0))
      if (last) {
        changes!.push(changeOn(rgb(mended), last, isInside))
        changesAround!.push(changeOn(rgb(mended), last, ringOf(isInside, width, height)))
      }
      last = rgb(mended)
    }
    const mean = (all: readonly number[]) => all.reduce((sum, one) => sum + one, 0) / all.length
    const flicker = Math.round((100 * mean(changes!)) / mean(changesAround!)) / 100
    console.log(
      JSON.stringify({
        sequence: name,
        half: sequence.sets ? 'sets' : 'reports',
        blurred: dbOf(own!),
        telea: dbOf(telea!),
        detail: score.detail_ratio,
        ssim: score.ssim_clean,
        psnr: score.psnr_clean,
        flicker,
      }),
    )
  } finally {
    rmSync(work, { recursive: true })
  }
}
