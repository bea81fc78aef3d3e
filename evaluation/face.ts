/**
 * Blemishes and skin of LM_050, beside its truth.
 *
 *   node --import tsx evaluation/face.ts [FILM] [--skin]
 *
 * FILM holds the demo film (.data/test-demo). It has set the thresholds of `findSpots.ts` and the patch of the surface tracker; all else it reports. The spots are
 * placed on one frame and followed; the skin is outlined once, widely, and stays. Lines of JSON: `finds`, blemishes found of those in sight, and what is none;
 * `track`, errors of places that are in sight, px; `spots`, their contrast with the skin around them before and after, of a scale of 1, and that of skin beside
 * them; `skin`, for each evenness, what is left of blotches (as energy of what the truth has not; with what was done to form; of the whole band), of pores, of slopes of what is no skin and of edges of form, of skin and the rest within the outline
 * that the mend covers, and how much more the result changes from frame to frame at the same places of the head than the plate. Once more as an artist would who
 * learns the tone where `lights` changes it and clicks some wool away. `--skin`: this alone.
 */
import { absorb, framesFrom, trackRequest } from '../core/document/follow'
import { followSurface, surfaceTrack } from '../core/document/followSurface'
import { drawnArea } from '../core/document/areaCommands'
import { outlineThrough } from '../core/document/keys'
import { startingFill, startingFinish, type Mend, type MendRecord } from '../core/document/mend'
import { tracksById, type Track } from '../core/document/tracks'
import type { SetTone } from '../core/skin/tonesSet'
import { convolveSeparable, gaussianTaps } from '../core/image/convolve'
import { rasterFromSamples, type Samples } from '../core/image/samples'
import type { Raster } from '../core/image/raster'
import { findBlemishes } from '../core/evaluate/findBlemishes'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { runTrack } from '../core/motion/runTrack'
import { applyEdit } from '../core/document/edits'
import { holdOutFound } from '../core/document/faceFound'
import { MATTE_FULL, type SeenMap } from '../core/evaluate/evaluatedFrame'
import { findLightChanges, learnToneOf } from '../core/evaluate/learnTones'
import { findFaces } from '../core/evaluate/findFaces'
import { join } from 'node:path'
import { faceFilesIn } from '../server/faceFiles.server'
import { faceModel } from '../workers/faces/faceModel'
import { HEAD, LM_050, momentAt, placeOnHead } from '../demo/lm050/scene'
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

/** The skin as the application mends it: outlined on one frame, eyes and lips held out by themselves. */
async function skinOf(
  params: Record<string, unknown>,
): Promise<{ mend: Mend; tracks: Track[]; faces: number }> {
  const drawn = recordOf('skin', [skinArea(BEGIN)], params)
  const document = documentOf([drawn], new Map(), { ...shot.span, ...shot.source.plate })
  const model = await faceModel(faceFilesIn(join(import.meta.dirname, '../public/faces')))
  const faces = (await findFaces(document, drawn.id, BEGIN, shot.source, model, { shouldStop: () => false }))!
  let ids = 0
  const state = { records: new Map([[drawn.id, drawn]]), tracks: new Map<string, Track>() }
  const { records, tracks } = applyEdit(
    state,
    holdOutFound(state, drawn, faces, BEGIN, () => `id-${ids++}`),
  )
  return { mend: records.get(drawn.id)!, tracks: [...tracks.values()], faces: faces.length }
}

const SKIN_FRAMES = frames.filter((frame) => (frame - firstFrame) % 6 === 1)

