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
  type EditRole,
  type HistoryEntry,
  type MendEdit,
  type MendRecords,
  type UndoStacks,
} from '../../core/mend/edits'
import type { MendRecord } from '../../core/mend/schema'
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

export interface BenchState {
  readonly plate: BenchPlate
  readonly records: MendRecords
  readonly stacks: UndoStacks
  readonly saveState: SaveState

  readonly frame: number
  readonly isPlaying: boolean
  /** Frames a second that were really shown while playing; null at rest. */
  readonly shownRate: number | null
  readonly selectedId: string | null
  readonly isPlateShown: boolean
  readonly areOverlaysHidden: boolean
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
  showPlate(isShown: boolean): void
  hideOverlays(areHidden: boolean): void
  setTool(tool: Tool): void
}

export type Bench = BenchState & BenchActions
export type BenchStore = ReturnType<typeof createBench>

export interface BenchStart {
  readonly plate: BenchPlate
  readonly records: readonly MendRecord[]
  readonly history: readonly HistoryEntry[]
  readonly frame: number
  readonly selectedId: string | null
  /** Stores an edit; it has been applied here already. */
  readonly save: (role: EditRole, edit: MendEdit) => void
}

export function createBench({ plate, records, history, frame, selectedId, save }: BenchStart) {
  const clampFrame = (to: number) => Math.min(Math.max(Math.round(to), plate.firstFrame), plate.lastFrame)
  const start = new Map(records.map((record) => [record.id, record]))
  return createStore<Bench>()((set, get) => {
    /** Applies a stored step and keeps the selection on something that exists. */
    const step = (role: EditRole, edit: MendEdit) => {
      save(role, edit)
      set(({ records, stacks, selectedId }) => {
        const next = applyEdit(records, edit)
        const added = edit.changes.find((change) => change.before === null)?.id
        const kept = selectedId !== null && next.has(selectedId) ? selectedId : null
        return { records: next, stacks: advanceStacks(stacks, role, edit), selectedId: added ?? kept }
      })
    }
    return {
      plate,
      records: start,
      stacks: history.length > 0 ? stacksOf(history) : emptyStacks,
      saveState: 'saved',
      frame: clampFrame(frame),
      isPlaying: false,
      shownRate: null,
      selectedId: selectedId !== null && start.has(selectedId) ? selectedId : null,
      isPlateShown: false,
      areOverlaysHidden: false,
      tool: idleTool,
      gesture: null,

      commit(edit) {
        get().endGesture()
        step('do', edit)
      },
      preview(edit) {
        set(({ records, gesture }) => ({ records: applyEdit(records, edit), gesture: gesture ? squashEdits(gesture, edit) : edit }))
      },
      endGesture() {
        const { gesture, records } = get()
        if (!gesture) return
        // Back to where it began, so that the step applies like any other.
        set({ gesture: null, records: applyEdit(records, invertEdit(gesture)) })
        const isChanged = gesture.changes.some(({ before, after }) => JSON.stringify(before) !== JSON.stringify(after))
        if (isChanged) step('do', gesture)
      },
      cancelGesture() {
        const { gesture, records } = get()
        if (gesture) set({ gesture: null, records: applyEdit(records, invertEdit(gesture)) })
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
        const { records, stacks } = get()
        const touched = new Set(newer.flatMap(({ edit }) => edit.changes.map((change) => change.id)))
        const doOursFit = ours.every((edit) => edit.changes.every((change) => !touched.has(change.id)))
        let next = records
        if (!doOursFit) for (const edit of [...ours].reverse()) next = applyEdit(next, invertEdit(edit))
        for (const { edit } of newer) next = applyEdit(next, edit)
        set({ records: next, stacks: newer.reduce((all, { role, edit }) => advanceStacks(all, role, edit), stacks), gesture: null })
        return doOursFit
      },
      setSaveState: (saveState) => set({ saveState }),

      goTo: (to) => set({ frame: clampFrame(to) }),
      setPlaying: (isPlaying) => set({ isPlaying, shownRate: null }),
      setShownRate: (shownRate) => set({ shownRate }),
      select: (id) => set({ selectedId: id }),
      showPlate: (isPlateShown) => set({ isPlateShown }),
      hideOverlays: (areOverlaysHidden) => set({ areOverlaysHidden }),
      setTool: (tool) => set({ tool }),
    }
  })
}

export const selectedMend = ({ records, selectedId }: Pick<BenchState, 'records' | 'selectedId'>): MendRecord | null =>
  selectedId === null ? null : (records.get(selectedId) ?? null)
