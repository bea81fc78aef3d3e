/** Surveys a plate from its source, frame by frame. */
import { wholePicture, type Rect } from '../image/rect'
import { rgba8FromSamples, samplesFromRaster, type Samples } from '../image/samples'
import type { Frame, FrameRange } from '../time'
import type { ClipShape, ClipStatistics } from './clipStatistics'
import type { Survey } from './finds'
import { createSurvey } from './survey'

export interface SurveySource {
  readonly plate: ClipShape
  readRect(frame: Frame, rect: Rect): Promise<Samples>
}

export interface SurveyContext {
  /** True once the result is no longer wanted. */
  shouldStop(): boolean
  onProgress?(framesDone: number, framesTotal: number): void
}

/** A survey, and the whole clip as two pictures for looking at. */
export interface SurveyedPlate {
  readonly survey: Survey
  /** Mean of all frames, and how much each place changes over time; 8-bit RGBA. */
  readonly meanPicture: Uint8ClampedArray
  readonly spreadPicture: Uint8ClampedArray
}

/** One pass; the next frame is read while one is looked at. @returns null when it was stopped. */
export async function surveyPlate({ plate, readRect }: SurveySource, range: FrameRange, context: SurveyContext): Promise<SurveyedPlate | null> {
  const { firstFrame, lastFrame } = range
  const whole = wholePicture(plate)
  const survey = createSurvey(plate, firstFrame)
  let next = readRect(firstFrame, whole)
  for (let frame = firstFrame; frame <= lastFrame; frame++) {
    const samples = await next
    if (context.shouldStop()) return null
    if (frame < lastFrame) next = readRect(frame + 1, whole)
    next.catch(() => undefined) // it is awaited, and fails, in the next round
    survey.add(samples)
    context.onProgress?.(frame - firstFrame + 1, lastFrame - firstFrame + 1)
  }
  const { clip, ...found } = survey.finish()
  return {
    survey: found.survey,
    meanPicture: pictureOf(clip, clip.mean, 1),
    spreadPicture: pictureOf(clip, clip.variance.map(Math.sqrt), SPREAD_GAIN),
  }
}

/** Deviations are small: so many times them are shown. */
const SPREAD_GAIN = 4

const pictureOf = ({ width, height, channels }: ClipStatistics, data: Float32Array, gain: number): Uint8ClampedArray =>
  rgba8FromSamples(samplesFromRaster({ width, height, channels, data: gain === 1 ? data : data.map((value) => gain * value) }, 8))
