/** The `track` and `cling` commands: motion worked out without a browser. */
import { randomUUID } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { serialiseDocument, type MendDocument } from '../core/document/document'
import type { Area } from '../core/document/areas'
import { clungArea } from '../core/document/clungArea'
import {
  absorb,
  absorbCling,
  bothWays,
  CLING_SEARCH_PX,
  clingRequest,
  framesFrom,
  newTrack,
  trackRequest,
  type Direction,
} from '../core/document/follow'
import { geometryAt } from '../core/document/keyedGeometry'
import {
  parseFile,
  pointsFileSchema,
  serialiseTracks,
  tracksToCsv,
  type TracksFile,
} from '../core/document/trackFiles'
import { tracksById, type Track } from '../core/document/tracks'
import { DEFAULT_TRACK_SETTINGS } from '../core/motion/settings'
import { runCling } from '../core/motion/cling/runCling'
import { runTrack } from '../core/motion/runTrack'
import { CliError } from './cliError'
import { EXIT } from './exitCodes'
import { onFootage, readDocument, requireGoing, writeWhole, type OpenFootage } from './plate'

export interface TrackOptions {
  readonly plate: string
  readonly points: string
  readonly out: string
  readonly firstFrame: string
  readonly rate: string
}

export interface RunEnd {
  readonly trackId: string
  readonly name: string
  readonly direction: Direction
  readonly reason: string
  readonly frame: number
}

export interface TrackSummary {
  readonly tracks: number
  readonly frames: number
  readonly framesPerSecond: number
  readonly out: string
  readonly ends: readonly RunEnd[]
  /** What was not followed to the end, in words. */
  readonly warnings: readonly string[]
}

const ENDED: Readonly<Record<string, (end: RunEnd) => string>> = {
  lost: ({ frame, direction }) => `was lost at frame ${frame}, ${direction}.`,
  'left-picture': ({ frame, direction }) => `left the picture at frame ${frame}, ${direction}.`,
  'nothing-to-hold': ({ frame }) => `has nothing to hold on to at frame ${frame}.`,
  'no-line': ({ frame }) => `shows no line near its path at frame ${frame}: it stays as it was drawn.`,
  'too-short': ({ frame }) =>
    `is drawn too short to tell a line by at frame ${frame}: it stays as it was drawn.`,
}

/** One for each run that ended early; also said at once. */
function warningsOf(ends: readonly RunEnd[], say: (text: string) => void): string[] {
  const all = ends.flatMap((end) => (ENDED[end.reason] ? [`${end.name} ${ENDED[end.reason]!(end)}`] : []))
  for (const one of all) say(`${one}\n`)
  return all
}

/** Tracks what points.json asks for; writes tracks.json, or a table where `out` ends in .csv. */
export async function trackFootage(
  options: TrackOptions,
  say: (text: string) => void,
  signal: AbortSignal,
): Promise<TrackSummary> {
  const text = await readFile(options.points, 'utf8').catch((cause: Error) => {
    throw new CliError(EXIT.usage, `${options.points} cannot be read: ${cause.message}`)
  })
  const asked = parseFile(pointsFileSchema, text)
  if (!asked.ok) throw new CliError(EXIT.usage, `${options.points} cannot be used. ${asked.detail}`)
  return onFootage(
    options,
    { firstFrame: Number(options.firstFrame), frameRate: { num: 24, den: 1 } },
    say,
    signal,
    async (footage) => {
      const tracks: Track[] = []
      const ends: RunEnd[] = []
      const counter = countFrames(say)
      for (const { name, kind, frame, seed, direction, settings } of asked.value.tracks) {
        requireFrame(frame, footage, options.points)
        let track = newTrack(randomUUID(), kind, name, frame, seed, {
          ...DEFAULT_TRACK_SETTINGS,
          ...settings,
        })
        const start = track
        for (const one of directionsOf(direction)) {
          const request = trackRequest(start, frame, framesFrom(frame, one, footage))
          const outcome = await runTrack(request, footage.source, {
            shouldStop: () => signal.aborted,
            onFrame: counter.tick,
          })
          track = absorb(track, frame, outcome)
          ends.push({ trackId: track.id, name, direction: one, ...outcome.end })
        }
        tracks.push(track)
      }
      const file: TracksFile = {
        format: 'fillagrant-tracks',
        version: 1,
        plate: { width: footage.source.plate.width, height: footage.source.plate.height },
        tracks,
        ends: ends.map(({ trackId, direction, reason, frame }) => ({ trackId, direction, reason, frame })),
      }
      requireGoing(signal)
      await writeWhole(
        options.out,
        options.out.endsWith('.csv') ? tracksToCsv(tracks) : serialiseTracks(file),
      )
      const done = { tracks: tracks.length, ...counter.total(), out: options.out, ends }
      return { ...done, warnings: warningsOf(ends, say) }
    },
  )
}

