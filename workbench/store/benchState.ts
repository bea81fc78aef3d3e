/** What the bench knows about one shot, and what may be done to it. */
import { isStroke, type Area, type StrokeArea } from '../../core/document/areas'
import type { BrushSettings } from '../../core/document/brush'
import type { MendEdit, MendRecords } from '../../core/document/edits'
import type { HistoryEntry, UndoStacks } from '../../core/document/history'
import type { PackedEdit } from '../../core/document/packedEdit'
import type { MendRecord } from '../../core/document/mend'
import type { Track } from '../../core/document/tracks'
import type { BitDepth } from '../../core/image/samples'
import type { TrackedFrame } from '../../core/motion/runTrack'
import type { Spot } from '../../core/skin/findSpots'
import type { Snag } from '../../core/snags/snags'
import type { FrameRange, FrameRate } from '../../core/time'
import type { Compare } from '../../core/view/compare'
import type { Playback } from '../../core/view/playback'
import type { ViewTransform } from '../../core/view/viewTransform'
import type { SuggestAnswer } from '../../workers/protocol'
import type { Tool } from '../tools/tool'
import type { WetStroke } from '../tools/wetStroke'
import type { SaveState } from './saveQueue'

export interface BenchPlate {
  readonly id: string
  readonly width: number
  readonly height: number
  readonly channels: number
  readonly bitDepth: BitDepth
  readonly frameRate: FrameRate
  readonly firstFrame: number
  readonly lastFrame: number
  /** Those that came damaged. */
  readonly damagedFrames?: readonly number[]
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
  /** Shown in place of its mend meanwhile: with its area as it was found on the frame that is looked at. */
  readonly standIn: MendRecord | null
  stop(): void
}

/** Spots that were found on the skin of a mend, on a frame; those that are left out are not mended. */
export interface FoundSpots {
  readonly mendId: string
  readonly frame: number
  readonly spots: readonly (Spot & { readonly isLeft: boolean })[]
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
  /** Steps before those are stored, too many to be sent to a page. */
  readonly hasEarlierSteps: boolean
  readonly saveState: SaveState

  readonly frame: number
  readonly isPlaying: boolean
  /** Frames a second that were really shown while playing; null at rest. */
  readonly shownRate: number | null
  /** Frames that were left out since playing began. */
  readonly droppedFrames: number
  /** How it is played. */
  readonly playback: Playback
  /** Only these frames are played; null: all. */
  readonly playRange: FrameRange | null
  /** The picture fills the screen, with nothing else. */
  readonly isPictureAlone: boolean
  readonly selectedId: string | null
  /** More mends that are selected along with it. */
  readonly alsoSelected: ReadonlySet<string>
  /** The area of the selected mend whose handles are shown; null: its first. */
  readonly areaId: string | null
  /** More strokes of its brush that are chosen along with it. */
  readonly alsoStrokes: ReadonlySet<string>
  readonly trackId: string | null
  readonly pins: PinSelection | null
  readonly following: Following | null
  /** The view rides on this track, so that what it follows stays in place. */
  readonly stabilisedTrackId: string | null
  readonly isTrackerViewShown: boolean
  /** An area, or keys of one, to paste elsewhere. */
  readonly clipboard: { readonly area: Area; readonly frames: readonly number[] | null } | null
  /** Places to copy from that were suggested for an area, the best first. */
  readonly suggested: {
    readonly mendId: string
    /** As it was: once it is changed, they are for somewhere else. */
    readonly area: Area
    readonly sources: SuggestAnswer
  } | null
  readonly foundSpots: FoundSpots | null
  /** Of all mends, by frame. */
  readonly snags: readonly Snag[]
  /** The mend for which places to copy from are being looked for. */
  readonly suggestingFor: string | null
  /** A drawn wire looks for its line at once. */
  readonly clingsWhenDrawn: boolean
  readonly isPlateShown: boolean
  /** It stays shown when its key is let go. */
  readonly isPlateLatched: boolean
  readonly areOverlaysHidden: boolean
  readonly mapView: MapView
  /** How the picture is shown; it changes nothing else. */
  readonly viewTransform: ViewTransform
  /** How the result and another picture are shown together. */
  readonly compare: Compare
  /** A result that was kept to be compared with: what it is made of. */
  readonly kept: Kept | null
  readonly tool: Tool
  /** What the next stroke is like. */
  readonly brush: BrushSettings
  /** The stroke that is being painted; null while none is. */
  readonly wet: WetStroke | null
  /** The open gesture's edits so far, already visible in `records`. */
  readonly gesture: MendEdit | null
}

