/**
 * What the snags say of the frames that `evaluation/snags.ts` has kept: a fault that is visible is found where one of them is within a frame of it; a
 * frame without a fault that looks right is flagged where there is one.
 *
 *   node --import tsx evaluation/snagScores.ts OUT [--verbose]
 *
 * JSON lines: of the half that sets thresholds (even seeds of shots that set), and of the half that reports.
 */
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { COARSE_VALUES, type CoarseFrame } from '../core/measure/coarseFrame'
import { expectedAround, lagsAround } from '../core/measure/lags'
import { proofOfFrame, snagsOfProofs, type FrameProof } from '../core/proof/frameProof'
import { overTimeOfMends } from '../core/proof/overTimeOfMends'
import { motionsBetween, type Scene } from '../core/scene/scene'
import type { Snag } from '../core/snags/snags'
import type { KeptFrame, KeptShot } from './snags'
import { NOTICED } from './visible'

const [out] = process.argv.slice(2).filter((one) => !one.startsWith('--')) as [string]
const isVerbose = process.argv.includes('--verbose')

interface Opened extends Omit<KeptFrame, 'patches'> {
  readonly patches: readonly {
    readonly rect: KeptFrame['patches'][number]['rect']
    readonly mendedRuns: Int32Array
  }[]
  readonly coarse: CoarseFrame
}

/** A frame before or after the run of a fault may be told with it. */
const WITHIN_FRAMES = 1

interface Counts {
  visible: number
  found: number
  clean: number
  flagged: number
}
const none = (): Counts => ({ visible: 0, found: 0, clean: 0, flagged: 0 })
const halves = { sets: none(), reports: none() }
const byKind = new Map<string, Counts>()

function openShot(name: string): { shot: KeptShot; frames: Opened[] } {
  const [head, ...lines] = readFileSync(join(out, `${name}.jsonl`), 'utf8').split('\n')
  const shot = JSON.parse(head!) as KeptShot
  const cells = readFileSync(join(out, `${name}.cells`))
  const bytes = 2 * COARSE_VALUES * shot.cols * shot.rows
  const frames = lines.map((line, i) => {
    const frame = JSON.parse(line) as KeptFrame
    const own = new Uint8Array(cells.subarray(i * bytes, (i + 1) * bytes))
    return {
      ...frame,
      patches: frame.patches.map(({ rect, mendedRuns }) => ({
        rect,
        mendedRuns: Int32Array.from(mendedRuns),
      })),
      coarse: { cols: shot.cols, rows: shot.rows, values: new Uint16Array(own.buffer) },
    }
  })
  return { shot, frames }
}

const proofsOf = (
  frames: ReadonlyMap<number, Opened>,
  asked: readonly number[],
  scene: Scene | null,
): FrameProof[] => {
  const [first, last] = [Math.min(...frames.keys()), Math.max(...frames.keys())]
  return asked.map((frame) => {
    const one = frames.get(frame)!
    const others = lagsAround(frame, first, last).flatMap((other) => {
      const there = frames.get(other)
      return there && scene ? [{ coarse: there.coarse, motions: motionsBetween(scene, frame, other) }] : []
    })
    const expected = expectedAround(frame).flatMap((other) => frames.get(other) ?? [])
    const overTime = overTimeOfMends(one, expected, others, () => true)
    return proofOfFrame(frame, {
      measures: one.measures,
      before: frames.get(frame - 1)?.measures ?? [],
      overTime,
    })
  })
}

for (const file of readdirSync(out)
  .filter((one) => one.endsWith('.jsonl'))
  .sort()) {
  const { shot, frames } = openShot(file.replace('.jsonl', ''))
  const clean = new Map(frames.filter(({ seed }) => seed < 0).map((one) => [one.frame, one]))
  const cleanProofs = new Map(
    proofsOf(clean, [...clean.keys()], shot.scene).map((proof) => [proof.frame, proof]),
  )
  const cleanSnags = snagsOfProofs([...cleanProofs.values()])
  const half = shot.sets ? halves.sets : halves.reports
  const report = none()
  for (const one of clean.values()) {
    if (one.usual >= NOTICED) continue // it does show something: no clean frame
    const here = cleanSnags.filter(({ frame }) => frame === one.frame)
    for (const counts of [half, report]) {
      counts.clean++
      if (here.length > 0) counts.flagged++
    }
    if (isVerbose && here.length > 0) tell('flagged', shot.name, one, here, cleanProofs.get(one.frame)!)
  }
  const faults = new Map<string, Opened[]>()
  for (const one of frames) {
    const name = `${one.seed} ${one.fault}`
    if (one.seed >= 0) faults.set(name, [...(faults.get(name) ?? []), one])
  }
  for (const faulted of faults.values()) {
    const [{ seed, fault }] = faulted as [Opened]
    const all = new Map([...clean, ...faulted.map((one) => [one.frame, one] as const)])
    const nearby = [...all.keys()].filter((frame) => faulted.some((one) => Math.abs(one.frame - frame) <= 13))
    const proofs = new Map([...cleanProofs, ...proofsOf(all, nearby, shot.scene).map((proof) => [proof.frame, proof] as const)]) // prettier-ignore
    const snags = [...snagsOfProofs([...proofs.values()])]
    for (const one of faulted) {
      if (one.visible < NOTICED || one.usual >= NOTICED) continue
      const isFound = snags.some(({ frame }) => Math.abs(frame - one.frame) <= WITHIN_FRAMES)
      const own = shot.sets && seed % 2 === 0 ? halves.sets : halves.reports
      for (const counts of [own, report, kindOf(fault!)]) {
        counts.visible++
        if (isFound) counts.found++
      }
      if (isVerbose && !isFound) tell('missed', shot.name, one, [], proofs.get(one.frame)!)
    }
  }
  print(shot.name, report)
}
for (const [kind, counts] of byKind) print(kind, counts)
for (const [half, counts] of Object.entries(halves)) print(half, counts)

function kindOf(kind: string): Counts {
  const counts = byKind.get(kind) ?? none()
  byKind.set(kind, counts)
  return counts
}

function tell(
  what: string,
  shot: string,
  { fault, size, frame, visible }: Opened,
  snags: readonly Snag[],
  { mends }: FrameProof,
): void {
  const over = mends.map(({ overTime }) => overTime && { in: overTime.inside?.e.toFixed(1), by: overTime.beside?.e.toFixed(1), us: overTime.usualE.toFixed(1), sh: overTime.sharpness?.toFixed(2), gr: overTime.grain?.toFixed(2) }) // prettier-ignore
  process.stdout.write(`${JSON.stringify({ what, shot, fault, size, frame, visible: visible.toFixed(1), snags: snags.map(({ reason, weight }) => `${reason} ${weight.toFixed(2)}`), over })}\n`) // prettier-ignore
}

function print(of: string, { visible, found, clean: all, flagged }: Counts): void {
  const share = (part: number, whole: number) => (whole === 0 ? null : Math.round((1000 * part) / whole) / 10)
  process.stdout.write(`${JSON.stringify({ figure: 'snags', of, visible, foundPercent: share(found, visible), clean: all, flaggedPercent: share(flagged, all) })}\n`) // prettier-ignore
}
