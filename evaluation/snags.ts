/**
 * How well snags tell what shows: faults planted in mends that are right, on the demo film and on the practice set, from seeds; a fault shows where
 * the picture differs visibly from the truth. Even seeds, and the sequences that set, are what thresholds are set on; the others report.
 *
 *   node --import tsx evaluation/snags.ts FILM PRACTICE OUT [--only=NAME] [--seeds=N] [--bases=demo|practice]
 *
 * OUT gets a line for every frame that was looked at (JSON): which fault, how visible, what was measured. `evaluation/snagScores.ts` scores them.
 */
import { appendFileSync, writeFileSync } from 'node:fs'
import { readdirSync } from 'node:fs'
import { masksOf } from '../core/evaluate/masks'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { layPatches } from '../core/evaluate/finished'
import type { Mend } from '../core/document/mend'
import { growRect, intersectRects, uniteRects, type Rect } from '../core/image/rect'
import { markRunsInto } from '../core/image/runs'
import type { Samples } from '../core/image/samples'
import type { MendMeasure } from '../core/measure/mendMeasure'
import { planFrame } from '../core/plan/planFrame'
import { coarseFrame, coarseMarks, type CoarseFrame } from '../core/proof/coarseFrame'
import { measureOverTime, type OverTime } from '../core/proof/overTime'
import { lagsAround } from '../core/proof/lags'
import { analyseScene } from '../core/scene/analyseScene'
import { motionsBetween, type Scene } from '../core/scene/scene'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { faultsOf, type Fault } from './faults'
import { demoBases, practiceBase, type SnagBase } from './snagBases'
import { visibleErrors, worstAdded, worstOf } from './visible'

const [film, practice, out] = process.argv.slice(2).filter((one) => !one.startsWith('--')) as [string, string, string]
const option = (name: string) => process.argv.find((one) => one.startsWith(`--${name}=`))?.split('=')[1]
const seeds = Number(option('seeds') ?? 2)
const only = option('only')
const which = option('bases')
const NEVER = { shouldStop: () => false }
/** Frames of a shot that is looked at whole: more tell no more. */
const MAX_FRAMES = 48

/** A finished frame with what was measured of it. */
interface Finished {
  readonly samples: Samples
  readonly mended: Uint8Array
  readonly rect: Rect | null
  readonly coarse: CoarseFrame
  readonly measures: readonly MendMeasure[]
}

const BESIDE_PX = 24

async function finish(base: SnagBase, mends: readonly Mend[], frame: number, scene: Scene | null, fault?: Fault): Promise<Finished> {
  const { clip, span } = base
  const { width, height } = clip.plate
  const plan = planFrame(documentOf(mends, undefined, { ...span, width, height }, scene), frame)
  const done = await evaluateFrame(plan, clip, NEVER)
  const mended = new Uint8Array(width * height)
  for (const { rect, mendedRuns } of done.patches) markRunsInto(mended, mendedRuns, rect, width)
  let samples = layPatches(await base.plateAt(frame), done.patches, 3)
  if (fault?.pixelsAt) samples = fault.pixelsAt(samples, mended, frame)
  const rects = done.patches.map(({ rect }) => rect)
  const whole = { col: 0, row: 0, width, height }
  const rect = rects.length > 0 ? intersectRects(growRect(rects.reduce(uniteRects), BESIDE_PX), whole) : null
  return { samples, mended, rect, coarse: coarseFrame(samples), measures: done.measures }
}

interface Line {
  readonly base: string
  readonly sets: boolean
  readonly seed: number
  readonly fault: string | null
  readonly size: string | null
  readonly frame: number
  /** CIEDE2000 of the worst spot, and of the same frame without the fault. */
  readonly visible: number
  readonly usual: number
  readonly overTime: OverTime | null
  readonly measures: readonly MendMeasure[]
  readonly before: readonly MendMeasure[]
}