async function skin(params: Record<string, unknown>, tones: readonly SetTone[] = []): Promise<void> {
  const { mend, tracks, faces } = await skinOf({ ...SKIN, ...params, tones })
  const sums = { was: [0, 0, 0], is: [0, 0, 0] }
  const form = { was: 0, is: 0 }
  const blotch = { was: 0, left: 0, is: 0 }
  const matte = { skin: 0, covered: 0, rest: 0, wrong: 0 }
  for (const frame of SKIN_FRAMES) {
    const { finished, seenMaps } = await shot.mend([mend], frame, tracks)
    const isSkin = await shot.readMatte(frame)
    const { blemishes, head } = momentAt(frame)
    const [plate, result, truth] = [await shot.read('plate', frame), finished, await shot.read('truth', frame)].map(luma) as [Raster, Raster, Raster] // prettier-ignore
    const { width } = plate
    const isCovered = coveredBy(seenMaps[0]!, plate)
    const isNearSpot = (at: number) =>
      blemishes.some(
        ({ x, y, radiusPx }) => Math.hypot((at % width) - x, Math.floor(at / width) - y) < 3 * radiusPx,
      )
    const isWithin = (at: number, share: number) =>
      ((at % width) + 0.5 - head.x) ** 2 / (share * HEAD.across) ** 2 + (Math.floor(at / width) + 0.5 - head.y) ** 2 / (share * HEAD.down) ** 2 < 1 // prettier-ignore
    const bandOf = (picture: Raster) => {
      const [fine, wide] = [blurred(picture, 3.5), blurred(picture, 12)]
      return fine.map((value, at) => value - wide[at]!)
    }
    const [ought, was, is] = [truth, plate, result].map(bandOf) as [Float32Array, Float32Array, Float32Array]
    const measured = [plate, result].map((picture) => ({
      blotch: [blurred(picture, 3.5), blurred(picture, 12)] as const,
      pore: blurred(picture, 1.2),
      wide: blurred(picture, FORM_PX),
      picture,
    }))
    const shape = blurred(truth, FORM_PX)
    const slopeOf = (data: Float32Array, at: number) => [data[at + 3]! - data[at - 3]!, data[at + 3 * width]! - data[at - 3 * width]!] as const // prettier-ignore
    for (let at = 3 * width; at < isSkin.length - 3 * width - 3; at++) {
      const isIn = isWithin(at, 0.8)
      if (isSkin[at]! > 250 && isCovered[at]! > 0 && isIn && !isNearSpot(at)) {
        measured.forEach(({ blotch: [fine, wide], pore, picture }, k) => {
          const into = k === 0 ? sums.was : sums.is
          into[0]! += (fine[at]! - wide[at]!) ** 2
          into[1]! += (picture.data[at]! - pore[at]!) ** 2
        })
        const [b, r] = [was[at]! - ought[at]!, is[at]! - ought[at]!]
        blotch.was += b * b
        blotch.left += b * r
        blotch.is += r * r
        // Along the way in which the head's own form rises, where it rises most.
        const [right, down] = slopeOf(shape, at)
        if (Math.hypot(right, down) > FORM_RISES)
          measured.forEach(({ wide }, k) => {
            const [x, y] = slopeOf(wide, at)
            form[k === 0 ? 'was' : 'is'] += x * right + y * down
          })
      }
      if (isSkin[at]! < 5 && isIn)
        measured.forEach(({ picture: { data } }, k) => {
          const into = k === 0 ? sums.was : sums.is
          into[2]! += (data[at + 1]! - data[at]!) ** 2 + (data[at + width]! - data[at]!) ** 2
        })
    }
    for (let at = 0; at < isSkin.length; at++) {
      // What was asked for: the outline as it was drawn, with the head.
      const [x, y] = [(at % width) + 0.5 - head.x, Math.floor(at / width) + 0.5 - head.y - 8]
      if (x ** 2 / (1.04 * HEAD.across) ** 2 + y ** 2 / HEAD.down ** 2 >= 1) continue
      if (isSkin[at]! > 250) {
        matte.skin++
        matte.covered += isCovered[at]!
      } else if (isSkin[at]! < 5) {
        matte.rest++
        matte.wrong += isCovered[at]!
      }
    }
  }
  print('skin', {
    ...(params as Record<string, number>),
    tones: tones.length,
    faces,
    blotches: round((blotch.left / blotch.was) ** 2),
    blotchesAndForm: round(blotch.is / blotch.was),
    band: round(sums.is[0]! / sums.was[0]!),
    pores: round(sums.is[1]! / sums.was[1]!),
    slopesElsewhere: round(sums.is[2]! / sums.was[2]!),
    form: round(form.is / form.was),
    covered: round(matte.covered / matte.skin),
    false: round(matte.wrong / matte.rest),
    ...(await shimmer(mend, tracks)),
  })
}

