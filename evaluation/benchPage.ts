/**
 * `npm run bench:page`: what somebody waits for in the page, in milliseconds: the built application with a web server, a
 * worker and Debian's Chromium on this machine. Nothing else should run meanwhile. `-- --wires --object` measures only these parts:
 * drawing, brush, painted, wires, object, finds, shots.
 *
 *   open-ms       from the address to the mended picture, nothing worked out before
 *   step-ms       each next frame, gone to as soon as the one before is there: median and worst
 *   jump-ms       to a frame far from all that was worked ahead: first look, and full
 *   reload-ms     the same shot again
 *   playback-fps  frames a second while all are ready and the shot plays
 *   dab-ms        from the pen's touching the tablet to other pixels on the canvas, 100 strokes on the frame and 1000 on the shot: median and worst
 *   painted-…     a shot painted stroke by stroke: benchPainted.ts
 *   strokes-frame-ms  to a frame with 100 strokes that has been shown before
 *   draw-ms       from Enter on a drawn wire to the mended picture, following included
 *   shots-page-ms the Shots page's data with 200 shots of 100 mends each, on the server
 *   tab-mb        resident memory of the page's process after playing through
 */
import { BROWSER_PATH } from '../tests/browserPath'
import { readdirSync, readFileSync } from 'node:fs'
import { chromium, type Page } from '@playwright/test'
import type { Area, BoxKey } from '../core/document/areas'
import { DEFAULT_BRUSH, strokeArea } from '../core/document/brush'
import { startingFill, startingFinish, type Mend } from '../core/document/mend'
import { openDatabase } from '../server/db/client.server'
import { startApplication, type Application } from '../tests/e2e/application'
import { sampleMend } from '../tests/fixtures/sampleMend'
import { createRandom } from '../tests/random'
import { bringInDemo } from '../tests/e2e/seed'
import { print, median } from './benchTools'
import { sceneKnown, storeMends } from './benchPageTools'
import { benchPainted } from './benchPainted'
import { ROUGH_DRAWINGS, ROUGH_FRAME } from './clingErrors'
import { clungWires } from './clungWires'
import { openShot, type OpenShot } from './film'

const PORT = 4396
const REVIEWED_MS = 75_000
const LONGEST_MS = 90_000
const PARTS = ['drawing', 'brush', 'painted', 'wires', 'object', 'finds', 'shots'] as const
const asked = PARTS.filter((part) => process.argv.includes(`--${part}`))
const isAsked = (part: (typeof PARTS)[number]): boolean => asked.length === 0 || asked.includes(part)

/** The person of LM_070 under a box that is dragged along, keyed every 12 frames. */
async function draggedBox(shot: OpenShot): Promise<Mend> {
  const { firstFrame, lastFrame } = shot.span
  const keys: BoxKey[] = []
  for (let frame = firstFrame; frame <= lastFrame; frame += 12) keys.push(await boxAt(shot, frame))
  const area: Area = { shape: 'box', id: 'a', role: 'cover', interpolation: 'smooth', follow: null, keys }
  const [fill, finish] = [startingFill('object'), startingFinish('object')]
  return sampleMend({
    id: 'object',
    kind: 'object',
    name: 'Object 1',
    areas: [area],
    fill,
    finish,
    span: shot.span,
  })
}

async function boxAt(shot: OpenShot, frame: number): Promise<BoxKey> {
  const { width } = shot.description
  const matte = await shot.readMatte(frame)
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity]
  matte.forEach((value, pixel) => {
    if (value === 0) return
    const [x, y] = [pixel % width, Math.floor(pixel / width)]
    left = Math.min(left, x)
    right = Math.max(right, x)
    top = Math.min(top, y)
    bottom = Math.max(bottom, y)
  })
  const [x, y] = [(left + right) / 2, (top + bottom) / 2]
  return { frame, x, y, widthPx: right - left + 24, heightPx: bottom - top + 24, turnDeg: 0, cornerPx: 0 }
}

async function revisionOf({ databaseUrl }: Application, shotId: string): Promise<number> {
  const database = openDatabase(databaseUrl)
  const { rows } = await database.pool.query<{ revision: number }>(
    'select revision from shots where id = $1',
    [shotId],
  )
  await database.pool.end()
  return rows[0]!.revision
}