export interface ClingOptions {
  readonly plate: string
  readonly mends: string
  readonly out: string
  readonly frame?: string
  readonly rate: string
}

/** Lets every path of the mends cling, both ways from a frame, and writes the mends with what was found. */
export async function clingFootage(
  options: ClingOptions,
  say: (text: string) => void,
  signal: AbortSignal,
): Promise<TrackSummary> {
  const document = await readDocument(options.mends)
  return onFootage(options, document.plate, say, signal, async (footage) => {
    const ends: RunEnd[] = []
    const counter = countFrames(say)
    const tracks = new Map(tracksById(document.tracks))
    const mends: MendDocument['mends'] = []
    for (const mend of document.mends) {
      const areas: Area[] = []
      for (const area of mend.areas) {
        if (area.shape !== 'path' || area.role === 'holdout') {
          areas.push(area)
          continue
        }
        // Where it was drawn: its last key, which a drawing leaves on its own frame.
        const frame = options.frame === undefined ? area.keys.at(-1)!.frame : Number(options.frame)
        requireFrame(frame, footage, options.mends)
        const geometry = geometryAt(area, tracks, frame)
        if (geometry.shape !== 'path') continue
        const placed = newTrack(randomUUID(), 'cling', `Cling, ${mend.name}`, frame, [], {
          ...DEFAULT_TRACK_SETTINGS,
          searchPx: CLING_SEARCH_PX,
        })
        const request = clingRequest(placed, geometry.points, frame, bothWays(frame, footage))
        const outcome = await runCling(request, footage.source, {
          shouldStop: () => signal.aborted,
          onFrame: counter.tick,
        })
        const track = absorbCling(placed, outcome)
        for (const [i, end] of outcome.ends.entries())
          ends.push({ trackId: track.id, name: mend.name, direction: DIRECTIONS[i]!, ...end })
        if (track.frames.length === 0) {
          areas.push(area)
          continue
        }
        areas.push(clungArea(area, tracks, track, mend.span, frame, footage))
        tracks.set(track.id, track)
      }
      mends.push({ ...mend, areas })
    }
    requireGoing(signal)
    await writeWhole(options.out, serialiseDocument({ ...document, mends, tracks: [...tracks.values()] }))
    const done = { tracks: tracks.size, ...counter.total(), out: options.out, ends }
    return { ...done, warnings: warningsOf(ends, say) }
  })
}

const DIRECTIONS = ['forward', 'backward'] as const satisfies readonly Direction[]

const directionsOf = (direction: Direction | 'both'): readonly Direction[] =>
  direction === 'both' ? DIRECTIONS : [direction]

function requireFrame(frame: number, { firstFrame, lastFrame }: OpenFootage, file: string): void {
  if (Number.isInteger(frame) && frame >= firstFrame && frame <= lastFrame) return
  throw new CliError(
    EXIT.usage,
    `${file} starts on frame ${frame}; the plate has frames ${firstFrame} to ${lastFrame}.`,
  )
}

function countFrames(say: (text: string) => void) {
  const begun = performance.now()
  let frames = 0
  const rate = () => Number((frames / Math.max((performance.now() - begun) / 1000, 1e-3)).toPrecision(3))
  return {
    tick: () => {
      frames++
      say(`\r${frames} frames followed, ${rate()} a second  `)
    },
    total: () => {
      say('\n')
      return { frames, framesPerSecond: rate() }
    },
  }
}
