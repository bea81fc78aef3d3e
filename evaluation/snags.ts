/**
 * Faults planted in mends that are right, on the demo film and on the practice set, from seeds: every frame that comes of it is kept as the proof sees
 * it, with how visible its errors are. `evaluation/snagScores.ts` scores what the snags say of them.
 *
 *   node --import tsx evaluation/snags.ts FILM PRACTICE OUT [--only=NAME] [--seeds=N] [--kinds=KIND,KIND]
 *
 * OUT gets two files for each shot: lines of JSON, a frame each, and the frames in cells.
 */
import { mkdirSync, readdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { masksOf } from '../core/evaluate/masks'
import { evaluateFrame } from '../core/evaluate/evaluateFrame'
import { layPatches } from '../core/evaluate/finished'
import type { Mend } from '../core/document/mend'
import { growRect, intersectRects, uniteRects, wholePicture, type Rect } from '../core/image/rect'
import { markRunsInto } from '../core/image/runs'
import type { Samples } from '../core/image/samples'
import type { MendMeasure } from '../core/measure/mendMeasure'
import { planFrame } from '../core/plan/planFrame'
import { coarseFrame, type CoarseFrame } from '../core/measure/coarseFrame'
import { analyseScene } from '../core/scene/analyseScene'
import type { Scene } from '../core/scene/scene'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { faultsOf, type Fault } from './faults'
import { demoBases, practiceBase, type SnagBase } from './snagBases'
import { visibleErrors, worstAdded, worstOf } from './visible'

const [film, practice, out] = process.argv.slice(2).filter((one) => !one.startsWith('--')) as [
  string,
  string,
  string,
]
const option = (name: string) => process.argv.find((one) => one.startsWith(`--${name}=`))?.split('=')[1]
const seeds = Number(option('seeds') ?? 2)
const only = option('only')
const kinds = option('kinds')?.split(',')
const NEVER = { shouldStop: () => false }
/** Frames of a shot that is looked at whole: more tell no more. */
const MAX_FRAMES = 48
const BESIDE_PX = 24

/** A frame with a fault, or as it is without any (seed −1). */
export interface KeptFrame {
  readonly seed: number
  readonly fault: string | null
  readonly size: string | null
  readonly frame: number
  /** CIEDE2000 of the worst spot that the fault has made worse; and of the worst of the same frame without it. */
  readonly visible: number
  readonly usual: number
  /** Of each group of mends: where it lies, and where it has laid anything. */
  readonly patches: readonly { readonly rect: Rect; readonly mendedRuns: readonly number[] }[]
  readonly measures: readonly MendMeasure[]
}

/** The first line of a shot. */
export interface KeptShot {
  readonly name: string
  readonly sets: boolean
  readonly cols: number
  readonly rows: number
  readonly scene: Scene | null
  /** With the keys of its mends: where a fault moves one, its data tell of it. */
  readonly mends: readonly Mend[]
}

interface Finished {
  readonly samples: Samples
  readonly rect: Rect | null
  readonly coarse: CoarseFrame
  readonly patches: KeptFrame['patches']
  readonly measures: readonly MendMeasure[]
}

async function finish(
  base: SnagBase,
  mends: readonly Mend[],
  frame: number,
  scene: Scene | null,
  fault?: Fault,
): Promise<Finished> {
  // prettier-ignore
  const { clip, span } = base
  const { width, height } = clip.plate
  const plan = planFrame(documentOf(mends, undefined, { ...span, width, height }, scene), frame)
  const { patches, measures } = await evaluateFrame(plan, clip, NEVER)
  let samples = layPatches(await base.plateAt(frame), patches, 3)
  if (fault?.pixelsAt) {
    const mended = new Uint8Array(width * height)
    for (const { rect, mendedRuns } of patches) markRunsInto(mended, width, mendedRuns, rect)
    samples = fault.pixelsAt(samples, mended, frame)
  }
  const rects = patches.map(({ rect }) => rect)
  const rect = rects.length > 0 ? intersectRects(growRect(rects.reduce(uniteRects), BESIDE_PX), wholePicture(clip.plate)) : null // prettier-ignore
  const kept = patches.map((patch) => ({ rect: patch.rect, mendedRuns: [...patch.mendedRuns] }))
  return { samples, rect, coarse: coarseFrame(samples), patches: kept, measures }
}

async function run(base: SnagBase): Promise<void> {
  const begun = performance.now()
  const { span, clip } = base
  const { width, height } = clip.plate
  const frames = base.frames.slice(0, MAX_FRAMES)
  const maskAt = masksOf(documentOf(base.mends, undefined, { ...span, width, height }), clip)
  const scene = await analyseScene({ range: span, maskAt }, clip, NEVER)
  const lines: string[] = []
  const cells: Uint8Array[] = []
  const keep = (one: Finished, about: Omit<KeptFrame, 'patches' | 'measures'>) => {
    const { values } = one.coarse
    cells.push(new Uint8Array(values.buffer, values.byteOffset, values.byteLength))
    lines.push(JSON.stringify({ ...about, patches: one.patches, measures: one.measures }))
  }
  const clean = new Map<number, Finished>()
  const usual = new Map<number, number>()
  const errorsOf = async ({ samples }: Finished, frame: number, rect: Rect) =>
    visibleErrors(samples, await base.truthAt(frame), rect)
  for (const frame of frames) {
    const one = await finish(base, base.mends, frame, scene)
    const error = one.rect ? worstOf(await errorsOf(one, frame, one.rect)) : 0
    clean.set(frame, one)
    usual.set(frame, error)
    keep(one, { seed: -1, fault: null, size: null, frame, visible: error, usual: error })
  }
  for (let seed = 0; seed < seeds; seed++) {
    for (const fault of faultsOf(frames, base.mends, 7919 * (seed + 1) + base.name.length)) {
      if (kinds && !kinds.includes(fault.kind)) continue
      for (let frame = fault.firstFrame; frame <= fault.lastFrame; frame++) {
        const before = clean.get(frame)
        if (!before) continue
        const mends = fault.mendAt ? base.mends.map((mend) => fault.mendAt!(mend, frame)) : base.mends
        const one = await finish(base, mends, frame, scene, fault)
        const rect = one.rect && before.rect ? uniteRects(one.rect, before.rect) : (one.rect ?? before.rect)
        const visible = rect
          ? worstAdded(await errorsOf(one, frame, rect), await errorsOf(before, frame, rect))
          : 0
        keep(one, { seed, fault: fault.kind, size: fault.size, frame, visible, usual: usual.get(frame) ?? 0 })
      }
    }
  }
  const { cols, rows } = clean.get(frames[0]!)!.coarse
  const shot: KeptShot = { name: base.name, sets: base.sets, cols, rows, scene, mends: base.mends }
  mkdirSync(out, { recursive: true })
  writeFileSync(join(out, `${base.name}.jsonl`), [JSON.stringify(shot), ...lines].join('\n'))
  writeFileSync(join(out, `${base.name}.cells`), Buffer.concat(cells))
  process.stderr.write(
    `${base.name}: ${lines.length} frames, ${Math.round((performance.now() - begun) / 1000)} s\n`,
  )
}

for (const base of await demoBases(film)) if (!only || base.name.startsWith(only)) await run(base)
for (const name of readdirSync(practice).sort()) {
  if (only && !name.startsWith(only)) continue
  const base = await practiceBase(practice, name)
  if (base) await run(base)
}
