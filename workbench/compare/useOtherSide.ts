/** What the result is compared with, where that is not the plate: its mends are fetched, and the frame at the playhead is mended with them. */
import { useEffect, useMemo, useState, useSyncExternalStore } from 'react'
import { toast } from 'sonner'
import { useStore } from 'zustand'
import { tracksById, type Track } from '../../core/document/tracks'
import type { MendRecord } from '../../core/document/mend'
import type { ShotDocument } from '../../core/plan/shotDocument'
import type { Scene } from '../../core/scene/scene'
import { isOfTwo, type Against } from '../../core/view/compare'
import type { ComputePool } from '../../workers/pool'
import type { PlateReference } from '../../workers/protocol'
import { useBench, useBenchParts } from '../BenchContext'
import type { Mended } from '../preview/mendedPieces'
import type { BenchStore } from '../store/bench'
import { shotDocumentOf } from '../store/shotDocument'
import { OtherSide } from './otherSide'

/** A version of the shot, or its mends as they are now, as the server tells of them. */
export interface OtherMends {
  /** What it is called. */
  readonly title: string
  readonly records: readonly MendRecord[]
  readonly tracks: readonly Track[]
  readonly scene: Scene | null
}

interface Given {
  readonly store: BenchStore
  readonly pool: ComputePool | null
  readonly plateReference: PlateReference
  readonly shotId: string
  readonly scene: Scene | null
}

export interface Other {
  /** Null while the server renders the page. */
  readonly side: OtherSide | null
  readonly title: string
}

export function useOtherSide({ store, pool, plateReference, shotId, scene }: Given): Other {
  const [side, setSide] = useState<OtherSide | null>(null)
  const plate = useStore(store, (bench) => bench.plate)
  useEffect(() => {
    if (!pool) return
    const { firstFrame, lastFrame } = plate
    const made = new OtherSide({
      plate: { ...plateReference, firstFrame, lastFrame },
      documentId: `${shotId} compared with`,
      pool,
      onProblem: (message) => toast.error(message, { id: 'compared' }),
    })
    setSide(made)
    return () => {
      setSide(null)
      made.close()
    }
  }, [plate, plateReference, pool, shotId])

  const against = useStore(store, ({ compare }) => (isOfTwo(compare.mode) ? compare.against : 'plate'))
  const kept = useStore(store, (bench) => bench.kept)
  const fetched = useFetched(shotId, against)
  const document = useMemo((): ShotDocument | null => {
    if (against === 'plate') return null
    if (against === 'kept') return kept && shotDocumentOf({ ...kept, plate }, scene)
    if (!fetched || fetched.against !== against) return null
    const { records, tracks, scene: own } = fetched
    return shotDocumentOf({ records: new Map(records.map((one) => [one.id, one])), tracks: tracksById(tracks), plate }, own) // prettier-ignore
  }, [against, fetched, kept, plate, scene])
  const frame = useStore(store, (bench) => bench.frame)
  useEffect(() => side?.want(frame, document), [document, frame, side])
  const told = fetched?.against === against ? fetched.title : 'The other'
  const title = against === 'plate' ? 'Plate' : against === 'kept' ? 'Kept' : told
  return useMemo(() => ({ side, title }), [side, title])
}

function useFetched(shotId: string, against: Against) {
  const [fetched, setFetched] = useState<(OtherMends & { readonly against: Against }) | null>(null)
  useEffect(() => {
    if (against === 'plate' || against === 'kept') return undefined
    let isCurrent = true
    fetch(`/shots/${shotId}/compared/${against}`)
      .then(async (response) => {
        if (!response.ok) throw new Error(`The server said ${response.status}.`)
        return (await response.json()) as OtherMends
      })
      .then((mends) => isCurrent && setFetched({ ...mends, against }))
      .catch(
        (cause: Error) =>
        toast.error(`What is compared with could not be fetched: ${cause.message} The plate is shown instead.`, { id: 'compared' }), // prettier-ignore
      )
    return () => void (isCurrent = false)
  }, [against, shotId])
  return fetched
}

const NO_STOP = () => () => undefined

/** The frame at the playhead as what is compared with has it: null where that is the plate; undefined while it is not known. */
export function useOtherFrame(): Mended | null | undefined {
  const { side } = useBenchParts().other
  const frame = useBench((bench) => bench.frame)
  const isPlate = useBench(({ compare }) => compare.against === 'plate' || !isOfTwo(compare.mode))
  const known = useSyncExternalStore(
    useMemo(() => side?.subscribe.bind(side) ?? NO_STOP, [side]),
    () => side?.at(frame) ?? undefined,
    () => undefined,
  )
  return isPlate ? null : known
}
