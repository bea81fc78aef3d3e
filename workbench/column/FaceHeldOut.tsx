/** Says what of faces is held out of a mend of skin, and lets it be looked for, taken away and brought back. */
import { v4 as newId } from 'uuid'
import { faceHoldouts, facesIn, holdOutFaces, holdOutNoFaces } from '../../core/document/faceFound'
import type { MendRecord } from '../../core/document/mend'
import { hasRowAt, type Track } from '../../core/document/tracks'
import { useBench, useBenchParts } from '../BenchContext'
import { useTracking } from '../tracking/useTracking'
import { SMALL_BUTTON } from './buttonStyles'

export function FaceHeldOut({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const { findFaces } = useTracking()
  const tracks = useBench((bench) => bench.tracks)
  const frame = useBench((bench) => bench.frame)
  const isBusy = useBench((bench) => bench.following !== null)
  const used = new Set(faceHoldouts(mend, tracks).map(({ follow }) => follow!.trackId))
  const faces = [...tracks.values()].filter(({ id }) => used.has(id))
  const known = facesIn(mend, tracks, frame)
  const isHeldOut = faces.length > 0
  const { commit } = store.getState()
  return (
    <div role="note" className="my-1 rounded-sm border border-line px-2 py-1.5" data-testid="faces">
      <p className="pb-1.5 text-soft">
        {isHeldOut
          ? `Eyes, brows, lips and nostrils of ${counted(faces.length)} are held out${whereSeen(faces, frame)}.`
          : 'Eyes, brows and lips keep their sharpness where a face is found; else hold them out by hand.'}
      </p>
      <div className="flex flex-wrap gap-1.5">
        {isHeldOut ? (
          <button type="button" className={SMALL_BUTTON} onClick={() => commit(holdOutNoFaces(mend, tracks))}>
            Even them too
          </button>
        ) : (
          known.length > 0 && (
            <button
              type="button"
              className={SMALL_BUTTON}
              onClick={() => commit(holdOutFaces(store.getState(), mend, known, frame, newId))}
            >
              Hold them out
            </button>
          )
        )}
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={isBusy}
          title="From this frame on, through the shot"
          onClick={() => findFaces(mend.id, true)}
        >
          {isHeldOut || known.length > 0 ? 'Find faces again' : 'Find faces'}
        </button>
      </div>
    </div>
  )
}

const counted = (count: number): string => (count === 1 ? '1 face' : `${count} faces`)

/** Where a face was not found, what is held out stays where it was last. */
function whereSeen(faces: readonly Track[], frame: number): string {
  const missing = faces.filter((track) => !hasRowAt(track, frame)).length
  if (missing === 0) return ''
  return missing === faces.length ? '; not found on this frame' : `; ${missing} not found on this frame`
}
