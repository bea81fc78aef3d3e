/**
 * Blemishes and skin of LM_050, beside its truth.
 *
 *   node --import tsx evaluation/face.ts [FILM] [--skin]
 *
 * FILM holds the demo film (.data/test-demo). It has set the thresholds of `findSpots.ts` and the patch of the surface tracker; all else it reports. The spots are
 * placed on one frame and followed; the skin is outlined once, widely, and stays. Lines of JSON: `finds`, blemishes found of those in sight, and what is none;
 * `track`, errors of places that are in sight, px; `spots`, their contrast with the skin around them before and after, of a scale of 1, and that of skin beside
 * them; `skin`, for each evenness, the shares of blotches, pores and other slopes that are left, and of skin and the rest that the matte covers. `--skin`: this alone.
 */
import { absorb, framesFrom, trackRequest } from '../core/document/follow'
import { followSurface, surfaceTrack } from '../core/document/followSurface'
import { drawnArea } from '../core/document/areaCommands'
import { outlineThrough } from '../core/document/keys'
import { startingFill, startingFinish, type Mend, type MendRecord } from '../core/document/mend'
import type { Track } from '../core/document/tracks'
import { convolveSeparable, gaussianTaps } from '../core/image/convolve'
import { rasterFromSamples, type Samples } from '../core/image/samples'
import type { Raster } from '../core/image/raster'
import { findBlemishes } from '../core/evaluate/findBlemishes'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { runTrack } from '../core/motion/runTrack'
import { learnTone } from '../core/skin/tone'
import { toneMatte } from '../core/skin/toneMatte'
import { HEAD, LM_050, momentAt } from '../demo/lm050/scene'
import { openShot } from './film'

const shot = openShot('LM_050')
const { firstFrame, lastFrame } = shot.span
const BEGIN = 1003
const frames = Array.from({ length: lastFrame - firstFrame + 1 }, (_, i) => firstFrame + i)
const round = (value: number, digits = 3): number => Math.round(value * 10 ** digits) / 10 ** digits

async function followed(track: Track): Promise<Track> {
  let now = track
  for (const direction of ['forward', 'backward'] as const) {
    const request = trackRequest(track, BEGIN, framesFrom(BEGIN, direction, shot.span))
    const outcome = await runTrack(
      request,
      { plate: shot.source.plate, readRect: (frame, rect) => shot.source.readRect(frame, rect) },
      { shouldStop: () => false },
    )
    now = absorb(now, BEGIN, outcome)
  }
  return now
}

function recordOf(
  kind: 'blemish' | 'skin',
  areas: Mend['areas'],
  params: Record<string, unknown> = {},
): MendRecord {
  const fill = startingFill(kind)
  return {
    id: kind,
    kind,
    name: kind,
    isOn: true,
    areas,
    fill: { ...fill, params: { ...fill.params, ...params } },
    source: null,
    finish: startingFinish(kind),
    span: { ...shot.span },
    stackIndex: 1,
  }
}

const luma = (samples: Samples): Raster => {
  const { width, height, data } = rasterFromSamples(samples)
  const out = { width, height, channels: 1, data: new Float32Array(width * height) }
  for (let at = 0; at < width * height; at++)
    out.data[at] = (data[3 * at]! + 2 * data[3 * at + 1]! + data[3 * at + 2]!) / 4
  return out
}

/** Mean of a disc less the mean of the ring around it. */
function contrastAt({ width, height, data }: Raster, x: number, y: number, radiusPx: number): number {
  const sums = [0, 0]
  const counts = [0, 0]
  const reach = Math.ceil(2.2 * radiusPx)
  for (let row = Math.max(0, Math.floor(y) - reach); row <= Math.min(height - 1, y + reach); row++)
    for (let col = Math.max(0, Math.floor(x) - reach); col <= Math.min(width - 1, x + reach); col++) {
      const far = Math.hypot(col + 0.5 - x, row + 0.5 - y) / radiusPx
      const part = far < 0.8 ? 0 : far > 1.5 && far < 2.2 ? 1 : -1
      if (part < 0) continue
      sums[part]! += data[row * width + col]!
      counts[part]!++
    }
  return sums[0]! / counts[0]! - sums[1]! / counts[1]!
}

