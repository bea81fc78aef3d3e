/**
 * What the bench knows about one shot: the document (saved, undone) and the session (neither).
 *
 * Components read it through selectors; everything that changes it is an action here. A gesture
 * collects many edits into one step: `preview` shows, `endGesture` keeps, `cancelGesture` takes back.
 */
import { createStore } from 'zustand/vanilla'
import {
  advanceStacks,
  applyEdit,
  emptyStacks,
  invertEdit,
  squashEdits,
  stacksOf,
  touchedBy,
  type EditRole,
  type HistoryEntry,
  type MendEdit,
  type MendRecords,
  type ShotState,
  type UndoStacks,
} from '../../core/document/edits'
import { PLAIN_VIEW, type ViewTransform } from '../../core/view/viewTransform'
import type { Area } from '../../core/document/areas'
import type { MendRecord } from '../../core/document/mend'
import type { Track } from '../../core/document/tracks'
import type { SuggestAnswer } from '../../workers/protocol'
import type { TrackedFrame } from '../../core/motion/runTrack'
import type { BitDepth } from '../../core/image/samples'
import type { FrameRate } from '../../core/time'
import type { SaveState } from './saveQueue'
import { idleTool, type Tool } from '../tools/tool'

export interface BenchPlate {
  readonly id: string
  readonly width: number
  readonly height: number
  readonly channels: number
  readonly bitDepth: BitDepth
  readonly frameRate: FrameRate
  readonly firstFrame: number
  readonly lastFrame: number
}

/** A track or a cling that is being followed right now. */
export interface Following {
  readonly trackId: string
  readonly words: string
  readonly done: number
  readonly total: number
  readonly begunMs: number
  /** What has been seen so far. */
  readonly live: readonly TrackedFrame[]
  stop(): void
}

/** Pins that are selected, all of one area. */
export interface PinSelection {
  readonly areaId: string
  readonly frames: readonly number[]
}

export interface BenchState {
  readonly plate: BenchPlate
  readonly records: MendRecords
  readonly tracks: ReadonlyMap<string, Track>
  readonly stacks: UndoStacks
  readonly saveState: SaveState

  readonly frame: number
  readonly isPlaying: boolean
  /** Frames a second that were really shown while playing; null at rest. */
  readonly shownRate: number | null
  readonly selectedId: string | null
  /** More mends that are selected along with it. */
  readonly alsoSelected: ReadonlySet<string>
  /** The area of the selected mend whose handles are shown; null: its first. */
  readonly areaId: string | null
  readonly trackId: string | null
  readonly pins: PinSelection | null
  readonly following: Following | null
  /** The view rides on this track, so that what it follows stays in place. */
  readonly stabilisedTrackId: string | null
  readonly isTrackerViewShown: boolean
  /** An area, or keys of one, to paste elsewhere. */
  readonly clipboard: { readonly area: Area; readonly frames: readonly number[] | null } | null
  /** Places to copy from that were suggested for an area, the best first, and which of them was taken last. */
  readonly suggested: {
    readonly mendId: string
    readonly areaId: string
    readonly sources: SuggestAnswer
    readonly taken: number
  } | null
  /** The mend for which places to copy from are being looked for. */
  readonly suggestingFor: string | null
  /** A drawn wire looks for its line at once. */
  readonly clingsWhenDrawn: boolean
  readonly isPlateShown: boolean
  readonly areOverlaysHidden: boolean
  /** Over gathered areas: how often other frames saw each pixel. */
  readonly isSeenMapShown: boolean
  /** How the picture is shown; it changes nothing else. */
  readonly viewTransform: ViewTransform
  readonly tool: Tool
  /** The open gesture's edits so far, already visible in `records`. */
  readonly gesture: MendEdit | null
}

export interface BenchActions {
  /** Makes a step and stores it. */
  commit(edit: MendEdit): void
  preview(edit: MendEdit): void
  endGesture(): void
  cancelGesture(): void
  undo(): void
  redo(): void
  /** Others' edits arrived while ours were on their way. */
  takeInNewer(newer: readonly HistoryEntry[], ours: readonly MendEdit[]): boolean
  setSaveState(state: SaveState): void

  goTo(frame: number): void
  setPlaying(isPlaying: boolean): void
  setShownRate(rate: number | null): void
  select(id: string | null): void
  /** Adds a mend to the selection, or takes it out. */
  toggleSelected(id: string): void
  selectArea(areaId: string | null): void
  selectTrack(trackId: string | null): void
  selectPins(pins: PinSelection | null): void
  setFollowing(change: Following | null | ((now: Following | null) => Following | null)): void
  stabilise(trackId: string | null): void
  showTrackerView(isShown: boolean): void
  setClings(clings: boolean): void
  setSuggested(suggested: BenchState['suggested']): void
  setSuggestingFor(mendId: string | null): void
  /** Keeps an area for pasting; with frames only its keys there. */
  copyArea(area: Area, frames?: readonly number[]): void
  showPlate(isShown: boolean): void
  hideOverlays(areHidden: boolean): void
  showSeenMap(isShown: boolean): void
  setViewTransform(part: Partial<ViewTransform>): void
  setTool(tool: Tool): void
}

export type Bench = BenchState & BenchActions
export type BenchStore = ReturnType<typeof createBench>

export interface BenchStart {
  readonly plate: BenchPlate
  readonly records: readonly MendRecord[]
  readonly tracks: readonly Track[]
  readonly history: readonly HistoryEntry[]
  readonly frame: number
  readonly selectedId: string | null
  /** Stores an edit; it has been applied here already. */
  readonly save: (role: EditRole, edit: MendEdit) => void
}

