/**
 * What the bench knows about one shot: the document (saved, undone) and the session (neither).
 *
 * Components read it through selectors; everything that changes it is an action here. A gesture
 * collects many edits into one step: `preview` shows, `endGesture` keeps, `cancelGesture` takes back.
 */
import { v4 as newId } from 'uuid'
import type { FrameRange } from '../../core/time'
import { PLAIN_PLAYBACK } from '../../core/view/playback'
import { DEFAULT_BRUSH } from '../../core/document/brush'
import { createStore } from 'zustand/vanilla'
import isSame from 'fast-deep-equal'
import {
  applyEdit,
  fitsOn,
  invertEdit,
  squashEdits,
  touchedBy,
  type MendEdit,
  type ShotState,
} from '../../core/document/edits'
import { packEdit, unpackEdit, type PackedEdit } from '../../core/document/packedEdit'
import {
  advanceStacks,
  afterOthers,
  dropStep,
  emptyStacks,
  stacksOf,
  type EditRole,
  type HistoryEntry,
  type HistoryStep,
  type Step,
} from '../../core/document/history'
import type { MendRecord } from '../../core/document/mend'
import { tracksById, type Track } from '../../core/document/tracks'
import { NO_COMPARISON, type Compare } from '../../core/view/compare'
import { PLAIN_VIEW } from '../../core/view/viewTransform'
import { idleTool } from '../tools/tool'
import type { Bench, BenchPlate } from './benchState'

/** One set for all that have none: what listens to it is told of no change. */
const NO_STROKES: ReadonlySet<string> = new Set()

export type BenchStore = ReturnType<typeof createBench>

export interface BenchStart {
  readonly plate: BenchPlate
  readonly records: readonly MendRecord[]
  readonly tracks: readonly Track[]
  readonly history: readonly HistoryEntry[]
  readonly hasEarlierSteps?: boolean
  readonly frame: number
  readonly selectedId: string | null
  readonly compare?: Compare
  /** Stores an edit; it has been applied here already. */
  readonly save: (step: HistoryStep) => void
  /** Told of a step that cannot be taken back or made again: somebody else has changed the same since. */
  readonly onBlocked: (edit: PackedEdit, role: 'undo' | 'redo') => void
}

/** The frames of a range that a plate has; null where that is all or none of them. */
function rangeWithin({ firstFrame, lastFrame }: FrameRange, plate: BenchPlate): FrameRange | null {
  const range = {
    firstFrame: Math.max(firstFrame, plate.firstFrame),
    lastFrame: Math.min(lastFrame, plate.lastFrame),
  }
  const isAll = range.firstFrame === plate.firstFrame && range.lastFrame === plate.lastFrame
  return isAll || range.lastFrame < range.firstFrame ? null : range
}

/** The state before edits that led to it, or after edits that follow it; null where one of them does not fit. */
function walked(start: ShotState, edits: readonly PackedEdit[], side: 'before' | 'after'): ShotState | null {
  let state = start
  for (const packed of edits) {
    const edit = unpackEdit(packed, state, side)
    if (!edit) return null
    state = applyEdit(state, side === 'before' ? edit : invertEdit(edit))
  }
  return state
}