/** Milliseconds until the canvas shows a frame, mended in full; and until it first shows more than its plate. */
const shown = (page: Page, frame: number) =>
  page.evaluate(
    ([wanted, longest]) =>
      new Promise<{ full: number; first: number }>((resolve, reject) => {
        const begun = performance.now()
        let first = 0
        const look = () => {
          const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=picture-canvas]')
          const isThere = canvas?.dataset['frame'] === String(wanted)
          const now = performance.now() - begun
          if (isThere && first === 0 && ['draft', 'full'].includes(canvas.dataset['stage'] ?? '')) first = now
          if (isThere && canvas.dataset['ready'] === 'true') resolve({ full: now, first })
          else if (now < longest) requestAnimationFrame(look)
          else
            reject(
              new Error(
                `frame ${wanted} does not come: the picture has ${JSON.stringify({ ...canvas?.dataset })}`,
              ),
            )
        }
        look()
      }),
    [frame, LONGEST_MS] as const,
  )

/** Milliseconds until the picture shows a mend that is there by then. */
const firstMended = (page: Page): Promise<number> =>
  page.evaluate(
    () =>
      new Promise<number>((resolve) => {
        const begun = performance.now()
        let hasWaited = false
        const look = () => {
          const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=picture-canvas]')
          const isThere = document.querySelector('[data-testid=mend-card]') !== null
          const stage = canvas?.dataset['stage']
          hasWaited ||= isThere && stage !== 'full'
          if (hasWaited && stage === 'full') resolve(performance.now() - begun)
          else requestAnimationFrame(look)
        }
        look()
      }),
  )

async function open(page: Page, url: string, shotId: string, frame: number): Promise<number> {
  const begun = performance.now()
  await page.goto(`${url}/shots/${shotId}/mend?frame=${frame}`, { waitUntil: 'commit' })
  await shown(page, frame)
  return performance.now() - begun
}

async function goTo(page: Page, frame: number): Promise<{ full: number; first: number }> {
  await page.keyboard.press('Control+g')
  await page.getByLabel('Frame or timecode to go to').fill(String(frame))
  const done = shown(page, frame)
  await page.keyboard.press('Enter')
  return done
}

async function benchShot(page: Page, url: string, shotId: string, frame: number, far: number): Promise<void> {
  print('open-ms', await open(page, url, shotId, frame), 'ms', { shot: shotId })
  const steps: number[] = []
  for (let at = frame + 1; at <= frame + 12; at++) {
    const done = shown(page, at)
    await page.keyboard.press('ArrowRight')
    steps.push((await done).full)
  }
  print('step-ms', median(steps), 'ms', { shot: shotId, worst: Math.round(Math.max(...steps)) })
  const jump = await goTo(page, far)
  print('jump-ms', jump.full, 'ms', { shot: shotId, firstLook: Math.round(jump.first) })
  print('reload-ms', await open(page, url, shotId, far), 'ms', { shot: shotId })
}

/** The rate the read-out tells after two seconds and a half of playing, all frames ready. */
async function benchPlayback(page: Page, shotId: string): Promise<void> {
  const readout = page.getByTestId('ready')
  await readout.filter({ hasText: /(\d+)\/\1 ready/ }).waitFor({ timeout: 2 * LONGEST_MS })
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Space')
  await page.waitForTimeout(2500)
  const told = /([\d.]+) fps/.exec(await readout.innerText())
  await page.keyboard.press('Space')
  if (!told) throw new Error('the read-out tells no rate while the shot plays')
  print('playback-fps', Number(told[1]), 'fps', { shot: shotId })
}

/** Draws the left wire of LM_010 and waits for its picture. */
async function benchDrawing(page: Page, url: string, shotId: string): Promise<void> {
  await open(page, url, shotId, ROUGH_FRAME)
  await page.getByTestId('picture').focus()
  await page.keyboard.press('n')
  await page.getByRole('menuitem', { name: /^Wire/ }).click()
  const view = await page.getByTestId('picture').evaluate((element) => {
    const box = element.getBoundingClientRect()
    const { scale, left, top } = (element as HTMLElement).dataset
    return { x: box.x + Number(left), y: box.y + Number(top), scale: Number(scale) }
  })
  for (const [x, y] of ROUGH_DRAWINGS.left)
    await page.mouse.click(view.x + x * view.scale, view.y + y * view.scale)
  const begun = performance.now()
  const looked = firstMended(page)
  await page.keyboard.press('Enter')
  await page.waitForFunction(() => document.querySelectorAll('[data-testid=mend-card]').length > 0)
  await page
    .getByTestId('following')
    .first()
    .waitFor({ state: 'visible', timeout: 5000 })
    .catch(() => undefined)
  await page.waitForFunction(() => document.querySelectorAll('[data-testid=following]').length === 0)
  const followed = performance.now() - begun
  await shown(page, ROUGH_FRAME)
  print('draw-ms', performance.now() - begun, 'ms', {
    shot: shotId,
    frames: 48,
    followed: Math.round(followed),
    firstLook: Math.round(await looked),
  })
}