/** What is shown of mends beside their result: how often other frames saw each pixel, or the matte, alone or tinted over the picture. */
export type MapView = 'off' | 'alone' | 'over'

export interface Kept {
  readonly records: MendRecords
  readonly tracks: ReadonlyMap<string, Track>
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
  takeInNewer(newer: readonly HistoryEntry[], ours: readonly PackedEdit[]): boolean
  setSaveState(state: SaveState): void

  goTo(frame: number): void
  setPlaying(isPlaying: boolean): void
  setShownRate(rate: number | null): void
  setDropped(frames: number): void
  setPlayback(part: Partial<Playback>): void
  setPlayRange(range: FrameRange | null): void
  showPictureAlone(isAlone: boolean): void
  select(id: string | null): void
  /** Adds a mend to the selection, or takes it out. */
  toggleSelected(id: string): void
  selectArea(areaId: string | null): void
  /** @param ids  All that are chosen, the last one first: its handles are shown. */
  chooseStrokes(ids: readonly string[]): void
  selectTrack(trackId: string | null): void
  selectPins(pins: PinSelection | null): void
  setFollowing(change: Following | null | ((now: Following | null) => Following | null)): void
  stabilise(trackId: string | null): void
  showTrackerView(isShown: boolean): void
  setClings(clings: boolean): void
  setFoundSpots(found: FoundSpots | null): void
  setSuggested(suggested: BenchState['suggested']): void
  setSuggestingFor(mendId: string | null): void
  setSnags(snags: readonly Snag[]): void
  /** Keeps an area for pasting; with frames only its keys there. */
  copyArea(area: Area, frames?: readonly number[]): void
  showPlate(isShown: boolean): void
  latchPlate(isLatched: boolean): void
  hideOverlays(areHidden: boolean): void
  showMap(view: MapView): void
  setViewTransform(part: Partial<ViewTransform>): void
  setCompare(part: Partial<Compare>): void
  /** What is shown now is kept, and compared with from now on. */
  keepResult(): void
  setTool(tool: Tool): void
  setBrush(part: Partial<BrushSettings>): void
  setWet(wet: WetStroke | null): void
}

export type Bench = BenchState & BenchActions

export const selectedMend = ({
  records,
  selectedId,
}: Pick<BenchState, 'records' | 'selectedId'>): MendRecord | null =>
  selectedId === null ? null : (records.get(selectedId) ?? null)

/** The area whose handles are shown. */
export function selectedArea(state: Pick<BenchState, 'records' | 'selectedId' | 'areaId'>): Area | null {
  const mend = selectedMend(state)
  if (!mend) return null
  // Asked by many at every move of the pointer, of a brush with a thousand strokes.
  let last = lastFound.get(mend)
  if (!last || last.areaId !== state.areaId) {
    const area = mend.areas.find(({ id }) => id === state.areaId) ?? mend.areas[0]!
    lastFound.set(mend, (last = { areaId: state.areaId, area }))
  }
  return last.area
}

const lastFound = new WeakMap<MendRecord, { readonly areaId: string | null; readonly area: Area }>()

/** How many pictures the panel shows. */
export const halvesShown = ({ compare }: Pick<BenchState, 'compare'>): 1 | 2 =>
  compare.mode === 'beside' ? 2 : 1

/** Strokes of a brush that are chosen. */
export function chosenStrokes(
  { areas }: MendRecord,
  { areaId, alsoStrokes }: Pick<BenchState, 'areaId' | 'alsoStrokes'>,
): StrokeArea[] {
  return areas.filter(isStroke).filter(({ id }) => id === areaId || alsoStrokes.has(id))
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

/** The frames that are played. */
export const playedRange = ({ playRange, plate }: Pick<BenchState, 'playRange' | 'plate'>): FrameRange =>
  playRange ?? plate
