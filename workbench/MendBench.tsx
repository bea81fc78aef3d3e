/** The Mend stage put together: store, frames, keys, and the four regions of the bench. */
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { useStore } from 'zustand'
import { toast } from 'sonner'
import { CircleHelp, Download, Redo2, Undo2 } from 'lucide-react'
import type { HistoryEntry } from '../core/mend/edits'
import { duplicateMend, removeMend, setOn, together } from '../core/mend/commands'
import type { Track } from '../core/mend/tracks'
import type { MendRecord } from '../core/mend/schema'
import { BenchContext, useBench, useBenchParts, type BenchParts } from './BenchContext'
import { OPEN_PALETTE_EVENT } from './column/NewMend'
import { RENAME_EVENT } from './column/MendCard'
import { WorkColumn } from './column/WorkColumn'
import { Loupes } from './loupes/Loupes'
import { Picture } from './picture/Picture'
import { centredView, fitView, nextScaleDown, nextScaleUp, zoomAbout, type View } from './picture/view'
import { createBrowserPool } from './preview/browserPool'
import { FrameCache } from './preview/frameCache'
import { stackOf } from './preview/mendKey'
import { ShortcutSheet } from './shell/ShortcutSheet'
import { Key } from './shell/Key'
import { TopBar, type ShotLink } from './shell/TopBar'
import { HistoryList } from './shell/HistoryList'
import { TracksMenu } from './shell/TracksMenu'
import { useShortcuts, type ShortcutHandlers } from './shell/useShortcuts'
import { createBench, selectedArea, selectedMend, selectedMends, type BenchPlate } from './store/bench'
import { SaveQueue } from './store/saveQueue'
import { Strip } from './strip/Strip'
import { idleTool } from './tools/tool'
import { useSendToTool } from './tools/useSendToTool'
import { useSuggest } from './tracking/useSuggest'
import { useTracking } from './tracking/useTracking'
import { Progress } from './column/TrackPanel'
import { useSnags } from './strip/useSnags'
import { carriedBy, heldView, releasedView, SCENE_HOLD, sceneCarried } from './picture/heldView'
import type { ComputePool } from '../workers/pool'
import { usePlayback } from './usePlayback'
import type { SceneStatus } from '../core/scene/status'
import { useScene } from './useScene'

export interface MendBenchProps {
  readonly productionName: string
  readonly shot: ShotLink & { readonly revision: number }
  readonly shots: readonly ShotLink[]
  readonly plate: BenchPlate
  readonly records: readonly MendRecord[]
  readonly tracks: readonly Track[]
  readonly scene: SceneStatus
  readonly history: readonly HistoryEntry[]
  readonly start: { readonly frame: number; readonly scale: number; readonly selectedId: string | null }
  /** Told when what the address shows has changed. */
  onPlaceChange(place: { frame: number; scale: number; selectedId: string | null }): void
}

const UNFITTED: View = { scale: 0, left: 0, top: 0 }