export function createBench({
  plate,
  records,
  tracks,
  history,
  hasEarlierSteps = false,
  frame,
  selectedId,
  compare = NO_COMPARISON,
  save,
  onBlocked,
}: BenchStart) {
  const clampFrame = (to: number) => Math.min(Math.max(Math.round(to), plate.firstFrame), plate.lastFrame)
  const start = new Map(records.map((record) => [record.id, record]))
  return createStore<Bench>()((set, get) => {
    /** Applies a stored step and keeps the selection on something that exists. */
    const step = (role: EditRole, edit: MendEdit, targetId: string | null = null) => {
      const made = { editId: newId(), role, targetId, edit: packEdit(edit) }
      save(made)
      set((state) => {
        const next = applyEdit(state, edit)
        const added = edit.changes.find((change) => change.before === null)?.id
        const selectedId =
          added ?? (state.selectedId !== null && next.records.has(state.selectedId) ? state.selectedId : null)
        const areas = selectedId !== null ? next.records.get(selectedId)!.areas : []
        const areaId = areas.some((area) => area.id === state.areaId) ? state.areaId : null
        const trackId =
          edit.tracks.find((change) => change.before === null)?.id ??
          (state.trackId !== null && next.tracks.has(state.trackId) ? state.trackId : null)
        const stabilisedTrackId =
          state.stabilisedTrackId !== null && next.tracks.has(state.stabilisedTrackId)
            ? state.stabilisedTrackId
            : null
        const alsoSelected = new Set(
          [...state.alsoSelected].filter((id) => next.records.has(id) && id !== selectedId),
        )
        return {
          ...next,
          stacks: advanceStacks(state.stacks, made),
          selectedId,
          alsoSelected,
          areaId,
          trackId,
          stabilisedTrackId,
        }
      })
    }
    const walk = (role: 'undo' | 'redo', target: Step | undefined) => {
      if (!target) return
      const packed = role === 'undo' ? invertEdit(target.edit) : target.edit
      const edit = unpackEdit(packed, get())
      if (edit && fitsOn(get(), edit)) return step(role, edit, target.id)
      set(({ stacks }) => ({ stacks: dropStep(stacks, target.id) }))
      onBlocked(target.edit, role)
    }
    return {
      plate,
      records: start,
      tracks: tracksById(tracks),
      stacks: history.length > 0 ? stacksOf(history) : emptyStacks,
      hasEarlierSteps,
      saveState: 'saved',
      frame: clampFrame(frame),
      isPlaying: false,
      shownRate: null,
      droppedFrames: 0,
      playback: PLAIN_PLAYBACK,
      playRange: null,
      isPictureAlone: false,
      selectedId: selectedId !== null && start.has(selectedId) ? selectedId : null,
      alsoSelected: new Set<string>(),
      areaId: null,
      alsoStrokes: NO_STROKES,
      trackId: null,
      pins: null,
      following: null,
      stabilisedTrackId: null,
      isTrackerViewShown: false,
      clipboard: null,
      suggested: null,
      foundSpots: null,
      suggestingFor: null,
      snags: [],
      clingsWhenDrawn: true,
      isPlateShown: false,
      isPlateLatched: false,
      areOverlaysHidden: false,
      mapView: 'off',
      kept: null,
      viewTransform: PLAIN_VIEW,
      // What was kept went with the page.
      compare: compare.against === 'kept' ? { ...compare, against: 'plate' } : compare,
      tool: idleTool,
      brush: DEFAULT_BRUSH,
      wet: null,
      gesture: null,

      commit(edit) {
        get().endGesture()
        step('do', edit)
      },
      preview(edit) {
        set((state) => ({
          ...applyEdit(state, edit),
          gesture: state.gesture ? squashEdits(state.gesture, edit) : edit,
        }))
      },
      endGesture() {
        const { gesture, records, tracks } = get()
        if (!gesture) return
        // Back to where it began, so that the step applies like any other.
        set({ gesture: null, ...applyEdit({ records, tracks }, invertEdit(gesture)) })
        const isChanged = [...gesture.changes, ...gesture.tracks].some(
          ({ before, after }) => !isSame(before, after),
        )
        if (isChanged) step('do', gesture)
      },
      cancelGesture() {
        const { gesture, records, tracks } = get()
        if (gesture) set({ gesture: null, ...applyEdit({ records, tracks }, invertEdit(gesture)) })
      },
      undo() {
        get().endGesture()
        walk('undo', get().stacks.done.at(-1))
      },
      redo() {
        get().endGesture()
        walk('redo', get().stacks.undone.at(-1))
      },
      takeInNewer(newer, ours) {
        const { records, tracks, stacks } = get()
        const touched = new Set(newer.flatMap(({ edit }) => touchedBy(edit)))
        const doOursFit = ours.every((edit) => touchedBy(edit).every((id) => !touched.has(id)))
        const now = { records, tracks }
        const below = doOursFit ? now : walked(now, [...ours].reverse(), 'after')
        const theirs = newer.map(({ edit }) => edit)
        const next = below && walked(below, theirs, 'before')
        if (!next) return false // the page is loaded again
        set({
          ...next,
          stacks: newer.reduce(afterOthers, stacks),
          gesture: null,
        })
        return doOursFit
      },
      setSaveState: (saveState) => set({ saveState }),

      goTo: (to) => set({ frame: clampFrame(to) }),
      setPlaying: (isPlaying) =>
        set({ isPlaying, shownRate: null, ...(isPlaying ? { droppedFrames: 0 } : {}) }),
      setShownRate: (shownRate) => set({ shownRate }),
      setDropped: (droppedFrames) => set({ droppedFrames }),
      setPlayback: (part) => set(({ playback }) => ({ playback: { ...playback, ...part } })),
      setPlayRange: (range) => set({ playRange: range && rangeWithin(range, plate) }),
      showPictureAlone: (isPictureAlone) => set({ isPictureAlone }),
      select: (id) => {
        const followed =
          id === null
            ? undefined
            : get()
                .records.get(id)
                ?.areas.find((area) => area.follow)?.follow?.trackId
        set({
          selectedId: id,
          alsoSelected: new Set(),
          areaId: null,
          alsoStrokes: NO_STROKES,
          pins: null,
          trackId: followed ?? null,
        })
      },
      toggleSelected: (id) =>
        set(({ selectedId, alsoSelected }) => {
          if (selectedId === null) return { selectedId: id }
          if (selectedId === id) return {}
          const next = new Set(alsoSelected)
          if (!next.delete(id)) next.add(id)
          return { alsoSelected: next }
        }),
      selectArea: (areaId) => set({ areaId, alsoStrokes: NO_STROKES, pins: null }),
      chooseStrokes: ([areaId = null, ...more]) => set({ areaId, alsoStrokes: new Set(more), pins: null }),
      selectTrack: (trackId) => set({ trackId }),
      selectPins: (pins) => set({ pins }),
      setFollowing: (change) =>
        set(({ following }) => ({ following: typeof change === 'function' ? change(following) : change })),
      stabilise: (stabilisedTrackId) => set({ stabilisedTrackId }),
      showTrackerView: (isTrackerViewShown) => set({ isTrackerViewShown }),
      copyArea: (area, frames) => set({ clipboard: { area, frames: frames ?? null } }),
      setSuggested: (suggested) => set({ suggested }),
      setFoundSpots: (foundSpots) => set({ foundSpots }),
      setSuggestingFor: (suggestingFor) => set({ suggestingFor }),
      setSnags: (snags) => set({ snags }),
      setClings: (clingsWhenDrawn) => set({ clingsWhenDrawn }),
      showPlate: (isShown) => set(({ isPlateLatched }) => ({ isPlateShown: isShown || isPlateLatched })),
      latchPlate: (isPlateLatched) => set({ isPlateLatched, isPlateShown: isPlateLatched }),
      hideOverlays: (areOverlaysHidden) => set({ areOverlaysHidden }),
      showMap: (mapView) => set({ mapView }),
      setViewTransform: (part) =>
        set(({ viewTransform }) => ({ viewTransform: { ...viewTransform, ...part } })),
      // Side by side no place of the screen is one of the picture: nothing can be drawn there.
      setCompare: (part) =>
        set(({ compare: before, tool }) => ({ compare: { ...before, ...part }, tool: part.mode === 'beside' ? idleTool : tool })), // prettier-ignore
      keepResult: () =>
        set(({ records, tracks, compare }) => ({ kept: { records, tracks }, compare: { ...compare, against: 'kept' } })), // prettier-ignore
      setTool: (tool) =>
        set(({ compare: before }) => ({ tool, compare: tool.kind !== 'idle' && before.mode === 'beside' ? { ...before, mode: 'off' } : before })), // prettier-ignore
      setWet: (wet) => set({ wet }),
      setBrush: (part) =>
        set(({ brush }) => {
          const isSame = Object.entries(part).every(
            ([name, value]) => brush[name as keyof typeof brush] === value,
          )
          return isSame ? {} : { brush: { ...brush, ...part } }
        }),
    }
  })
}
