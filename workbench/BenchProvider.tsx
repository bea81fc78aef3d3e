/** What the stages on a shot share, put together: the store and its saving, frames, workers, the view, the address. */
import { useCallback, useEffect, useMemo, useState, type ReactNode } from 'react'
import { useStore } from 'zustand'
import { useNavigation } from 'react-router'
import { toast } from 'sonner'
import type { HistoryEntry } from '../core/document/history'
import type { Track } from '../core/document/tracks'
import type { MendRecord } from '../core/document/mend'
import type { Compare } from '../core/view/compare'
import type { ShotDocument } from '../core/plan/shotDocument'
import type { SceneStatus } from '../core/jobs/scene'
import type { ComputePool } from '../workers/pool'
import { BenchContext, type BenchParts } from './BenchContext'
import { useClipPictures } from './viewing/clipPictures'
import {
  carriedBy,
  stabilisedView,
  releasedView,
  SCENE_STABILISED,
  sceneCarried,
} from './picture/stabilisedView'
import type { View } from './picture/view'
import { useOtherSide } from './compare/useOtherSide'
import { useFillsAhead } from './preview/useFillsAhead'
import { createBrowserPool } from './preview/browserPool'
import { FrameCache } from './preview/frameCache'
import type { ShotLink } from './shell/TopBar'
import { createBench } from './store/bench'
import type { BenchPlate } from './store/benchState'
import { shotDocumentOf, withStandIn } from './store/shotDocument'
import { setAside } from './store/setAside'
import { SaveQueue } from './store/saveQueue'
import { useWetStroke, withWetStroke } from './tools/wetStroke'
import { useScene } from './useScene'

export interface BenchProps {
  readonly productionName: string
  readonly shot: ShotLink & { readonly revision: number }
  readonly shots: readonly ShotLink[]
  readonly plate: BenchPlate
  readonly records: readonly MendRecord[]
  readonly tracks: readonly Track[]
  readonly scene: SceneStatus
  readonly history: readonly HistoryEntry[]
  /** The history is only the last part of what is stored. */
  readonly hasEarlierSteps?: boolean
  /** It shows what a version was made of: nothing of it changes. */
  readonly isFrozen?: boolean
  readonly start: Omit<PlaceShown, 'compare'> & Partial<PlaceShown>
  /** Told when what the address shows has changed. */
  onPlaceChange(place: PlaceShown): void
}

/** What an address says of where one looks. */
export interface PlaceShown {
  readonly frame: number
  readonly scale: number
  readonly selectedId: string | null
  readonly compare: Compare
}

const UNFITTED: View = { scale: 0, left: 0, top: 0 }

