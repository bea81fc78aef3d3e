/** The frame that an address names; undefined where it names none. Frame 0 is a frame. */
export function frameInAddress(search: URLSearchParams): number | undefined {
  const text = search.get('frame')
  const frame = text === null || text.trim() === '' ? NaN : Number(text)
  return Number.isInteger(frame) ? frame : undefined
}
