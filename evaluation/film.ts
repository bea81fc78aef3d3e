/** The demo film on disk, for measuring: frames, truth, and a source for the evaluator. */
import { documentOf } from '../tests/fixtures/sampleDocument'
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import sharp from 'sharp'
import { findShot } from '../demo/film'
import type { ShotDescription } from '../demo/shot'
import { wholePicture, type Rect } from '../core/image/rect'
import { cropSamples, type Samples } from '../core/image/samples'
import { DOCUMENT_FORMAT, DOCUMENT_VERSION, type MendDocument } from '../core/document/document'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { layPatches } from '../core/evaluate/finished'
import type { Clip } from '../core/shot/clip'
import type { EvaluatedFrame } from '../core/evaluate/evaluatedFrame'
import { planFrame } from '../core/plan/planFrame'
import type { Mend } from '../core/document/mend'
import { tracksById, type Track, type Tracks } from '../core/document/tracks'
import type { ReadMatte } from '../core/matte/pictureMatte'
import type { Scene } from '../core/scene/scene'
import { createCache } from '../workers/cache'

export type PictureKind = 'plate' | 'truth' | 'truth-without-grain'

export interface OpenShot {
  readonly description: ShotDescription
  readonly span: {
    readonly firstFrame: number
    readonly lastFrame: number
    readonly rampInFrames: 0
    readonly rampOutFrames: 0
  }
  read(kind: PictureKind, frame: number): Promise<Samples>
  /** Exact coverage of the trouble, 0 to 255. */
  readMatte(frame: number): Promise<Uint8Array>
  readonly source: Clip
  document(mends: readonly Mend[], tracks?: readonly Track[]): MendDocument
  /** The finished frame, and what was said of it. */
  mend(
    mends: readonly Mend[],
    frame: number,
    tracks?: readonly Track[],
    scene?: Scene | null,
  ): Promise<{ readonly finished: Samples } & EvaluatedFrame>
}

/** @param film  Folder that demo/main.ts has written. */
export function openShot(
  name: string,
  film = process.argv.slice(2).find((one) => !one.startsWith('--')) ?? '.data/test-demo',
): OpenShot {
  const { description } = findShot(name)
  const { width, height, firstFrame, frameCount, frameRate } = description
  const kept = new Map<string, Promise<Samples>>()
  const read = (kind: PictureKind, frame: number): Promise<Samples> => {
    const path = join(film, name, kind, `${name}.${frame}.png`)
    let reading = kept.get(path)
    if (!reading) {
      reading = rawOf(path).then((data) => ({ width, height, channels: 3, data }))
      kept.set(path, reading)
    }
    return reading
  }
  /** The exact trouble as a matte area: whatever its pattern is. */
  const exactMatte = async (frame: number): Promise<ReadMatte | null> => {
    const path = join(film, name, 'matte', `${name}.${frame}.png`)
    return existsSync(path) ? cutMatte(await rawOf(path, 1), width, height) : null
  }
  const source: Clip = {
    plate: { width, height, channels: 3, bitDepth: 8 },
    readRect: async (frame: number, rect: Rect) => cropSamples(await read('plate', frame), rect),
    readMatte: (_, frame) => exactMatte(frame),
    readStill: async () => null,
    readMark: async () => null,
    cache: createCache(),
  }
  return {
    description,
    span: { firstFrame, lastFrame: firstFrame + frameCount - 1, rampInFrames: 0, rampOutFrames: 0 },
    read,
    readMatte: (frame) => rawOf(join(film, name, 'matte', `${name}.${frame}.png`), 1),
    source,
    document: (mends, tracks = []) => ({
      format: DOCUMENT_FORMAT,
      version: DOCUMENT_VERSION,
      plate: { name, width, height, firstFrame, frameCount, frameRate },
      mends: [...mends],
      tracks: [...tracks],
    }),
    async mend(mends, frame, tracks = [], scene = null) {
      const plan = planFrame(
        documentOf(mends, knownTracks(tracks), { ...this.span, width, height }, scene),
        frame,
      )
      const done = await evaluateFrame(plan, source, { shouldStop: () => false, showsSeen: true })
      return {
        ...done,
        finished: layPatches(
          cropSamples(await read('plate', frame), wholePicture(source.plate)),
          done.patches,
          3,
        ),
      }
    },
  }
}

/** The same list gives the same map, so that what was placed with it is found again. */
const maps = new WeakMap<readonly Track[], Tracks>()
const NONE: Tracks = new Map()
function knownTracks(tracks: readonly Track[]): Tracks {
  if (tracks.length === 0) return NONE
  let map = maps.get(tracks)
  if (!map) maps.set(tracks, (map = tracksById(tracks)))
  return map
}

const rawOf = async (path: string, channels = 3): Promise<Uint8Array> => {
  const picture = sharp(path)
  const { data, info } = await (channels === 1 ? picture.extractChannel(0) : picture)
    .raw()
    .toBuffer({ resolveWithObject: true })
  if (info.channels !== channels) throw new Error(`${path} has ${info.channels} channels`)
  return new Uint8Array(data)
}

/** A matte cut to what it covers: all that it touches at all. */
export function cutMatte(coverage: Uint8Array, width: number, height: number): ReadMatte | null {
  let [left, right, top, bottom] = [width, -1, height, -1]
  for (let i = 0; i < coverage.length; i++) {
    if (coverage[i] === 0) continue
    const [col, row] = [i % width, (i / width) | 0]
    left = Math.min(left, col)
    right = Math.max(right, col)
    top = Math.min(top, row)
    bottom = Math.max(bottom, row)
  }
  if (right < 0) return null
  const rect = { col: left, row: top, width: right - left + 1, height: bottom - top + 1 }
  const out = new Float32Array(rect.width * rect.height)
  for (let row = 0; row < rect.height; row++) {
    for (let col = 0; col < rect.width; col++)
      out[row * rect.width + col] = coverage[(top + row) * width + left + col]! > 0 ? 1 : 0
  }
  return { rect, coverage: out }
}
