/** A clung path that was moved by hand: the cling is solved again around that frame, both ways, as far as it helps. */
import { toast } from 'sonner'
import type { PathArea } from '../../core/document/areas'
import { bothWays, clingRequest } from '../../core/document/follow'
import { geometryAt } from '../../core/document/keyedGeometry'
import { setRight, setRightArea, trackedFrames } from '../../core/document/setRight'
import type { Track } from '../../core/document/tracks'
import type { ClingOutcome } from '../../core/motion/cling/runCling'
import type { Frame } from '../../core/time'
import type { ClingJob } from '../../workers/protocol'
import type { BenchParts } from '../BenchContext'
import { BOTH, followAll, TRACK_URGENCY, type Run } from './followAll'

/** So long nothing more is moved before the line is looked for again. */
const SETTLED_MS = 400

/** @returns Told of each move by hand; what comes of the last of several is kept as one step. */
export function lineSetRight(parts: BenchParts): (mendId: string, areaId: string) => void {
  let waiting: ReturnType<typeof setTimeout> | undefined
  let isSolving = false
  const wait = (mendId: string, areaId: string, frame: Frame) => {
    clearTimeout(waiting)
    waiting = setTimeout(() => void solve(mendId, areaId, frame), SETTLED_MS)
  }
  const solve = async (mendId: string, areaId: string, frame: Frame) => {
    const { following, gesture } = parts.store.getState()
    if (following && isSolving) following.stop()
    if (following || gesture) return wait(mendId, areaId, frame)
    isSolving = true
    await solveAround(parts, mendId, areaId, frame)
    isSolving = false
  }
  return (mendId, areaId) => wait(mendId, areaId, parts.store.getState().frame)
}

/** A path that clings, and the cling. */
function clungPath({ store }: BenchParts, mendId: string, areaId: string) {
  const { records, tracks } = store.getState()
  const mend = records.get(mendId)
  const area = mend?.areas.find((one) => one.id === areaId)
  const track = area?.follow ? tracks.get(area.follow.trackId) : undefined
  return mend && area?.shape === 'path' && track?.kind === 'cling' ? { mend, area, track } : null
}

async function solveAround(parts: BenchParts, mendId: string, areaId: string, frame: Frame): Promise<void> {
  const { store, pool, plateReference } = parts
  const clung = clungPath(parts, mendId, areaId)
  const { tracks, plate } = store.getState()
  const hand = clung && geometryAt(clung.area, tracks, frame)
  if (!pool || !clung || hand?.shape !== 'path') return
  const { area, track } = clung
  const ways = bothWays(frame, plate)
  const request = clingRequest(track, hand.points, frame, ways, trackedFrames(track))
  let outcome: ClingOutcome | null = null
  const run: Run = async (options) => {
    const job = { kind: 'cling', plate: plateReference, request } as const satisfies ClingJob
    outcome = await pool.run(job, { urgency: TRACK_URGENCY, ...options })
    return { ends: [], take: (now) => now } // that a way ends is no loss: what was known goes on there
  }
  const words = `Looking for the line of ${track.name} around ${frame}`
  await followAll(parts, track, { ...BOTH, words }, run, () => {
    if (outcome) keepSetRight(parts, mendId, { area, track, frame, points: hand.points }, outcome)
  })
}

interface SetByHand {
  readonly area: PathArea
  readonly track: Track
  readonly frame: Frame
  readonly points: Parameters<typeof setRight>[2]
}

/** Keeps what was found as a step of its own, unless the path or its cling has been changed meanwhile. */
function keepSetRight(
  parts: BenchParts,
  mendId: string,
  { area, track, frame, points }: SetByHand,
  outcome: ClingOutcome,
): void {
  const now = clungPath(parts, mendId, area.id)
  if (!now || now.area !== area || now.track !== track) return
  const isFound = outcome.frames.length > 0
  if (!isFound) {
    toast.info(`No line was found where ${now.mend.name} was set at ${frame}. The key stays as it is set.`)
    return
  }
  const { track: right, changed } = setRight(track, frame, points, outcome)
  const { tracks, commit } = parts.store.getState()
  const clung = setRightArea(area, tracks, right, frame)
  const areas = now.mend.areas.map((one) => (one.id === area.id ? clung : one))
  commit({
    label: `${now.mend.name} set right at ${frame}, its line found again around it`,
    changes: [{ id: mendId, before: now.mend, after: { ...now.mend, areas } }],
    tracks: [{ id: track.id, before: track, after: right }],
  })
  const { firstFrame, lastFrame } = changed
  toast.success(
    firstFrame === lastFrame
      ? `${now.mend.name} is set right at ${frame}. On the other frames its line stays where it was.`
      : `${now.mend.name} is set right at ${frame}: its line was found anew from ${firstFrame} to ${lastFrame}.`,
  )
}