const BRUSH_FRAMES = 10

/** 1000 strokes on ten frames of LM_010, then dabs on one of them. */
async function benchBrush(page: Page, url: string, shotId: string, revision: number): Promise<void> {
  const shot = openShot('LM_010')
  const { firstFrame } = shot.span
  await storeMends(url, shotId, [brushOfMany(shot, 1000)], [], revision)
  await open(page, url, shotId, firstFrame)
  await page.getByTestId('mend-card').first().click()
  await page.getByRole('button', { name: 'Paint', exact: true }).click()
  for (const [lays, y] of [
    ['Colour', 60],
    ['Light', 140],
  ] as const) {
    // prettier-ignore
    await page.getByRole('radio', { name: lays, exact: true }).click()
    const times: number[] = []
    for (let i = 0; i < 9; i++) {
      const at = await placeOnPage(page, 90 + 110 * i, y)
      await page.mouse.move(at.x, at.y)
      const watch = await page.evaluateHandle(watchPlace, at)
      await page.mouse.down()
      await page.mouse.up()
      times.push(await watch.evaluate(({ changed }) => changed))
      await shown(page, firstFrame)
    }
    print('dab-ms', median(times), 'ms', { lays, first: Math.round(times[0]!), worst: Math.round(Math.max(...times)) }) // prettier-ignore
  }
  await goTo(page, firstFrame + 1)
  print('strokes-frame-ms', (await goTo(page, firstFrame)).full, 'ms', { strokes: 118 })
}

function brushOfMany({ span, description: { width, height } }: OpenShot, count: number): Mend {
  const random = createRandom(21)
  const areas = Array.from({ length: count }, (_, i) => {
    const [x, y] = [40 + random() * (width - 180), 200 + random() * (height - 280)]
    const points = Array.from({ length: 6 }, (_, k) => ({ x: x + 8 * k, y: y + 6 * random(), pressure: 0.5 + 0.5 * random() })) // prettier-ignore
    const settings = { ...DEFAULT_BRUSH, lays: PAINTED[i % PAINTED.length]!, sizePx: 24, offsetX: 60 }
    return strokeArea(`s${i}`, points, settings, span.firstFrame + (i % BRUSH_FRAMES), span)
  })
  const [fill, finish] = [startingFill('brush'), startingFinish('brush')]
  return sampleMend({ id: 'brush', kind: 'brush', name: 'Brush 1', areas, fill, finish, span })
}

const PAINTED = ['clone', 'clone', 'heal', 'light', 'plate'] as const

async function placeOnPage(page: Page, x: number, y: number): Promise<{ x: number; y: number }> {
  const view = await page.getByTestId('picture').evaluate((element) => {
    const box = element.getBoundingClientRect()
    const { scale, left, top } = (element as HTMLElement).dataset
    return { x: box.x + Number(left), y: box.y + Number(top), scale: Number(scale) }
  })
  return { x: view.x + x * view.scale, y: view.y + y * view.scale }
}

/** In the page: milliseconds from the next press of the pointer to the first display frame on which the canvas is another one at a place. */
const watchPlace = ({ x, y }: { x: number; y: number }): { readonly changed: Promise<number> } => {
  const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=picture-canvas]')!
  const box = canvas.getBoundingClientRect()
  const there = () =>
    canvas
      .getContext('2d')!
      .getImageData(x - box.left - 1, y - box.top - 1, 3, 3)
      .data.join()
  const before = there()
  const changed = new Promise<number>((resolve) => {
    const onDown = () => {
      const begun = performance.now()
      const look = () => {
        const ms = performance.now() - begun
        if (there() !== before || ms > 20_000) resolve(ms)
        else requestAnimationFrame(look)
      }
      requestAnimationFrame(look)
    }
    window.addEventListener('pointerdown', onDown, { once: true, capture: true })
  })
  return { changed }
}

/** Accepts what the survey of LM_040 has found. */
async function acceptFinds(page: Page, url: string): Promise<void> {
  await page.goto(`${url}/shots/lm-040/survey`)
  await page.getByRole('button', { name: /^Scan/ }).first().click()
  await page
    .getByText(/finds|found/i)
    .first()
    .waitFor({ timeout: 120_000 })
  for (let tried = 0; tried < 240; tried++) {
    const { state } = (await (await fetch(`${url}/shots/lm-040/survey/state`)).json()) as { state: string }
    if (state === 'done') break
    await new Promise((resolve) => setTimeout(resolve, 500))
  }
  await page.reload()
  await page.keyboard.press('Shift+Enter')
  await page.getByTestId('saved').getByText('Saved').waitFor()
  await new Promise((resolve) => setTimeout(resolve, 1000))
}

