/** What a compute worker is asked and what it answers; the same in the browser and on the server. */
import type { EvaluatedFrame } from '../core/evaluate/evaluatedFrame'
import type { SuggestedResult } from '../core/evaluate/suggest/suggestedResults'
import type { SuggestRequest } from '../core/evaluate/suggest/views'
import type { FoundFace } from '../core/face/followFaces'
import type { BandEnergy } from '../core/measure/bandEnergies'
import type { BitDepth, Samples } from '../core/image/samples'
import type { ClingOutcome, ClingRequest } from '../core/motion/cling/runCling'
import type { TakenMarkFound } from '../core/evaluate/takenMark'
import type { MarkFound } from '../core/plan/findPlace'
import type { FoundThing } from '../core/motion/thing/followThing'
import type { TrackedFrame, TrackOutcome, TrackRequest } from '../core/motion/runTrack'
import type { Spot } from '../core/skin/findSpots'
import type { LightChange } from '../core/skin/lightChanges'
import type { SetTone } from '../core/skin/tonesSet'
import type { ToneRequest } from '../core/evaluate/learnTones'
import type { FrameName } from '../core/plan/keys'
import type { Scene } from '../core/scene/scene'
import type { StraightView } from '../core/sphere/straightView'
import type { SurveyedPart } from '../core/survey/surveyPlate'
import type { Frame, FrameRange } from '../core/time'
import type { DocumentChange } from './documents'
import type { SharedTiles } from './tileCache'

/** A plate and where its frames, mattes, stills, marks and results are to be had; the locations mean something to the clip only. */
export interface PlateReference {
  readonly plateId: string
  readonly width: number
  readonly height: number
  readonly channels: number
  readonly bitDepth: BitDepth
  readonly location: string
  readonly matteLocation: string
  readonly stillLocation: string
  readonly markLocation: string
  readonly resultLocation: string
}

/** Work on a document that the pool has been given. */
interface OnDocument {
  readonly plate: PlateReference
  readonly documentId: string
}

export interface EvaluateRequest extends OnDocument {
  readonly kind: 'evaluate'
  readonly frame: Frame
  /** A draft, soon: see `RunContext`. */
  readonly isDraft: boolean
  /** Of a value that is being dragged: not worth storing. */
  readonly isPassing?: boolean
  /** Where the pixels of gathered areas were seen is to be shown. */
  readonly showsSeen?: boolean
  /** How far mends cover each pixel is to be told. */
  readonly tellsCovered?: boolean
  /** The frame that will be asked for next: what it reads is brought meanwhile. */
  readonly next?: Frame | null
}

/** What frames are called: see `frameKey`. */
export interface NamesRequest extends OnDocument {
  readonly kind: 'names'
  readonly frames: readonly Frame[]
}

export interface TrackJob {
  readonly kind: 'track'
  readonly plate: PlateReference
  readonly request: TrackRequest
}

/** Reads a straight view of an all-round frame. */
export interface StraightenJob {
  readonly kind: 'straighten'
  readonly plate: PlateReference
  readonly frame: Frame
  readonly view: StraightView
  /** Of the picture, px. */
  readonly side: number
}

export interface StraightenAnswer {
  readonly straight: Samples
}

export interface ClingJob {
  readonly kind: 'cling'
  readonly plate: PlateReference
  readonly request: ClingRequest
}

export interface SuggestJob extends OnDocument {
  readonly kind: 'suggest'
  readonly request: SuggestRequest
}

/** Follows the thing that an area was drawn round, by what sets it apart from the background. */
export interface ThingJob extends OnDocument {
  readonly kind: 'thing'
  readonly mendId: string
  readonly areaId: string
}

/** Works out what the mark that an area was drawn round looks like by itself, and where it lies. */
export interface MarkJob extends OnDocument {
  readonly kind: 'mark'
  readonly mendId: string
  readonly areaId: string
}

/** Looks for the mark whose picture a mend has. */
export interface PlaceMarkJob extends OnDocument {
  readonly kind: 'place-mark'
  readonly mendId: string
  readonly areaId: string
  /** The frame that is looked at: one that travels may be told there alone. */
  readonly frame: Frame
}

/** Looks for spots on the skin of a mend, on one frame. */
export interface SpotsJob extends OnDocument {
  readonly kind: 'spots'
  readonly mendId: string
  readonly frame: Frame
}

/** Learns a tone of the skin of a mend on a frame: of its area, or of a disc of the picture. */
export interface ToneJob extends OnDocument, ToneRequest {
  readonly kind: 'tone'
}

/** Looks for changes of the light on the skin of a mend. */
export interface LightsJob extends OnDocument {
  readonly kind: 'lights'
  readonly mendId: string
}

