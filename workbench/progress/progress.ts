/** Rate and time left of work that counts frames. */
export interface Progress {
  readonly done: number
  readonly total: number | null
  readonly framesPerSecond: number | null
  readonly secondsLeft: number | null
}

/** @param seconds  Since the work began; null before it has. */
export function progressOf(done: number, total: number | null, seconds: number | null): Progress {
  const isMeasured = seconds !== null && seconds > 0.2 && done > 0
  const framesPerSecond = isMeasured ? done / seconds : null
  const secondsLeft =
    framesPerSecond !== null && total !== null
      ? Math.max(0, Math.ceil((total - done) / framesPerSecond))
      : null
  return { done, total, framesPerSecond, secondsLeft }
}

/** `12 of 48 frames · 9.6 fps · 4 s left` */
export function progressWords({ done, total, framesPerSecond, secondsLeft }: Progress): string {
  const parts = [total === null ? `${done} frames` : `${done} of ${total} frames`]
  if (framesPerSecond !== null) parts.push(`${framesPerSecond.toFixed(1)} fps`)
  if (secondsLeft !== null)
    parts.push(secondsLeft >= 90 ? `${Math.round(secondsLeft / 60)} min left` : `${secondsLeft} s left`)
  return parts.join(' · ')
}

export function sizeWords(bytes: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB']
  let value = bytes
  let unit = 0
  while (value >= 1000 && unit < units.length - 1) {
    value /= 1000
    unit++
  }
  return `${unit === 0 ? value : value.toFixed(1)} ${units[unit]}`
}
