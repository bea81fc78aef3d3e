/**
 * A shot that was painted stroke by stroke, each an edit of its own: what is sent and stored of it, and how soon its page is
 * there. Told whole with each edit, 300 strokes were so much that the page did not open within half a minute.
 *
 *   painted-sent-mb  all edits together
 *   painted-save-ms  the last of them, on the server
 *   painted-open-ms  from the address to the mended picture
 */
import { randomUUID } from 'node:crypto'
import type { Page } from '@playwright/test'
import { DEFAULT_BRUSH, strokeArea } from '../core/document/brush'
import { startingFill, startingFinish, type MendRecord } from '../core/document/mend'
import { packEdit } from '../core/document/packedEdit'
import { sampleRecord } from '../tests/fixtures/sampleMend'
import { createRandom } from '../tests/random'
import { median, print } from './benchTools'
import type { OpenShot } from './film'

const STROKES = 300
const LAST = 20

export async function benchPainted(
  page: Page,
  url: string,
  shotId: string,
  { span, description: { width, height } }: OpenShot,
  revision: number,
): Promise<void> {
  const random = createRandom(21)
  const strokes = Array.from({ length: STROKES }, (_, i) => {
    const [x, y] = [40 + random() * (width - 180), 200 + random() * (height - 280)]
    const points = Array.from({ length: 12 }, (_, k) => ({ x: x + 8 * k, y: y + 6 * random(), pressure: 0.5 + 0.5 * random() })) // prettier-ignore
    return strokeArea(`stroke-${i}`, points, { ...DEFAULT_BRUSH, lays: 'colour', sizePx: 24 }, span.firstFrame + (i % 10), span) // prettier-ignore
  })
  const painted = (count: number): MendRecord =>
    sampleRecord({ id: 'painted', kind: 'brush', name: 'Brush 1', areas: strokes.slice(0, count), fill: startingFill('brush'), finish: startingFinish('brush'), span }) // prettier-ignore
  let bytes = 0
  const times: number[] = []
  for (let i = 0; i < STROKES; i++) {
    const change = { id: 'painted', before: i === 0 ? null : painted(i), after: painted(i + 1) }
    const edit = packEdit({ label: `Stroke ${i + 1}`, changes: [change], tracks: [] })
    const body = JSON.stringify({ editId: randomUUID(), baseRevision: revision + i, role: 'do', edit })
    bytes += body.length
    const begun = performance.now()
    const headers = { 'Content-Type': 'application/json', Origin: url }
    const response = await fetch(`${url}/shots/${shotId}/edits`, { method: 'POST', headers, body })
    if (!response.ok) throw new Error(`stroke ${i + 1}: ${await response.text()}`)
    times.push(performance.now() - begun)
  }
  print('painted-sent-mb', bytes / 1e6, 'MB', { strokes: STROKES })
  print('painted-save-ms', median(times.slice(-LAST)), 'ms', { strokes: STROKES })
  const opened: number[] = []
  for (let i = 0; i < 3; i++) {
    await page.goto('about:blank')
    const begun = performance.now()
    await page.goto(`${url}/shots/${shotId}/mend?frame=${span.firstFrame}`)
    await page.locator('[data-testid=picture-canvas][data-ready=true]').waitFor()
    opened.push(performance.now() - begun)
  }
  print('painted-open-ms', median(opened), 'ms', { strokes: STROKES })
}