/** Where a mend does more than half. */
function coveredBy({ rect, seen }: SeenMap, { width, height }: Raster): Uint8Array {
  const out = new Uint8Array(width * height)
  seen.forEach((share, i) => {
    const at = (rect.row + Math.floor(i / rect.width)) * width + rect.col + (i % rect.width)
    if (share >= MATTE_FULL / 2) out[at] = 1
  })
  return out
}

/** Form is what is wider than blotches; steeper than this, of a scale of 1 over 6 px, it is an edge of it. */
const [FORM_PX, FORM_RISES] = [8, 0.02]

/** How much changes from one frame to the next at the same places of the skin, of the plate and of the result. */
async function shimmer(mend: Mend, tracks: readonly Track[]) {
  const places = Array.from({ length: 81 * 81 }, (_, i) => [((i % 81) - 40) / 60, (Math.floor(i / 81) - 40) / 60] as const) // prettier-ignore
  const sums = { plate: 0, result: 0 }
  const looks = async (frame: number) => {
    const { finished } = await shot.mend([mend], frame, tracks)
    const isSkin = await shot.readMatte(frame)
    const pictures = [luma(await shot.read('plate', frame)), luma(finished)] as const
    const { head } = momentAt(frame)
    return places.map(([u, v]) => {
      const { x, y, facing } = placeOnHead(head, u, v)
      const at = Math.floor(y) * pictures[0].width + Math.floor(x)
      if (facing < 0.4 || isSkin[at]! < 250) return null
      return pictures.map((picture) => between(picture, x, y)) as [number, number]
    })
  }
  // Where the lamp burns evenly.
  for (const frame of [1006, 1012, 1018, 1034, 1040]) {
    const [now, next] = [await looks(frame), await looks(frame + 1)]
    now.forEach((values, i) => {
      const then = next[i]
      if (!values || !then) return
      sums.plate += (then[0] - values[0]) ** 2
      sums.result += (then[1] - values[1]) ** 2
    })
  }
  return { shimmer: round(Math.sqrt(sums.result / sums.plate)) }
}

function between({ width, data }: Raster, x: number, y: number): number {
  const [col, row] = [Math.floor(x - 0.5), Math.floor(y - 0.5)]
  const [a, b] = [x - 0.5 - col, y - 0.5 - row]
  const at = row * width + col
  const above = data[at]! + a * (data[at + 1]! - data[at]!)
  return above + b * (data[at + width]! + a * (data[at + width + 1]! - data[at + width]!) - above)
}

const print = (what: string, values: Record<string, number>) =>
  console.log(JSON.stringify({ shot: LM_050.name, what, ...values }))

if (!process.argv.includes('--skin')) {
  await finds()
  await spots()
}
/** As an artist would: the light's changes are learnt as they are offered, and what of the wool is taken for skin is clicked away once. */
async function tonesSet(): Promise<void> {
  const { mend, tracks } = await skinOf(SKIN)
  const document = documentOf([mend], tracksById(tracks), { ...shot.span, ...shot.source.plate })
  const never = { shouldStop: () => false }
  const changes = (await findLightChanges(document, mend.id, shot.source, never))!
  const keys = changes.flatMap(({ from, to }) => [from, to])
  print('lights', {
    changes: changes.length,
    ...Object.fromEntries(keys.map(({ frame }, i) => [`key${i + 1}`, frame])),
  })
  const { head } = momentAt(BEGIN)
  const wool = { x: head.x, y: head.y - 0.93 * HEAD.down, radiusPx: 5 }
  const taken = await learnToneOf(
    document,
    { mendId: mend.id, frame: BEGIN, use: 'taken', disc: wool },
    shot.source,
  )
  const learnt = keys.map((at) => ({ use: 'learnt', beside: null, ...at }) as const)
  await skin(
    { evenness: 30 },
    [...(taken ? [taken] : []), ...learnt].sort((a, b) => a.frame - b.frame),
  )
}

for (const evenness of [30, 100]) await skin({ evenness })
await tonesSet()