export function MendBench(props: MendBenchProps) {
  const { shot, plate, records, tracks, history, start } = props
  const [restingView, setRestingView] = useState<View>(UNFITTED)
  const [pool, setPool] = useState<ComputePool | null>(null)
  const [cache, setCache] = useState<FrameCache | null>(null)
  const [cacheVersion, setCacheVersion] = useState(0)

  const [store] = useState(() => {
    const bench = createBench({
      plate,
      records,
      tracks,
      history,
      frame: start.frame,
      selectedId: start.selectedId,
      save: (role, edit) => queue.add(role, edit),
    })
    const queue = new SaveQueue({
      url: `/shots/${shot.id}/edits`,
      revision: shot.revision,
      onState: (state) => bench.getState().setSaveState(state),
      onNewer: (newer, ours) => bench.getState().takeInNewer(newer, ours),
      onRefused: (edit, message) => {
        toast.error(`“${edit.label}” was not kept. ${message}`, {
          description: 'Everything before it is safe. The page shows what is stored.',
          duration: 8000,
        })
        setTimeout(() => window.location.reload(), 3000)
      },
    })
    return bench
  })

  const plateReference = useMemo(() => {
    const origin = typeof window === 'undefined' ? '' : window.location.origin
    return {
      plateId: plate.id,
      width: plate.width,
      height: plate.height,
      channels: plate.channels,
      bitDepth: plate.bitDepth,
      location: `${origin}/plates/${plate.id}/frames`,
      matteLocation: `${origin}/shots/${shot.id}/mattes`,
      stillLocation: `${origin}/shots/${shot.id}/stills`,
      shelfLocation: `${origin}/plates/${plate.id}/gathered`,
    }
  }, [plate, shot.id])

  useEffect(() => {
    const pool = createBrowserPool()
    setPool(pool)
    const made = new FrameCache({
      plate: { ...plateReference, firstFrame: plate.firstFrame, lastFrame: plate.lastFrame },
      pool,
      onChange: () => setCacheVersion((version) => version + 1),
      onProblem: (message) => toast.error(message),
    })
    setCache(made)
    return () => {
      setCache(null)
      setPool(null)
      made.close()
      pool.close()
    }
  }, [plate, plateReference])

  const frame = useStore(store, (bench) => bench.frame)
  const liveRecords = useStore(store, (bench) => bench.records)
  const selectedId = useStore(store, (bench) => bench.selectedId)
  const stack = useMemo(() => stackOf(liveRecords.values()), [liveRecords])
  const liveTracks = useStore(store, (bench) => bench.tracks)
  const scene = useScene(shot.id, props.scene)
  useEffect(() => cache?.want(frame, stack, liveTracks, scene.scene), [cache, frame, stack, liveTracks, scene.scene])

  // The view may ride on a track: everything below sees the view as it is shown.
  const heldTrackId = useStore(store, (bench) => bench.heldTrackId)
  const { dx, dy } = useMemo(() => {
    if (heldTrackId === SCENE_HOLD) return scene.scene ? sceneCarried(scene.scene, frame) : { dx: 0, dy: 0 }
    const held = heldTrackId === null ? undefined : liveTracks.get(heldTrackId)
    return held ? carriedBy(held, frame) : { dx: 0, dy: 0 }
  }, [frame, heldTrackId, liveTracks, scene.scene])
  const view = useMemo(() => heldView(restingView, { dx, dy }), [restingView, dx, dy])
  const setView = useCallback<BenchParts['setView']>(
    (change) => setRestingView((now) => releasedView(typeof change === 'function' ? change(heldView(now, { dx, dy })) : change, { dx, dy })),
    [dx, dy],
  )

  const { onPlaceChange } = props
  const isPlaying = useStore(store, (bench) => bench.isPlaying)
  useEffect(() => {
    if (isPlaying || view.scale === 0) return
    const timer = setTimeout(() => onPlaceChange({ frame, scale: view.scale, selectedId }), 400)
    return () => clearTimeout(timer)
  }, [frame, isPlaying, onPlaceChange, selectedId, view.scale])

  // Edits that are still on their way would be lost with the page.
  useEffect(() => {
    const warn = (event: BeforeUnloadEvent) => {
      if (store.getState().saveState !== 'saved') event.preventDefault()
    }
    window.addEventListener('beforeunload', warn)
    return () => window.removeEventListener('beforeunload', warn)
  }, [store])

  const snags = useSnags(store, cache, cacheVersion, scene.scene)
  const parts: BenchParts = useMemo(
    () => ({ store, cache, cacheVersion, pool, plateReference, shotId: shot.id, scene, snags, view, setView }),
    [store, cache, cacheVersion, pool, plateReference, shot.id, scene, snags, view, setView],
  )
  return (
    <BenchContext value={parts}>
      <Regions {...props} />
    </BenchContext>
  )
}

