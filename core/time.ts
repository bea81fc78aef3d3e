/**
 * Frames, rates and timecode.
 *
 * A `Frame` is the number a person reads on the timeline, as the clip counts it (often from 1001); a
 * `FrameIndex` counts array places from 0. They are converted here and nowhere else.
 */
export type Frame = number & { readonly unit?: 'frame' }
export type FrameIndex = number & { readonly unit?: 'frame-index' }

/** Frames from the first to the last, both included. */
export interface FrameRange {
  readonly firstFrame: Frame
  readonly lastFrame: Frame
}

/** Frames per second as a fraction: 24000/1001 is not 23.976. */
export interface FrameRate {
  readonly num: number
  readonly den: number
}

export const frameIndexOf = (frame: Frame, firstFrame: Frame): FrameIndex => frame - firstFrame
export const frameAt = (index: FrameIndex, firstFrame: Frame): Frame => firstFrame + index

export const framesPerSecond = ({ num, den }: FrameRate): number => num / den

/** `24`, `23.976`, `29.97`: as people say it. */
export const formatFrameRate = (rate: FrameRate): string =>
  String(Math.round(framesPerSecond(rate) * 1000) / 1000)

/** Whether timecode at this rate is counted with dropped numbers: 30000/1001 and 60000/1001. */
export const isDropFrameRate = ({ num, den }: FrameRate): boolean =>
  den === 1001 && (num === 30000 || num === 60000)

/**
 * SMPTE timecode `hh:mm:ss:ff` of a frame counted from 0; `hh:mm:ss;ff` where numbers are dropped.
 *
 * Drop-frame leaves out the frame numbers 00 and 01 (00 to 03 at 60) at the start of every minute but
 * each tenth, so that the display keeps up with the clock. Numbers are dropped, pictures are not.
 * Source: SMPTE ST 12-1, time and control code (from memory; the facts are checked in time.test.ts).
 *
 * @param index  0 or more. @throws RangeError otherwise.
 */
export function timecodeOf(index: FrameIndex, rate: FrameRate): string {
  if (!Number.isInteger(index) || index < 0)
    throw new RangeError(`index must be a whole number from 0. Received ${index}`)
  const nominal = Math.round(framesPerSecond(rate))
  const isDrop = isDropFrameRate(rate)
  const count = isDrop ? withDroppedNumbers(index, nominal) : index
  const frames = count % nominal
  const seconds = Math.floor(count / nominal)
  const pad = (value: number) => String(value).padStart(2, '0')
  const hours = Math.floor(seconds / 3600) % 24
  return `${pad(hours)}:${pad(Math.floor(seconds / 60) % 60)}:${pad(seconds % 60)}${isDrop ? ';' : ':'}${pad(frames)}`
}

function withDroppedNumbers(index: number, nominal: number): number {
  const dropped = nominal / 15 // 2 at 30, 4 at 60
  const perMinute = nominal * 60 - dropped
  const perTenMinutes = perMinute * 10 + dropped
  const tens = Math.floor(index / perTenMinutes)
  const rest = index % perTenMinutes
  const minutes = rest < nominal * 60 ? 0 : 1 + Math.floor((rest - nominal * 60) / perMinute)
  return index + dropped * (tens * 9 + minutes)
}

/** The index of a SMPTE timecode; null where it says no frame of this rate. Its last part may stand after ";" or ":". */
export function indexOfTimecode(text: string, rate: FrameRate): FrameIndex | null {
  const parts = /^(\d{1,2}):(\d{1,2}):(\d{1,2})[:;](\d{1,2})$/.exec(text.trim())
  if (!parts) return null
  const [hours, minutes, seconds, frames] = parts.slice(1).map(Number) as [number, number, number, number]
  const nominal = Math.round(framesPerSecond(rate))
  if (minutes > 59 || seconds > 59 || frames >= nominal) return null
  const counted = ((hours * 60 + minutes) * 60 + seconds) * nominal + frames
  if (!isDropFrameRate(rate)) return counted
  const dropped = nominal / 15
  if (seconds === 0 && frames < dropped && minutes % 10 !== 0) return null // a number that is left out
  const all = hours * 60 + minutes
  return counted - dropped * (all - Math.floor(all / 10))
}

/** The frame that somebody means: its number, or a timecode of the clip; null where it is neither. */
export function frameFromWords(text: string, firstFrame: Frame, rate: FrameRate): Frame | null {
  if (/^\d+$/.test(text.trim())) return Number(text)
  const index = indexOfTimecode(text, rate)
  return index === null ? null : frameAt(index, firstFrame)
}
