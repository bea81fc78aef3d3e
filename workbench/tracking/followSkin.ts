/** The spots of a mend followed on the surface that they lie on, both ways from the frame that is looked at. */
import { v4 as newId } from 'uuid'
import { absorb, framesFrom, trackRequest } from '../../core/document/follow'
import { followSurface, surfaceTrack } from '../../core/document/followSurface'
import type { TrackJob } from '../../workers/protocol'
import type { BenchParts } from '../BenchContext'
import { BOTH, followAll, TRACK_URGENCY, type Run } from './followAll'

export async function followSkin(parts: BenchParts, mendId: string): Promise<void> {
  const { store, pool, plateReference } = parts
  const state = store.getState()
  const mend = state.records.get(mendId)
  if (!mend || !pool || state.following) return
  const { frame, plate } = state
  const start = surfaceTrack(state, mend, frame, newId())
  const run: Run = async (options) => {
    const outcomes = await Promise.all(
      BOTH.directions.map((direction) => {
        const request = trackRequest(start, frame, framesFrom(frame, direction, plate))
        const job = { kind: 'track', plate: plateReference, request } as const
        return pool.run(job satisfies TrackJob, { urgency: TRACK_URGENCY, ...options })
      }),
    )
    const take = (track: typeof start) =>
      outcomes.reduce((now, outcome) => absorb(now, frame, outcome), track)
    return { ends: outcomes.map(({ end }) => end), take }
  }
  await followAll(parts, start, { ...BOTH, words: `Following the spots of ${mend.name}` }, run, (track) => {
    const now = store.getState()
    const mended = now.records.get(mendId)
    if (!mended || track.frames.length === 0) return
    now.commit(followSurface(now, mended, track))
    now.selectTrack(track.id)
  })
}
