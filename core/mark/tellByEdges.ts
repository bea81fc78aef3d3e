/** Places of a mark under which nothing moves: told by its own edges, and by what places that frames do tell say of its colour. */
import type { Raster } from '../image/raster'
import { APART_PX, lineAbout, lineThrough, linesOfEdges, type EdgePair } from './edgeLine'
import { softenRim } from './edgeRim'
import { tellShares, type MarkLine, type ToldShares } from './edgeShares'
import { ENOUGH_SEEN } from './evidence'
import { MIN_OPACITY } from './neighbours'
import { askedOf, type MarkObservation } from './observation'
import type { RegressedMark } from './regressMark'
import type { RunContext } from '../shot/context'

/** What the edges of a mark tell. */
export interface EdgesTold {
  /** 1 for each place that frames do not tell. */
  readonly asked: Uint8Array
  /** 0 to 1: how much of the mark lies there. */
  readonly shares: Float32Array
  readonly line: MarkLine
  /** By how much parts of the mark disagree about its opacity, as the deviation of their mean; null where they are too few. */
  readonly opacityDeviation: number | null
}

/** Frames tell a place where its ground changes so much that the opacity is as certain as this; and, once the mark's extent is known, as this. */
const TOLD_CERTAINTY = 0.5
const SURE_CERTAINTY = 0.9
/** Where other frames show more of the ground than this share, the camera moves, and they tell the rest by and by. */
const MOST_SEEN = 0.05
/** Where still places are fewer, what is near says as much. */
const MIN_STILL_SHARE = 0.1
/** So many places that frames tell say what the mark is; their opacity, where it is whole, as the one that this share of them does not reach. */
const MIN_TOLD = 60
const WHOLE_SHARE = 0.7
/** The picture without the mark has to jump by so much less. */
const MOST_JUMPS = 0.95
/** Lines that leave hardly more jumps than the best are as good. */
const ALIKE_JUMPS = 1.01
/** What the mark's own rim tells of it is taken as long as hardly more jumps are left. */
const TURNS = 2
const HARDLY_MORE = 1.015
const PARTS = 4
const MIN_PART = 12

/** @returns null where frames tell enough, or the edges tell nothing. */
export function tellByEdges(
  mark: RegressedMark,
  observations: readonly MarkObservation[],
  shouldStop: RunContext['shouldStop'],
): EdgesTold | null {
  const { width, height, channels, opacity, strengths } = mark
  // One that fades is told by that.
  if (strengths.some((one) => one !== 1)) return null
  const places = askedOf(observations, opacity.length)
  const asked = stillPlaces(mark, places)
  if (!asked) return null
  const plate: Raster = { width, height, channels, data: meanOf(observations) }
  const tryLine = (line: MarkLine, sweeps: 'all' | 'few'): Attempt => {
    const known = opacity.map((one, at) => (asked[at] === 1 ? 0 : Math.min(1, one / line.opacity)))
    return { line, ...tellShares(plate, asked, line, known, sweeps) }
  }
  const told = lineToldByFrames(mark, places, asked)
  const looks: Attempt[] = []
  for (const line of [...(told ? [told] : []), ...linesOfEdges(plate, asked)]) {
    if (shouldStop()) return null
    looks.push(tryLine(line, 'few'))
  }
  const chosen = leastRaising(looks)
  if (!chosen) return null
  let best = tryLine(chosen.line, 'all')
  const none: MarkLine = { opacity: 0, colour: new Array<number>(channels).fill(0) }
  const bare = tellShares(plate, asked, none, new Float32Array(opacity.length), 'few')
  if (best.jumps > MOST_JUMPS * bare.jumps) return null
  const most = HARDLY_MORE * best.jumps
  for (let turn = 0; turn < TURNS && !shouldStop(); turn++) {
    const line = lineThrough(plate, rimOf(best.shares, asked, plate))
    const attempt = line && tryLine(line, 'all')
    if (!attempt || attempt.jumps > most) break
    best = attempt
  }
  const { line, shares } = best
  return {
    asked,
    line,
    shares: softenRim(plate, asked, shares, line),
    opacityDeviation: deviationOver(plate, rimOf(shares, asked, plate), line.colour),
  }
}

/** Over plain ground many lines leave as few jumps: of those the one that is undone with the least noise. */
function leastRaising(looks: readonly Attempt[]): Attempt | undefined {
  const least = Math.min(...looks.map(({ jumps }) => jumps))
  return looks
    .filter(({ jumps }) => jumps <= ALIKE_JUMPS * least)
    .sort((one, other) => one.line.opacity - other.line.opacity)[0]
}

interface Attempt extends ToldShares {
  readonly line: MarkLine
}