async function measure(base: SnagBase, scene: Scene | null, at: (frame: number) => Finished | undefined, frame: number): Promise<OverTime | null> {
  const now = at(frame)!
  const marks = coarseMarks(now.mended, base.clip.plate.width, now.coarse)
  const others = lagsAround(frame, base.frames[0]!, base.frames.at(-1)!).flatMap((other) => {
    const there = at(other)
    return there ? [{ coarse: there.coarse, motions: scene ? motionsBetween(scene, frame, other) : [[1, 0, 0, 0, 1, 0, 0, 0, 1] as const] }] : [] // prettier-ignore
  })
  return measureOverTime(now.coarse, marks, marks, others)
}

async function run(base: SnagBase): Promise<void> {
  const begun = performance.now()
  const { span, clip } = base
  const { width, height } = clip.plate
  const frames = base.frames.slice(0, MAX_FRAMES)
  const maskAt = masksOf(documentOf(base.mends, undefined, { ...span, width, height }), clip)
  const scene = await analyseScene({ range: span, maskAt }, clip, NEVER)
  const clean = new Map<number, Finished>()
  for (const frame of frames) clean.set(frame, await finish(base, base.mends, frame, scene))
  const truths = new Map<number, Samples>()
  for (const frame of frames) truths.set(frame, await base.truthAt(frame))
  const usual = new Map<number, number>()
  const lines: Line[] = []
  for (const frame of frames) {
    const one = clean.get(frame)!
    const error = one.rect ? worstOf(visibleErrors(one.samples, truths.get(frame)!, one.rect)) : 0
    usual.set(frame, error)
    lines.push({
      base: base.name, sets: base.sets, seed: -1, fault: null, size: null, frame, visible: error, usual: error,
      overTime: await measure(base, scene, (at) => clean.get(at), frame),
      measures: one.measures, before: clean.get(frame - 1)?.measures ?? [],
    }) // prettier-ignore
  }
  for (let seed = 0; seed < seeds; seed++) {
    for (const fault of faultsOf(frames, base.mends, 7919 * (seed + 1) + base.name.length)) {
      const faulted = new Map(clean)
      for (let frame = fault.firstFrame; frame <= fault.lastFrame; frame++) {
        const mends = fault.mendAt ? base.mends.map((mend) => fault.mendAt!(mend, frame)) : base.mends
        faulted.set(frame, await finish(base, mends, frame, scene, fault))
      }
      for (let frame = fault.firstFrame; frame <= fault.lastFrame; frame++) {
        const one = faulted.get(frame)!
        const rect = one.rect && clean.get(frame)?.rect ? uniteRects(one.rect, clean.get(frame)!.rect!) : (one.rect ?? clean.get(frame)?.rect) // prettier-ignore
        lines.push({
          base: base.name, sets: base.sets, seed, fault: fault.kind, size: fault.size, frame,
          visible: rect ? worstAdded(...([one, clean.get(frame)!].map(({ samples }) => visibleErrors(samples, truths.get(frame)!, rect)) as [Float32Array, Float32Array])) : 0,
          usual: usual.get(frame) ?? 0,
          overTime: await measure(base, scene, (at) => faulted.get(at), frame),
          measures: one.measures, before: faulted.get(frame - 1)?.measures ?? [],
        }) // prettier-ignore
      }
    }
  }
  appendFileSync(out, lines.map((line) => `${JSON.stringify(line)}\n`).join(''))
  process.stderr.write(`${base.name}: ${lines.length} frames, ${Math.round((performance.now() - begun) / 1000)} s\n`)
}

if (!only && !which) writeFileSync(out, '')
const bases = which === 'practice' ? [] : await demoBases(film)
for (const base of bases) if (!only || base.name.startsWith(only)) await run(base)
for (const name of which === 'demo' ? [] : readdirSync(practice).sort()) {
  if (only && !name.startsWith(only)) continue
  const base = await practiceBase(practice, name)
  if (base) await run(base)
}
