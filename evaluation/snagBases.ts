/**
 * Mends that are right, on shots with their truth: an area on every frame where the thing is, and what its kind starts with. The demo
 * film and the practice set give them; of the latter, half the sequences set constants.
 */
import type { Area } from '../core/document/areas'
import type { OutlinePoint } from '../core/document/areas'
import type { PathPoint } from '../core/geometry/pathCurve'
import { startingFill, startingFinish, type Mend, type MendKind } from '../core/document/mend'
import type { Samples } from '../core/image/samples'
import type { Clip } from '../core/shot/clip'
import { momentAt as mothAt } from '../demo/lm010/scene'
import { openShot } from './film'
import { openSequence } from './practiceFootage'
import { linesAt, roughDrawing } from './practiceLines'
import { hullOf, roughOutline } from './practiceMends'

export interface SnagBase {
  readonly name: string
  /** Whether constants may be set on it; else it only reports. */
  readonly sets: boolean
  readonly span: { readonly firstFrame: number; readonly lastFrame: number }
  readonly clip: Clip
  plateAt(frame: number): Promise<Samples>
  truthAt(frame: number): Promise<Samples>
  /** Frames on which the thing is there. */
  readonly frames: readonly number[]
  /** All of the mends, with a key on every frame. */
  readonly mends: readonly Mend[]
}

const common = { role: 'cover', interpolation: 'linear', follow: null } as const

function mendOf(id: string, kind: MendKind, area: Area, span: SnagBase['span']): Mend {
  return {
    id,
    kind,
    name: id,
    isOn: true,
    areas: [area],
    fill: startingFill(kind),
    source: null,
    finish: startingFinish(kind),
    span: { ...span, rampInFrames: 0, rampOutFrames: 0 },
  }
}

const pathMend = (
  id: string,
  kind: 'wire' | 'rig',
  frames: readonly number[],
  pointsAt: (frame: number) => readonly PathPoint[],
  span: SnagBase['span'],
): Mend =>
  mendOf(id, kind, { ...common, shape: 'path', id: 'a', keys: frames.map((frame) => ({ frame, points: [...pointsAt(frame)] })) }, span) // prettier-ignore

const outlineMend = (
  frames: readonly number[],
  pointsAt: (frame: number) => readonly OutlinePoint[],
  span: SnagBase['span'],
): Mend =>
  mendOf('object', 'object', { ...common, shape: 'outline', id: 'a', keys: frames.map((frame) => ({ frame, points: [...pointsAt(frame)] })) }, span) // prettier-ignore

const allOf = ({ firstFrame, lastFrame }: SnagBase['span']): number[] =>
  Array.from({ length: lastFrame - firstFrame + 1 }, (_, i) => firstFrame + i)

/** Points along a thread at which its course is drawn. */
const THREAD_PLACES = [0, 12, 24, 36, 48]

/** Shots of the demo film. */
export async function demoBases(film: string): Promise<SnagBase[]> {
  const baseOf = (
    name: string,
    sets: boolean,
    mendsOf: (span: SnagBase['span'], frames: number[]) => Mend[],
  ) => {
    const { span, source, read } = openShot(name, film)
    const frames = allOf(span)
    return {
      name,
      sets,
      span,
      clip: source,
      frames,
      plateAt: (frame: number) => read('plate', frame),
      truthAt: (frame: number) => read('truth-without-grain', frame),
      mends: mendsOf(span, frames),
    }
  }
  const outlined = async (name: string, sets: boolean): Promise<SnagBase> => {
    const { span, readMatte, description } = openShot(name, film)
    const { width, height } = description
    const outlines = await outlinesOf(allOf(span), async (frame) => ({ width, height, channels: 1, data: await readMatte(frame) })) // prettier-ignore
    const frames = [...outlines.keys()]
    return {
      ...baseOf(name, sets, () => [outlineMend(frames, (frame) => outlines.get(frame)!, span)]),
      frames,
    }
  }
  return [
    baseOf('LM_010', true, (span, frames) =>
      [0, 1].map(
        (thread) =>
        pathMend(`wire-${thread}`, 'wire', frames, (frame) => THREAD_PLACES.map((place) => ({ ...mothAt(frame).threads[thread]!.points[place]! })), span), // prettier-ignore
      ),
    ),
    await outlined('LM_070', false),
    await outlined('LM_080', true),
  ]
}

/** A drawn outline round what its matte covers, on every frame where there is any. */
async function outlinesOf(
  frames: readonly number[],
  matteAt: (frame: number) => Promise<Samples>,
): Promise<Map<number, OutlinePoint[]>> {
  const outlines = new Map<number, OutlinePoint[]>()
  for (const frame of frames) {
    const hull = hullOf(await matteAt(frame))
    if (hull.length >= 3) outlines.set(frame, roughOutline(hull))
  }
  return outlines
}

/** A sequence of the practice set; null where it is not mended by a path or an outline. */
export async function practiceBase(folder: string, name: string): Promise<SnagBase | null> {
  const sequence = openSequence(folder, name)
  const { span, clip, read } = sequence
  const base = {
    name,
    sets: sequence.sets,
    span,
    clip,
    plateAt: (frame: number) => read('plate', frame),
    truthAt: (frame: number) => read('clean', frame),
  }
  if (/^(wire|rod)_/.test(name)) {
    const frames = allOf(span).filter((frame) => linesAt(sequence, frame).length > 0)
    const kind = name.startsWith('wire') ? 'wire' : 'rig'
    const count = Math.min(...frames.map((frame) => linesAt(sequence, frame).length))
    const mends = Array.from(
      { length: count },
      (_, line) =>
      pathMend(`line-${line}`, kind, frames, (frame) => roughDrawing(linesAt(sequence, frame)[line]!, clip.plate), span), // prettier-ignore
    )
    return { ...base, frames, mends }
  }
  if (!/^(object|fill)_/.test(name)) return null
  const outlines = await outlinesOf(allOf(span), (frame) => read('matte', frame))
  const frames = [...outlines.keys()]
  return { ...base, frames, mends: [outlineMend(frames, (frame) => outlines.get(frame)!, span)] }
}
