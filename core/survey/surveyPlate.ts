/** Surveys a plate from its source, frame by frame. */
import { wholePicture, type Rect } from '../image/rect'
import { rgba8FromSamples, samplesFromRaster, type Samples } from '../image/samples'
import type { Frame, FrameRange } from '../time'
import type { ClipShape, ClipStatistics } from './clipStatistics'
import type { Survey } from './finds'
import { surveyCarrier, type CarrierPart } from './carrier/carrier'
import { createSurvey, surveyMoving, surveyStill, type MovingPart, type StillPart } from './survey'

export interface SurveySource {
  readonly plate: ClipShape
  readRect(frame: Frame, rect: Rect): Promise<Samples>
}

export interface SurveyContext {
  /** True once the result is no longer wanted. */
  shouldStop(): boolean
  onProgress?(framesDone: number, framesTotal: number): void
}

/** The whole clip as two pictures for looking at: its mean, and how much each place changes over time; 8-bit RGBA. */
export interface ClipPictures {
  readonly meanPicture: Uint8ClampedArray
  readonly spreadPicture: Uint8ClampedArray
}

export interface SurveyedPlate extends ClipPictures {
  readonly survey: Survey
}

/** The parts of a survey: each looks through all frames, on a thread of its own where there are several. */
export type SurveyedPart =
  | { readonly part: 'moving'; readonly moving: MovingPart }
  | { readonly part: 'carrier'; readonly carrier: CarrierPart }
  | ({ readonly part: 'still'; readonly still: StillPart } & ClipPictures)

export const SURVEY_PARTS = ['still', 'moving', 'carrier'] as const

/** All parts in one pass. @returns null when it was stopped. */
export async function surveyPlate(
  source: SurveySource,
  range: FrameRange,
  context: SurveyContext,
): Promise<SurveyedPlate | null> {
  const survey = createSurvey(source.plate, range.firstFrame)
  if (!(await lookThrough(source, range, context, survey.add))) return null
  const { clip, ...found } = survey.finish()
  return { survey: found.survey, ...picturesOf(clip) }
}

/** One part; `joinParts` makes a survey of all. @returns null when it was stopped. */
export async function surveyPart(
  part: SurveyedPart['part'],
  source: SurveySource,
  range: FrameRange,
  context: SurveyContext,
): Promise<SurveyedPart | null> {
  if (part === 'moving') {
    const survey = surveyMoving(source.plate, range.firstFrame)
    return (await lookThrough(source, range, context, survey.add)) ? { part, moving: survey.finish() } : null
  }
  if (part === 'carrier') {
    const survey = surveyCarrier(range.firstFrame)
    return (await lookThrough(source, range, context, survey.add)) ? { part, carrier: survey.finish() } : null
  }
  const survey = surveyStill(source.plate)
  if (!(await lookThrough(source, range, context, survey.add))) return null
  const { still, clip } = survey.finish()
  return { part, still, ...picturesOf(clip) }
}

/** One pass; the next frame is read while one is looked at. @returns Whether it came to the end. */
async function lookThrough(
  { plate, readRect }: SurveySource,
  range: FrameRange,
  context: SurveyContext,
  add: (frame: Samples) => void,
): Promise<boolean> {
  const { firstFrame, lastFrame } = range
  const whole = wholePicture(plate)
  let next = readRect(firstFrame, whole)
  for (let frame = firstFrame; frame <= lastFrame; frame++) {
    const samples = await next
    if (context.shouldStop()) return false
    if (frame < lastFrame) next = readRect(frame + 1, whole)
    next.catch(() => undefined) // it is awaited, and fails, in the next round
    add(samples)
    context.onProgress?.(frame - firstFrame + 1, lastFrame - firstFrame + 1)
  }
  return true
}

const picturesOf = (clip: ClipStatistics): ClipPictures => ({
  meanPicture: pictureOf(clip, clip.mean, 1),
  spreadPicture: pictureOf(clip, clip.variance.map(Math.sqrt), SPREAD_GAIN),
})

/** Deviations are small: so many times them are shown. */
const SPREAD_GAIN = 4

const pictureOf = (
  { width, height, channels }: ClipStatistics,
  data: Float32Array,
  gain: number,
): Uint8ClampedArray =>
  rgba8FromSamples(
    samplesFromRaster(
      { width, height, channels, data: gain === 1 ? data : data.map((value) => gain * value) },
      8,
    ),
  )