/** What a mend of skin does to structure of each size on a frame. */
export interface BandsJob extends OnDocument {
  readonly kind: 'bands'
  readonly mendId: string
  readonly frame: Frame
}

/** Looks for faces where a mend lies, and follows them through the shot. */
export interface FacesJob extends OnDocument {
  readonly kind: 'faces'
  readonly mendId: string
  readonly frame: Frame
}

/** Works out the motion of the background, with what the document's mends cover left out. */
export interface SceneJob extends OnDocument {
  readonly kind: 'scene'
  /** Only what has changed since the document's own scene is to be done. */
  readonly isReview: boolean
}

/** Looks through all frames for one part of what must go. */
export interface SurveyJob {
  readonly kind: 'survey'
  readonly part: SurveyedPart['part']
  readonly plate: PlateReference
  readonly range: FrameRange
}

export interface EvaluateAnswer extends EvaluatedFrame {
  /** What the frame is called. */
  readonly name: string
}
export type NamesAnswer = readonly FrameName[]
/** Places to copy from with small pictures of the result, the best first. */
export type SuggestAnswer = readonly SuggestedResult[]
/** Null when it was stopped, or when the last one still holds. */
export interface SceneAnswer {
  readonly scene: Scene | null
  readonly isSame: boolean
}

/** Null when it was stopped. */
export interface SurveyAnswer {
  readonly surveyed: SurveyedPart | null
}

/** Null when it was stopped, or no frame shows the mark. */
export interface MarkAnswer {
  readonly found: TakenMarkFound | null
}

/** Null when it was stopped, or there is no picture of a mark that fits into the frame. */
export interface PlaceMarkAnswer {
  readonly place: MarkFound | null
}

/** Null when it was stopped. */
export interface SpotsAnswer {
  readonly spots: readonly Spot[] | null
}

/** Null where no tone is told. */
export interface ToneAnswer {
  readonly tone: SetTone | null
}

/** Null when it was stopped. */
export interface LightsAnswer {
  readonly changes: readonly LightChange[] | null
}

/** Null when it was stopped. */
export interface BandsAnswer {
  readonly bands: readonly BandEnergy[] | null
}

/** Null when it was stopped. */
export interface FacesAnswer {
  readonly faces: readonly FoundFace[] | null
}

interface Answers {
  readonly evaluate: EvaluateAnswer
  readonly names: NamesAnswer
  readonly track: TrackOutcome
  readonly cling: ClingOutcome
  readonly suggest: SuggestAnswer
  readonly thing: FoundThing
  readonly mark: MarkAnswer
  readonly 'place-mark': PlaceMarkAnswer
  readonly spots: SpotsAnswer
  readonly faces: FacesAnswer
  readonly tone: ToneAnswer
  readonly lights: LightsAnswer
  readonly bands: BandsAnswer
  readonly scene: SceneAnswer
  readonly survey: SurveyAnswer
  readonly straighten: StraightenAnswer
}

export type ComputeRequest =
  | EvaluateRequest
  | NamesRequest
  | TrackJob
  | ClingJob
  | SuggestJob
  | ThingJob
  | MarkJob
  | PlaceMarkJob
  | SpotsJob
  | FacesJob
  | ToneJob
  | LightsJob
  | BandsJob
  | SceneJob
  | SurveyJob
  | StraightenJob
export type AnswerTo<R extends ComputeRequest> = Answers[R['kind']]
export type ComputeAnswer = Answers[keyof Answers]

/** Room that one worker has for what it keeps, bytes. */
export interface WorkerMemory {
  /** For samples of plates. */
  readonly tiles: number
  /** For what was worked out. */
  readonly results: number
}

/** What one worker has brought of a plate, for the others to take. */
export interface TilesMessage {
  readonly kind: 'tiles'
  readonly plate: PlateReference
  readonly tiles: SharedTiles
}

/** Main thread to worker. `token` names the task; the stop flag holds the token that is to stop. */
export type ToWorker =
  | { readonly kind: 'start'; readonly stopFlag: SharedArrayBuffer | null; readonly memory: WorkerMemory }
  | { readonly kind: 'document'; readonly documentId: string; readonly change: DocumentChange | null }
  | { readonly kind: 'task'; readonly token: number; readonly request: ComputeRequest }
  | TilesMessage

/** An error on its way between threads: made an error again on the other side. */
export interface PlainError {
  readonly code: string
  readonly message: string
}

export type FromWorker =
  | TilesMessage
  | { readonly kind: 'progress'; readonly token: number; readonly tracked: TrackedFrame }
  | { readonly kind: 'share'; readonly token: number; readonly done: number; readonly total: number }
  | { readonly kind: 'done'; readonly token: number; readonly answer: ComputeAnswer }
  | { readonly kind: 'failed'; readonly token: number; readonly error: PlainError }