async function spots(): Promise<void> {
  const begun = momentAt(BEGIN)
  const areas = begun.blemishes.map(
    ({ x, y, radiusPx }, i) =>
    drawnArea(`s${i}`, { shape: 'ellipse', x, y, radiusXPx: radiusPx + 4, radiusYPx: radiusPx + 4, turnDeg: 0 }, BEGIN), // prettier-ignore
  )
  const record = recordOf('blemish', areas)
  const state = { records: new Map([[record.id, record]]), tracks: new Map<string, Track>() }
  const track = await followed(surfaceTrack(state, record, BEGIN, 't'))
  const mend = followSurface(state, record, track).changes[0]!.after!
  const errors: number[] = []
  let [told, missed, wrong] = [0, 0, 0]
  for (const frame of frames) {
    const { blemishes } = momentAt(frame)
    blemishes.forEach(({ x, y, facing }, i) => {
      const row = track.frames.find(([at]) => at === frame)!
      const [px, py, seen] = row.slice(2 + 3 * i, 5 + 3 * i) as [number, number, number]
      if (facing > 0.25) {
        told++
        if (seen === 0) missed++
        else errors.push(Math.hypot(px - x, py - y))
      } else if (facing < 0.02 && seen === 1) wrong++
    })
  }
  errors.sort((a, b) => a - b)
  print('track', {
    mean: round(errors.reduce((a, b) => a + b, 0) / errors.length),
    p95: round(errors[Math.floor(0.95 * errors.length)]!),
    worst: round(errors.at(-1)!),
    missed: round(missed / told),
    seenThoughHidden: wrong,
  })
  const [was, is, own]: [number[], number[], number[]] = [[], [], []]
  for (let frame = firstFrame; frame <= lastFrame; frame += 5) {
    const { finished } = await shot.mend([mend], frame, [track])
    const plate = luma(await shot.read('plate', frame))
    const result = luma(finished)
    momentAt(frame).blemishes.forEach(({ x, y, radiusPx, facing }) => {
      if (facing < 0.35) return
      was.push(Math.abs(contrastAt(plate, x, y, radiusPx)))
      is.push(Math.abs(contrastAt(result, x, y, radiusPx)))
      // Skin of the plate a little aside, where there is no spot.
      own.push(Math.abs(contrastAt(plate, x + 3 * radiusPx, y + 2 * radiusPx, radiusPx)))
    })
  }
  const mean = (values: number[]) => round(values.reduce((a, b) => a + b, 0) / values.length, 4)
  print('spots', {
    before: mean(was),
    after: mean(is),
    skinsOwn: mean(own),
    worst: round(Math.max(...is), 4),
  })
}

const blurred = (raster: Raster, sigmaPx: number) => {
  const taps = gaussianTaps(sigmaPx)
  return convolveSeparable(raster, taps, taps).data
}

/** A wide outline round the head, as it lies on a frame. */
function skinArea(frame: number) {
  const { head } = momentAt(frame)
  const outline = Array.from({ length: 16 }, (_, i) => {
    const turn = (2 * Math.PI * i) / 16
    return {
      x: head.x + 1.04 * HEAD.across * Math.cos(turn),
      y: head.y + 8 + 1.0 * HEAD.down * Math.sin(turn),
    }
  })
  return drawnArea('skin', { shape: 'outline', points: outlineThrough(outline, 'smooth') }, frame)
}

const SKIN = { radiusPx: 46, poresPx: 5 }

async function finds(): Promise<void> {
  for (const frame of [1003, 1012, 1024, 1040]) {
    const mend = recordOf('skin', [skinArea(frame)], SKIN)
    const document = documentOf([mend], new Map(), { ...shot.span, ...shot.source.plate })
    const found = (await findBlemishes(document, 'skin', frame, shot.source, { shouldStop: () => false }))!
    const inSight = momentAt(frame).blemishes.filter(({ facing }) => facing > 0.25)
    const isAt = (one: { x: number; y: number }, x: number, y: number, reach: number) => Math.hypot(one.x - x, one.y - y) < reach // prettier-ignore
    print('finds', {
      frame,
      found: inSight.filter(({ x, y, radiusPx }) => found.some((one) => isAt(one, x, y, radiusPx))).length,
      of: inSight.length,
      false: found.filter((one) => !inSight.some(({ x, y, radiusPx }) => isAt(one, x, y, radiusPx))).length,
    })
  }
}