export function createBench({ plate, records, tracks, history, frame, selectedId, save }: BenchStart) {
  const clampFrame = (to: number) => Math.min(Math.max(Math.round(to), plate.firstFrame), plate.lastFrame)
  const start = new Map(records.map((record) => [record.id, record]))
  return createStore<Bench>()((set, get) => {
    /** Applies a stored step and keeps the selection on something that exists. */
    const step = (role: EditRole, edit: MendEdit) => {
      save(role, edit)
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
          stacks: advanceStacks(state.stacks, role, edit),
          selectedId,
          alsoSelected,
          areaId,
          trackId,
          stabilisedTrackId,
        }
      })
    }
    return {
      plate,
      records: start,
      tracks: new Map(tracks.map((track) => [track.id, track])),
      stacks: history.length > 0 ? stacksOf(history) : emptyStacks,
      saveState: 'saved',
      frame: clampFrame(frame),
      isPlaying: false,
      shownRate: null,
      selectedId: selectedId !== null && start.has(selectedId) ? selectedId : null,
      alsoSelected: new Set<string>(),
      areaId: null,
      trackId: null,
      pins: null,
      following: null,
      stabilisedTrackId: null,
      isTrackerViewShown: false,
      clipboard: null,
      suggested: null,
      suggestingFor: null,
      clingsWhenDrawn: true,
      isPlateShown: false,
      areOverlaysHidden: false,
      isSeenMapShown: false,
      viewTransform: PLAIN_VIEW,
      tool: idleTool,
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
          ({ before, after }) => JSON.stringify(before) !== JSON.stringify(after),
        )
        if (isChanged) step('do', gesture)
      },
      cancelGesture() {
        const { gesture, records, tracks } = get()
        if (gesture) set({ gesture: null, ...applyEdit({ records, tracks }, invertEdit(gesture)) })
      },
      undo() {
        get().endGesture()
        const edit = get().stacks.done.at(-1)
        if (edit) step('undo', invertEdit(edit))
      },
      redo() {
        get().endGesture()
        const edit = get().stacks.undone.at(-1)
        if (edit) step('redo', edit)
      },
      takeInNewer(newer, ours) {
        const { records, tracks, stacks } = get()
        const touched = new Set(newer.flatMap(({ edit }) => touchedBy(edit)))
        const doOursFit = ours.every((edit) => touchedBy(edit).every((id) => !touched.has(id)))
        let next: ShotState = { records, tracks }
        if (!doOursFit) for (const edit of [...ours].reverse()) next = applyEdit(next, invertEdit(edit))
        for (const { edit } of newer) next = applyEdit(next, edit)
        set({
          ...next,
          stacks: newer.reduce((all, { role, edit }) => advanceStacks(all, role, edit), stacks),
          gesture: null,
        })
        return doOursFit
      },
      setSaveState: (saveState) => set({ saveState }),

      goTo: (to) => set({ frame: clampFrame(to) }),
      setPlaying: (isPlaying) => set({ isPlaying, shownRate: null }),
      setShownRate: (shownRate) => set({ shownRate }),
      select: (id) => {
        const followed =
          id === null
            ? undefined
            : get()
                .records.get(id)
                ?.areas.find((area) => area.follow)?.follow?.trackId
        set({ selectedId: id, alsoSelected: new Set(), areaId: null, pins: null, trackId: followed ?? null })
      },
      toggleSelected: (id) =>
        set(({ selectedId, alsoSelected }) => {
          if (selectedId === null) return { selectedId: id }
          if (selectedId === id) return {}
          const next = new Set(alsoSelected)
          if (!next.delete(id)) next.add(id)
          return { alsoSelected: next }
        }),
      selectArea: (areaId) => set({ areaId, pins: null }),
      selectTrack: (trackId) => set({ trackId }),
      selectPins: (pins) => set({ pins }),
      setFollowing: (change) =>
        set(({ following }) => ({ following: typeof change === 'function' ? change(following) : change })),
      stabilise: (stabilisedTrackId) => set({ stabilisedTrackId }),
      showTrackerView: (isTrackerViewShown) => set({ isTrackerViewShown }),
      copyArea: (area, frames) => set({ clipboard: { area, frames: frames ?? null } }),
      setSuggested: (suggested) => set({ suggested }),
      setSuggestingFor: (suggestingFor) => set({ suggestingFor }),
      setClings: (clingsWhenDrawn) => set({ clingsWhenDrawn }),
      showPlate: (isPlateShown) => set({ isPlateShown }),
      hideOverlays: (areOverlaysHidden) => set({ areOverlaysHidden }),
      showSeenMap: (isSeenMapShown) => set({ isSeenMapShown }),
      setViewTransform: (part) =>
        set(({ viewTransform }) => ({ viewTransform: { ...viewTransform, ...part } })),
      setTool: (tool) => set({ tool }),
    }
  })
}

export const selectedMend = ({
  records,
  selectedId,
}: Pick<BenchState, 'records' | 'selectedId'>): MendRecord | null =>
  selectedId === null ? null : (records.get(selectedId) ?? null)

/** The area whose handles are shown. */
export function selectedArea(state: Pick<BenchState, 'records' | 'selectedId' | 'areaId'>): Area | null {
  const mend = selectedMend(state)
  return mend ? (mend.areas.find((area) => area.id === state.areaId) ?? mend.areas[0]!) : null
}

/** All selected mends, the main one first. */
export function selectedMends({
  records,
  selectedId,
  alsoSelected,
}: Pick<BenchState, 'records' | 'selectedId' | 'alsoSelected'>): MendRecord[] {
  return [selectedId, ...alsoSelected].flatMap((id) =>
    id !== null && records.has(id) ? [records.get(id)!] : [],
  )
}