/** Puts together what every stage on a shot works with: store, saving, frames, workers, the view. */
export function BenchProvider({ children, ...props }: BenchProps & { readonly children: ReactNode }) {
  const { shot, plate, records, tracks, history, hasEarlierSteps = false, start, isFrozen = false } = props
  const [restingView, setRestingView] = useState<View>(UNFITTED)
  const [pool, setPool] = useState<ComputePool | null>(null)
  const [cache, setCache] = useState<FrameCache | null>(null)

  const [{ store, queue: saving }] = useState(() => {
    const bench = createBench({
      plate,
      records,
      tracks,
      history,
      hasEarlierSteps,
      frame: start.frame,
      selectedId: start.selectedId,
      compare: start.compare,
      save: (step) => queue.add(step),
      onBlocked: ({ label }, role) =>
        toast.info(
          `“${label}” cannot be ${role === 'undo' ? 'taken back' : 'made again'}: the same was changed by somebody else since. It stays; what was done before it can still be undone.`,
        ),
    })
    const queue = new SaveQueue({
      url: `/shots/${shot.id}/edits`,
      revision: shot.revision,
      onState: (state) => bench.getState().setSaveState(state),
      onNewer: (newer, ours) => bench.getState().takeInNewer(newer, ours),
      onRefused: (edits, message) => {
        setAside(shot.id, edits, message)
        toast.error(`“${edits[0]!.label}” was not kept. ${message}`, {
          description: 'Everything before it is safe. It is set aside; the page shows what is stored.',
          duration: 8000,
        })
        setTimeout(() => window.location.reload(), 3000)
      },
    })
    return { store: bench, queue }
  })

  const plateReference = useMemo(() => {
    const origin = typeof window === 'undefined' ? '' : window.location.origin
    return {
      plateId: plate.id,
      width: plate.width,
      height: plate.height,
      channels: plate.channels,
      bitDepth: plate.bitDepth,
      location: `${origin}/plates/${plate.id}`,
      matteLocation: `${origin}/shots/${shot.id}/mattes`,
      stillLocation: `${origin}/shots/${shot.id}/stills`,
      markLocation: `${origin}/marks`,
      resultLocation: `${origin}/plates/${plate.id}/results`,
    }
  }, [plate, shot.id])

  useEffect(() => {
    const pool = createBrowserPool()
    pool.warm()
    setPool(pool)
    const made = new FrameCache({
      plate: { ...plateReference, firstFrame: plate.firstFrame, lastFrame: plate.lastFrame },
      documentId: shot.id,
      pool,
      onProblem: (message) => toast.error(message),
    })
    setCache(made)
    return () => {
      setCache(null)
      setPool(null)
      made.close()
      pool.close()
    }
  }, [plate, plateReference, shot.id])

  const frame = useStore(store, (bench) => bench.frame)
  const liveRecords = useStore(store, (bench) => bench.records)
  const selectedId = useStore(store, (bench) => bench.selectedId)
  const liveTracks = useStore(store, (bench) => bench.tracks)
  const scene = useScene(shot.id, props.scene, isFrozen)
  const document: ShotDocument = useMemo(
    () => shotDocumentOf({ records: liveRecords, tracks: liveTracks, plate }, scene.scene),
    [liveRecords, liveTracks, plate, scene.scene],
  )
  const isPassing = useStore(store, (bench) => bench.gesture !== null)
  const isPlaying = useStore(store, (bench) => bench.isPlaying)
  const fillsAhead = useFillsAhead(store)
  const playRange = useStore(store, (bench) => bench.playRange)
  const showsSeen = useStore(store, ({ mapView, compare }) => mapView !== 'off' || compare.mode === 'seen')
  const tellsCovered = useStore(store, ({ compare }) => compare.mode === 'matte')
  const isFollowing = useStore(store, (bench) => bench.following !== null)
  const standIn = useStore(store, (bench) => bench.following?.standIn ?? null)
  useWetStroke(store, cache, scene.scene)
  const wet = useStore(store, (bench) => bench.wet)
  const shown = useMemo(
    () =>
      wet
        ? shotDocumentOf({ ...withWetStroke({ records: liveRecords, tracks: liveTracks }, wet), plate }, scene.scene) // prettier-ignore
        : withStandIn(document, standIn),
    [document, liveRecords, liveTracks, plate, scene.scene, standIn, wet],
  )
  useEffect(
    () =>
      cache?.want({
        frame,
        document: shown,
        isPassing: isPassing || standIn !== null || wet !== null,
        isHeld: isFollowing && standIn === null,
        isPlaying,
        fillsAhead,
        showsSeen,
        tellsCovered,
        ...(playRange ? { range: playRange } : {}),
      }),
    [
      cache,
      frame,
      shown,
      isPassing,
      isFollowing,
      standIn,
      wet,
      isPlaying,
      fillsAhead,
      showsSeen,
      tellsCovered,
      playRange,
    ],
  )

  // The view may ride on a track: everything below sees the view as it is shown.
  const stabilisedTrackId = useStore(store, (bench) => bench.stabilisedTrackId)
  const { dx, dy } = useMemo(() => {
    if (stabilisedTrackId === SCENE_STABILISED)
      return scene.scene ? sceneCarried(scene.scene, frame) : { dx: 0, dy: 0 }
    const held = stabilisedTrackId === null ? undefined : liveTracks.get(stabilisedTrackId)
    return held ? carriedBy(held, frame) : { dx: 0, dy: 0 }
  }, [frame, stabilisedTrackId, liveTracks, scene.scene])
  const view = useMemo(() => stabilisedView(restingView, { dx, dy }), [restingView, dx, dy])
  const setView = useCallback<BenchParts['setView']>(
    (change) =>
      setRestingView((now) =>
        releasedView(typeof change === 'function' ? change(stabilisedView(now, { dx, dy })) : change, {
          dx,
          dy,
        }),
      ),
    [dx, dy],
  )

  const { onPlaceChange } = props
  const compare = useStore(store, (bench) => bench.compare)
  useEffect(() => {
    if (isPlaying || view.scale === 0) return
    const timer = setTimeout(() => onPlaceChange({ frame, scale: view.scale, selectedId, compare }), 400)
    return () => clearTimeout(timer)
  }, [compare, frame, isPlaying, onPlaceChange, selectedId, view.scale])

  // The next page asks for what is stored: nothing rests then.
  const isLeaving = useNavigation().state !== 'idle'
  useEffect(() => {
    if (isLeaving) saving.hurry()
  }, [isLeaving, saving])

  // Edits that are still on their way would be lost with the page.
  useEffect(() => {
    const warn = (event: BeforeUnloadEvent) => {
      if (store.getState().saveState !== 'saved') event.preventDefault()
    }
    window.addEventListener('beforeunload', warn)
    return () => window.removeEventListener('beforeunload', warn)
  }, [store])

  const clipPictures = useClipPictures(plate.id)
  const other = useOtherSide({ store, pool, plateReference, shotId: shot.id, scene: scene.scene })
  const parts: BenchParts = useMemo(
    () => ({
      store,
      saving,
      cache,
      other,
      pool,
      plateReference,
      shotId: shot.id,
      isFrozen,
      scene,
      clipPictures,
      view,
      setView,
    }),
    [
      store,
      saving,
      cache,
      other,
      pool,
      plateReference,
      shot.id,
      isFrozen,
      scene,
      clipPictures,
      view,
      setView,
    ],
  )
  return <BenchContext value={parts}>{children}</BenchContext>
}