async function skin(): Promise<void> {
  const { head } = momentAt(BEGIN)
  const area = skinArea(BEGIN)
  for (const evenness of [30, 100]) {
    const mend = recordOf('skin', [area], { evenness, ...SKIN })
    const sums = { was: [0, 0, 0], is: [0, 0, 0] }
    const matte = { skin: 0, covered: 0, rest: 0, wrong: 0 }
    for (let frame = firstFrame + 1; frame <= lastFrame; frame += 6) {
      const { finished } = await shot.mend([mend], frame)
      const plate = await shot.read('plate', frame)
      const isSkin = await shot.readMatte(frame)
      const { blemishes } = momentAt(frame)
      const [from, to] = [luma(plate), luma(finished)]
      const isNearSpot = (at: number) =>
        blemishes.some(
          ({ x, y, radiusPx }) =>
            Math.hypot((at % from.width) - x, Math.floor(at / from.width) - y) < 3 * radiusPx,
        )
      const { x, y } = momentAt(frame).head
      const inner = (at: number) =>
        ((at % from.width) + 0.5 - x) ** 2 / (0.8 * HEAD.across) ** 2 + (Math.floor(at / from.width) + 0.5 - y) ** 2 / (0.8 * HEAD.down) ** 2 < 1 // prettier-ignore
      const measured = [from, to].map((picture) => ({
        blotch: [blurred(picture, 3.5), blurred(picture, 12)] as const,
        pore: blurred(picture, 1.2),
        picture,
      }))
      for (let at = from.width; at < isSkin.length - from.width - 1; at++) {
        const onSkin = isSkin[at]! > 250 && inner(at)
        if (onSkin && !isNearSpot(at)) {
          measured.forEach(({ blotch: [fine, wide], pore, picture }, k) => {
            const into = k === 0 ? sums.was : sums.is
            into[0]! += (fine[at]! - wide[at]!) ** 2
            into[1]! += (picture.data[at]! - pore[at]!) ** 2
          })
        }
        if (isSkin[at]! < 5 && inner(at))
          measured.forEach(({ picture: { data } }, k) => {
            const into = k === 0 ? sums.was : sums.is
            into[2]! += (data[at + 1]! - data[at]!) ** 2 + (data[at + from.width]! - data[at]!) ** 2
          })
      }
      const raster = rasterFromSamples(plate)
      const asked: number[] = []
      const isAsked = new Uint8Array(isSkin.length)
      for (let at = 0; at < isSkin.length; at++)
        if (
          ((at % from.width) + 0.5 - head.x) ** 2 / (1.04 * HEAD.across) ** 2 +
            (Math.floor(at / from.width) + 0.5 - head.y - 8) ** 2 / HEAD.down ** 2 <
          1
        ) {
          asked.push(at)
          isAsked[at] = 1
        }
      const tone = learnTone(raster, asked)!
      toneMatte(raster, tone, { hue: 1, colour: 1, brightness: 1 }).forEach((share, at) => {
        if (!isAsked[at]) return
        if (isSkin[at]! > 250) {
          matte.skin++
          if (share >= 0.5) matte.covered++
        } else if (isSkin[at]! < 5) {
          matte.rest++
          if (share >= 0.5) matte.wrong++
        }
      })
    }
    print('skin', {
      evenness,
      blotches: round(sums.is[0]! / sums.was[0]!),
      pores: round(sums.is[1]! / sums.was[1]!),
      slopesElsewhere: round(sums.is[2]! / sums.was[2]!),
      covered: round(matte.covered / matte.skin),
      false: round(matte.wrong / matte.rest),
    })
  }
}

const print = (what: string, values: Record<string, number>) =>
  console.log(JSON.stringify({ shot: LM_050.name, what, ...values }))

if (!process.argv.includes('--skin')) {
  await finds()
  await spots()
}
await skin()