/** 200 shots of 100 mends: copies of one, put into the database directly. */
async function benchShotsPage({ databaseUrl, url }: Application): Promise<void> {
  const database = openDatabase(databaseUrl)
  const record = JSON.stringify({ isOn: true, points: new Array<number>(400).fill(0.123456) })
  await database.pool.query(
    `insert into shots (id, production_id, name) select 'many-' || n, production_id, 'many-' || n from shots, generate_series(1, 200) n where id = 'lm-010'`,
  )
  await database.pool.query(
    `insert into plates (id, shot_id, source_name, width, height, channels, bit_depth, rate_num, rate_den, first_frame, frame_count) select gen_random_uuid(), 'many-' || n, 'x', 1920, 1080, 3, 8, 24, 1, 1001, 48 from generate_series(1, 200) n`,
  )
  await database.pool.query(
    `insert into mends (shot_id, id, record) select 'many-' || n, 'm' || m, $1::jsonb from generate_series(1, 200) n, generate_series(1, 100) m`,
    [record],
  )
  await database.pool.end()
  const times: number[] = []
  for (let i = 0; i < 8; i++) {
    const begun = performance.now()
    const response = await fetch(`${url}/?index`)
    await response.text()
    times.push(performance.now() - begun)
  }
  print('shots-page-ms', median(times.slice(2)), 'ms', { shots: 200, mends: 100 })
}

/** The largest resident memory of the browser's processes that show pages. */
function tabMegabytes(): number {
  let most = 0
  for (const pid of execList()) {
    try {
      if (!readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('--type=renderer')) continue
      const resident = Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0)
      most = Math.max(most, resident / 1024)
    } catch {
      continue // it has ended meanwhile
    }
  }
  return most
}

function execList(): number[] {
  return readdirSync('/proc')
    .map(Number)
    .filter((pid) => Number.isInteger(pid))
}

const application = await startApplication(PORT)
const browser = await chromium.launch({ executablePath: BROWSER_PATH })
try {
  process.env['FILLAGRANT_TEST_DATABASE'] = application.databaseUrl
  process.env['FILLAGRANT_TEST_DATA'] = application.dataDir
  await bringInDemo('LM_010', 'LM_040', 'LM_070')
  const { url } = application
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  // What runs this file names functions by a helper that the page does not have.
  await page.addInitScript('globalThis.__name = (one) => one')
  for (const shotId of ['lm-010', 'lm-040', 'lm-070']) await sceneKnown(url, shotId)
  if (isAsked('drawing')) {
    await benchDrawing(page, url, 'lm-010')
    await page.keyboard.press('Control+z')
    await page.getByTestId('saved').getByText('Saved').waitFor()
    await page.goto('about:blank')
  }
  if (isAsked('brush')) {
    await benchBrush(page, url, 'lm-010', await revisionOf(application, 'lm-010'))
    for (let i = 0; i < 19; i++) await page.keyboard.press('Control+z')
    await page.getByTestId('saved').getByText('Saved').waitFor()
    await page.goto('about:blank')
  }
  if (isAsked('painted')) {
    await benchPainted(page, url, 'lm-010', openShot('LM_010'), await revisionOf(application, 'lm-010'))
    await page.getByTestId('mend-card').first().click()
    await page.keyboard.press('Delete')
    await page.getByTestId('saved').getByText('Saved').waitFor()
  }
  if (isAsked('wires')) {
    const { mends, tracks } = await clungWires(openShot('LM_010'))
    await storeMends(url, 'lm-010', mends, tracks, await revisionOf(application, 'lm-010'))
  }
  if (isAsked('object')) await storeMends(url, 'lm-070', [await draggedBox(openShot('LM_070'))], [])
  if (isAsked('finds')) await acceptFinds(page, url)
  await page.goto('about:blank')
  // Some time after an edit the motion of the scene is looked at again: that is not what is measured here.
  await new Promise((resolve) => setTimeout(resolve, REVIEWED_MS))
  for (const shotId of ['lm-010', 'lm-040', 'lm-070']) await sceneKnown(url, shotId)
  if (isAsked('wires')) await benchShot(page, url, 'lm-010', 1008, 1040)
  if (isAsked('wires')) await benchPlayback(page, 'lm-010')
  if (isAsked('object')) await benchShot(page, url, 'lm-070', 1014, 1040)
  if (isAsked('object')) print('tab-mb', tabMegabytes(), 'MB', { shot: 'LM_070', frames: 48 })
  if (isAsked('finds')) await benchShot(page, url, 'lm-040', 1008, 1040)
  if (isAsked('shots')) await benchShotsPage(application)
} finally {
  await browser.close()
  await application.stop()
}