/** The picture of a mark with the places that its edges tell, but for those of which frames are sure by now. */
export function withEdges(mark: RegressedMark, edges: EdgesTold): RegressedMark {
  const { asked, shares, line } = edges
  const [added, opacity, untold] = [mark.added.slice(), mark.opacity.slice(), mark.untold.slice()]
  const { channels } = mark
  for (let at = 0; at < asked.length; at++) {
    if (!isByEdges(edges, mark, at)) continue
    untold[at] = 0
    opacity[at] = shares[at]! * line.opacity
    for (let c = 0; c < channels; c++) added[at * channels + c] = opacity[at]! * line.colour[c]!
  }
  return { ...mark, added, opacity, untold }
}

const isByEdges = ({ asked }: EdgesTold, { certainty }: RegressedMark, at: number): boolean =>
  asked[at] === 1 && certainty[at]! <= SURE_CERTAINTY

/** How far a mark was told by its edges. */
export interface ByEdges extends Pick<EdgesTold, 'opacityDeviation'> {
  /** Of the mark, 0 to 1. */
  readonly share: number
}

export function byEdges(edges: EdgesTold, mark: RegressedMark): ByEdges {
  const { opacity } = mark
  let [told, covered] = [0, 0]
  for (let at = 0; at < opacity.length; at++) {
    covered += opacity[at]!
    if (isByEdges(edges, mark, at)) told += opacity[at]!
  }
  return { share: covered > 0 ? told / covered : 0, opacityDeviation: edges.opacityDeviation }
}

/** 1 for each place that frames do not tell; null where they are few. */
function stillPlaces({ seenCounts, certainty }: RegressedMark, places: Int32Array): Uint8Array | null {
  const asked = new Uint8Array(certainty.length)
  let [seen, still] = [0, 0]
  for (const at of places) {
    if (seenCounts[at]! >= ENOUGH_SEEN) seen++
    else if (certainty[at]! < TOLD_CERTAINTY) {
      asked[at] = 1
      still++
    }
  }
  return seen > MOST_SEEN * places.length || still < MIN_STILL_SHARE * places.length ? null : asked
}

function meanOf(observations: readonly MarkObservation[]): Float32Array {
  const out = new Float32Array(observations[0]!.plate.length)
  for (const { plate } of observations)
    for (let i = 0; i < out.length; i++) out[i]! += plate[i]! / observations.length
  return out
}

function lineToldByFrames(
  { opacity, added, channels }: RegressedMark,
  places: Int32Array,
  asked: Uint8Array,
): MarkLine | null {
  const told = places.filter((at) => asked[at] === 0 && opacity[at]! >= MIN_OPACITY)
  if (told.length < MIN_TOLD) return null
  const sorted = Float32Array.from(told, (at) => opacity[at]!).sort()
  const colour = new Float64Array(channels)
  let covered = 0
  for (const at of told) {
    covered += opacity[at]!
    for (let c = 0; c < channels; c++) colour[c]! += added[at * channels + c]!
  }
  return {
    opacity: sorted[Math.floor(WHOLE_SHARE * told.length)]!,
    colour: Array.from(colour, (one) => Math.min(1, Math.max(0, one / covered))),
  }
}

/** Where the mark ends, from side to side, in the order of rows. */
function rimOf(shares: Float32Array, asked: Uint8Array, { width, height }: Raster): readonly EdgePair[] {
  const out: EdgePair[] = []
  for (let row = 0; row < height - APART_PX; row++) {
    for (let col = 0; col < width - APART_PX; col++) {
      const here = row * width + col
      for (const there of [here + APART_PX, here + APART_PX * width]) {
        if (asked[here] !== 1 && asked[there] !== 1) continue
        if (shares[here] === 0 && shares[there] === 1) out.push({ a: here, b: there })
        if (shares[here] === 1 && shares[there] === 0) out.push({ a: there, b: here })
      }
    }
  }
  return out
}

/** Parts lie side by side: what is wrong with the ground is so over some distance. */
function deviationOver(plate: Raster, pairs: readonly EdgePair[], colour: readonly number[]): number | null {
  const sorted = [...pairs].sort((one, other) => (one.a % plate.width) - (other.a % plate.width))
  const size = Math.floor(sorted.length / PARTS)
  if (size < MIN_PART) return null
  const opacities: number[] = []
  for (let part = 0; part < PARTS; part++) {
    const line = lineAbout(plate, sorted.slice(part * size, (part + 1) * size), colour)
    if (line) opacities.push(line.opacity)
  }
  if (opacities.length < 2) return null
  const mean = opacities.reduce((sum, one) => sum + one, 0) / opacities.length
  const squares = opacities.reduce((sum, one) => sum + (one - mean) * (one - mean), 0)
  return Math.sqrt(squares / (opacities.length - 1) / opacities.length)
}
