/** The layer of each cell of a frame as text, in runs: "0*120 1*4 -*2"; - is not known. */
import { NO_LAYER } from './layerMap'

export function cellsFromRuns(text: string, count: number): Uint8Array {
  const out = new Uint8Array(count).fill(NO_LAYER)
  let at = 0
  for (const run of text.split(' ')) {
    const [label, length] = run.split('*')
    const end = Math.min(count, at + Number(length ?? 1))
    if (label !== '-' && label !== '') out.fill(Number(label), at, end)
    at = end
  }
  return out
}

export function runsFromCells(labels: Uint8Array): string {
  const runs: string[] = []
  for (let i = 0; i < labels.length;) {
    let end = i
    while (end < labels.length && labels[end] === labels[i]) end++
    runs.push(`${labels[i] === NO_LAYER ? '-' : labels[i]}*${end - i}`)
    i = end
  }
  return runs.join(' ')
}