function Regions({ productionName, shot, shots, start }: MendBenchProps) {
  const { setView, view } = useBenchParts()
  const plate = useBench((bench) => bench.plate)
  const [isSheetOpen, setSheetOpen] = useState(false)
  const region = useRef<HTMLElement>(null)
  usePlayback()

  /** The picture panel's size, read when it is needed. */
  const panelSize = useCallback(() => {
    const panel = region.current?.querySelector<HTMLElement>('[data-testid="picture"]')
    return { width: panel?.clientWidth ?? 0, height: panel?.clientHeight ?? 0 }
  }, [])

  useEffect(() => {
    if (start.scale > 0) setView(centredView(plate, panelSize(), start.scale))
    // Only what the address brought at first.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [])

  useKeys(setSheetOpen, panelSize)
  return (
    <div className="flex h-screen flex-col">
      <TopBar productionName={productionName} shot={shot} shots={shots} stage="mend">
        <FollowingState />
        <TracksMenu />
        <HistoryButtons />
        <HistoryList />
        <SavedState />
        <a
          href={`/shots/${shot.id}/mends.json`}
          download
          className="rounded-sm bg-raised p-1.5 hover:bg-lifted"
          aria-label="Export mends.json"
          title="Export mends.json"
        >
          <Download aria-hidden className="size-4" />
        </a>
        <button type="button" className="rounded-sm bg-raised p-1.5 hover:bg-lifted" aria-label="Keys" title="?" onClick={() => setSheetOpen(true)}>
          <CircleHelp aria-hidden className="size-4" />
        </button>
      </TopBar>
      <main ref={region} className="flex min-h-0 grow">
        <WorkColumn />
        <div className="flex min-w-0 grow flex-col">
          <div className="flex min-h-0 grow">
            <div className="flex min-w-0 grow flex-col">
              <Picture />
              <ViewBar
                scale={view.scale}
                onFit={() => setView(fitView(plate, panelSize()))}
                onFull={() => setView(centredView(plate, panelSize(), 1))}
              />
            </div>
            <Loupes />
          </div>
          <Strip />
        </div>
      </main>
      <ShortcutSheet isOpen={isSheetOpen} onOpenChange={setSheetOpen} />
    </div>
  )
}

function useKeys(setSheetOpen: (isOpen: boolean) => void, panelSize: () => { width: number; height: number }): void {
  const { store, setView, snags } = useBenchParts()
  const sendToTool = useSendToTool()
  const tracking = useTracking()
  const suggest = useSuggest()
  const handlers = useMemo<ShortcutHandlers>(() => {
    const { plate, goTo, setPlaying, commit, undo, redo, hideOverlays, showPlate, setTool, select } = store.getState()
    const now = () => store.getState()
    const withSelected = (act: (mend: MendRecord) => void) => {
      const mend = selectedMend(now())
      if (mend) act(mend)
    }
    const toPin = (choose: (frames: number[]) => number | undefined) =>
      withSelected(() => {
        const area = selectedArea(now())
        const target = area && area.shape !== 'matte' ? choose(area.keys.map((key) => key.frame)) : undefined
        if (target !== undefined) goTo(target)
      })
    const toSnag = (snag: (typeof snags)[number] | undefined) => {
      if (!snag) return
      goTo(snag.frame)
      if (now().selectedId !== snag.mendId) select(snag.mendId)
    }
    const zoom = (next: (scale: number) => number) => {
      const { width, height } = panelSize()
      setView((view) => zoomAbout(view, next(view.scale), width / 2, height / 2))
    }
    return {
      newMend: () => window.dispatchEvent(new Event(OPEN_PALETTE_EVENT)),
      play: () => setPlaying(!now().isPlaying),
      back: () => goTo(now().frame - 1),
      on: () => goTo(now().frame + 1),
      backTen: () => goTo(now().frame - 10),
      onTen: () => goTo(now().frame + 10),
      first: () => goTo(plate.firstFrame),
      last: () => goTo(plate.lastFrame),
      pinBack: () => toPin((frames) => frames.findLast((frame) => frame < now().frame)),
      pinOn: () => toPin((frames) => frames.find((frame) => frame > now().frame)),
      plate: () => showPlate(true),
      overlays: () => hideOverlays(!now().areOverlaysHidden),
      fit: () => setView(fitView(plate, panelSize())),
      full: () => setView(centredView(plate, panelSize(), 1)),
      zoomIn: () => zoom(nextScaleUp),
      zoomOut: () => zoom(nextScaleDown),
      snagBack: () => toSnag(snags.findLast((snag) => snag.frame < now().frame)),
      snagOn: () => toSnag(snags.find((snag) => snag.frame > now().frame)),
      toggle: () =>
        withSelected((mend) =>
          commit(
            together(
              selectedMends(now()).map((one) => setOn(one, !mend.isOn)),
              `Turn several mends ${mend.isOn ? 'off' : 'on'}`,
            ),
          ),
        ),
      duplicate: () => withSelected((mend) => commit(duplicateMend(now().records, mend, crypto.randomUUID()))),
      delete: () => withSelected(() => commit(together(selectedMends(now()).map(removeMend), 'Delete several mends'))),
      cling: () =>
        withSelected((mend) => {
          const area = selectedArea(now())
          if (area?.shape === 'path') void tracking.cling(mend.id, area.id)
        }),
      suggest: () =>
        withSelected((mend) => {
          const area = selectedArea(now())
          if (area) void suggest(mend.id, area.id)
        }),
      // Without a track the whole background is held.
      hold: () => now().holdStill(now().heldTrackId === null ? (now().trackId ?? SCENE_HOLD) : null),
      finish: () => sendToTool({ kind: 'finish' }),
      rename: () => withSelected((mend) => window.dispatchEvent(new CustomEvent(RENAME_EVENT, { detail: mend.id }))),
      undo,
      redo,
      escape: () => {
        if (now().tool.kind !== 'idle') setTool(idleTool)
        else if (now().following) now().following?.stop()
        else if (now().gesture) now().cancelGesture()
        else select(null)
      },
      help: () => setSheetOpen(true),
    }
  }, [panelSize, sendToTool, setSheetOpen, setView, snags, store, suggest, tracking])
  useShortcuts(handlers)

  // The plate is shown only while its key is held.
  useEffect(() => {
    const release = (event: KeyboardEvent) => {
      if (event.key === '\\') store.getState().showPlate(false)
    }
    const leave = () => store.getState().showPlate(false)
    window.addEventListener('keyup', release)
    window.addEventListener('blur', leave)
    return () => {
      window.removeEventListener('keyup', release)
      window.removeEventListener('blur', leave)
    }
  }, [store])
}

function ViewBar({ scale, onFit, onFull }: { scale: number; onFit: () => void; onFull: () => void }) {
  const { store } = useBenchParts()
  const isPlateShown = useBench((bench) => bench.isPlateShown)
  const areOverlaysHidden = useBench((bench) => bench.areOverlaysHidden)
  const { showPlate, hideOverlays } = store.getState()
  const button = (isOn: boolean) => `rounded-sm px-2 py-0.5 ${isOn ? 'bg-[#5a5a5a] text-ink' : 'bg-panel text-soft hover:text-ink'}`
  return (
    <div className="flex h-9 shrink-0 items-center gap-1.5 bg-[#3a3a3a] px-3" role="toolbar" aria-label="View">
      <button type="button" aria-pressed={!isPlateShown} className={button(!isPlateShown)} onClick={() => showPlate(false)}>
        Mended
      </button>
      <button type="button" aria-pressed={isPlateShown} className={button(isPlateShown)} onClick={() => showPlate(true)}>
        Plate <Key>\</Key>
      </button>
      <button type="button" aria-pressed={!areOverlaysHidden} className={button(!areOverlaysHidden)} onClick={() => hideOverlays(!areOverlaysHidden)}>
        Overlays <Key>H</Key>
      </button>
      <span className="grow" />
      <button type="button" className={button(false)} onClick={onFit}>
        Fit <Key>0</Key>
      </button>
      <button type="button" className={button(false)} onClick={onFull}>
        100 % <Key>1</Key>
      </button>
      <span className="w-16 text-right font-mono text-ink" data-testid="zoom">
        {Math.round(scale * 100)} %
      </span>
    </div>
  )
}

function HistoryButtons() {
  const { store } = useBenchParts()
  const stacks = useBench((bench) => bench.stacks)
  const { undo, redo } = store.getState()
  const [last, next] = [stacks.done.at(-1), stacks.undone.at(-1)]
  const button = 'rounded-sm bg-raised p-1.5 hover:bg-lifted disabled:opacity-40'
  return (
    <>
      <button
        type="button"
        className={button}
        disabled={!last}
        aria-label={last ? `Undo: ${last.label}` : 'Nothing to undo'}
        title={last ? `Undo: ${last.label}` : undefined}
        onClick={undo}
      >
        <Undo2 aria-hidden className="size-4" />
      </button>
      <button
        type="button"
        className={button}
        disabled={!next}
        aria-label={next ? `Redo: ${next.label}` : 'Nothing to redo'}
        title={next ? `Redo: ${next.label}` : undefined}
        onClick={redo}
      >
        <Redo2 aria-hidden className="size-4" />
      </button>
    </>
  )
}

/** What is being followed, when its card is not open to show it. */
function FollowingState() {
  const isFollowing = useBench((bench) => bench.following !== null)
  return isFollowing ? (
    <span className="w-64">
      <Progress />
    </span>
  ) : null
}

const SAVED_WORDS = { saved: 'Saved', saving: 'Saving…', offline: 'Not saved yet' } as const

function SavedState() {
  const state = useBench((bench) => bench.saveState)
  return (
    <span
      role="status"
      data-testid="saved"
      className={`w-24 text-right ${state === 'offline' ? 'text-caution' : 'text-soft'}`}
      title={state === 'offline' ? 'The server does not answer. The edits are kept here and sent again by themselves.' : undefined}
    >
      {SAVED_WORDS[state]}
    </span>
  )
}
