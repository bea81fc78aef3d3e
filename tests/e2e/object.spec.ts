/** Taking a person out under the hands: a rough box round the stagehand of LM_070, dragged along on a few frames; the rest is found. */
import { join } from 'node:path'
import { expect, test } from './test'
import sharp from 'sharp'
import type { KeyedArea } from '../../core/document/areas'
import { parseDocument } from '../../core/document/document'
import { geometryAt, middleOf } from '../../core/document/keyedGeometry'
import { tracksById } from '../../core/document/tracks'
import { bringIn, MendStage, renderedPictures, withoutResults } from './bench'
import { DEMO_FOLDER, filmClip } from './demoFilm'

test.describe.configure({ mode: 'serial' })

/** Part of the frame, and of the shot: the stagehand crosses it. */
const CROP = { left: 380, top: 230, width: 520, height: 460 }
const [FIRST, COUNT] = [1013, 22]
/** Twice as wide as he is: nobody has to be exact. In px of the crop. */
const BOX = { width: 210, top: 28, bottom: 418 }
/** Where his middle is on some frames of the short shot, by eye. */
const MIDDLES = { 1008: 199, 1001: 42, 1004: 122, 1013: 266, 1018: 337, 1022: 412 } as const
/** Further from his middle nothing is looked at: half the box as it bulges, and what a tidy outline looks beyond. */
const FAR_PX = 200
const JUDGED = [1004, 1010, 1016]

const crossing = (): string =>
  filmClip('LM_070-crossing.mkv', 'LM_070', {
    firstFrame: FIRST,
    count: COUNT,
    crop: `${CROP.width}:${CROP.height}:${CROP.left}:${CROP.top}`,
  })

/** Samples of the demo film for a frame of the short shot. */
async function readCrop(kind: 'plate' | 'truth-without-grain' | 'matte', frame: number): Promise<Buffer> {
  const picture = sharp(join(DEMO_FOLDER, 'LM_070', kind, `LM_070.${frame - 1001 + FIRST}.png`)).extract(CROP)
  return (kind === 'matte' ? picture.extractChannel(0) : picture).raw().toBuffer()
}

/** Between the frames on which he was placed, straight: within some px of the curve. */
function middleAt(frame: number): number {
  const placed = Object.entries(MIDDLES).map(([at, middle]) => [Number(at), middle] as const)
  placed.sort((a, b) => a[0] - b[0])
  const next = placed.findIndex(([at]) => at >= frame)
  const [[a, from], [b, to]] = [placed[Math.max(0, next - 1)]!, placed[next]!]
  return a === b ? to : from + ((to - from) * (frame - a)) / (b - a)
}

let shotId: string
let finished: Map<string, Buffer>
const frameOf = (frame: number): Promise<Buffer> => sharp([...finished].find(([name]) => name.endsWith(`.${frame}.png`))![1]).raw().toBuffer() // prettier-ignore

test('a shot to work on', async ({ page }) => {
  shotId = await bringIn(page, crossing())
})

test('a box that is dragged along on six frames is enough: all behind him is seen in other frames', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1008')
  const [left, right] = [MIDDLES[1008] - BOX.width / 2, MIDDLES[1008] + BOX.width / 2]
  await stage.draw('Object', [
    [left, BOX.top],
    [right, BOX.top],
    [right, BOX.bottom],
    [left, BOX.bottom],
  ])
  for (const [frame, middle] of Object.entries(MIDDLES)) {
    if (frame === '1008') continue
    await stage.goTo(Number(frame))
    await stage.dragHandle('Middle', middle, (BOX.top + BOX.bottom) / 2)
  }
  await stage.saved()
  const parsed = parseDocument(await (await page.request.get(`/shots/${shotId}/mends.json`)).text())
  if (!parsed.ok) throw new Error(parsed.detail)
  expect(parsed.document.mends[0]!.fill).toMatchObject({
    methodId: 'clean-plate',
    params: { unseen: 'texture' },
  })
  expect(parsed.document.mends[0]!.areas[0]!.keys.map(({ frame }) => frame)).toEqual([
    1001, 1004, 1008, 1013, 1018, 1022,
  ])
  await expect(page.getByText('Scene: locked camera')).toBeVisible()
  await stage.goTo(1010)
  await expect(page.getByTestId('gathered')).toContainText('All seen in other frames')
})

test('workers gather its frames ahead, say how far they are, and stop when told to', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1010')
  await stage.select('Object 1')
  const row = page.getByTestId('gather-all')
  await row.getByRole('button', { name: 'Gather all frames' }).click()
  await expect(row.getByRole('status')).toContainText(/ of 22 frames · \d+\.\d fps · \d+ s left/)
  await expect(row.getByRole('progressbar')).toBeVisible()
  await row.getByRole('button', { name: 'Cancel' }).click()
  await expect(row).toContainText(/Stopped; \d+ of 22 are kept/)
})

test('handed over, he is gone: what is behind him is right within the grain, and nothing far from him has changed', async ({
  page,
}) => {
  finished = await renderedPictures(page, shotId)
  expect(finished.size).toBe(COUNT)
  let [sum, count, changedFar] = [0, 0, 0]
  for (const frame of JUDGED) {
    const [mended, plate, truth, matte] = await Promise.all([
      frameOf(frame),
      readCrop('plate', frame),
      readCrop('truth-without-grain', frame),
      readCrop('matte', frame),
    ])
    for (let pixel = 0; pixel < matte.length; pixel++) {
      const isHis = matte[pixel]! > 0
      const isFar = Math.abs((pixel % CROP.width) - middleAt(frame)) > FAR_PX
      for (let at = 3 * pixel; at < 3 * pixel + 3; at++) {
        if (isHis) {
          sum += (mended[at]! - truth[at]!) ** 2
          count++
        } else if (isFar && mended[at] !== plate[at]) changedFar++
      }
    }
  }
  const psnr = 10 * Math.log10((255 * 255) / (sum / count))
  console.log(
    `object: ${psnr.toFixed(2)} dB in his matte against the truth without grain; the grain alone gives 42.1`,
  )
  // The grain that a finished plate has, and two decibels: in so small a picture the box leaves little plate to go by.
  expect(psnr).toBeGreaterThan(40.1)
  expect(changedFar).toBe(0)
})

test('the preview that was gathered in the browser equals the render, byte for byte', async ({ page }) => {
  const stage = new MendStage(page)
  const asked = await withoutResults(page)
  for (const frame of [1004, 1016]) {
    await stage.open(shotId, `?frame=${frame}&zoom=100`)
    const shown = await stage.shownSamples(CROP)
    expect(shown.equals(await frameOf(frame))).toBe(true)
  }
  expect(asked()).toBeGreaterThan(0)
})

test('borrowed from another frame instead, keyed, with a line in the strip that says from where', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1006')
  await stage.select('Object 1')
  await stage.chooseFill('Borrow')
  await stage.type('Away', 14)
  const row = page.getByTestId('gather-row')
  await expect(row).toHaveAccessibleName('From 1020')
  await stage.goTo(1012)
  await page.getByRole('button', { name: 'Key away at 1012' }).click()
  await stage.type('Away', -11)
  await expect(row).toHaveAccessibleName('From 1001')
  await expect(row.getByRole('button')).toHaveCount(2)
  await stage.goTo(1006)
  await expect(row).toHaveAccessibleName('From 1020')
  await stage.settled()
  await expect(page.getByTestId('gathered')).toContainText('1 frame')
  await stage.chooseFill('Still')
  await page.getByRole('radio', { name: 'By corners' }).click()
  const corner = page.getByRole('button', { name: /^Picture of Object 1, upper left/ })
  await corner.focus()
  await page.keyboard.press('Shift+ArrowRight')
  await expect(page.getByRole('textbox', { name: 'Upper left, x' })).toHaveValue('10.0')
  await stage.saved()
  for (let step = 0; step < 7; step++) await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Method: Clean plate' })).toBeVisible()
  await stage.saved()
})

test('boxed on one frame alone, he is followed to both ends of the shot', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1008')
  await stage.select('Object 1')
  await page.keyboard.press('Delete')
  const [left, right] = [MIDDLES[1008] - BOX.width / 2, MIDDLES[1008] + BOX.width / 2]
  await stage.draw('Object', [
    [left, BOX.top],
    [right, BOX.top],
    [right, BOX.bottom],
    [left, BOX.bottom],
  ])
  await expect(page.getByText('Scene: locked camera')).toBeVisible()
  await page.getByRole('button', { name: 'Follow the thing' }).click()
  await expect(page.getByRole('note')).toHaveCount(0)
  await stage.saved()
  if (process.env['SHOT']) await page.screenshot({ path: '/tmp/shot-thing.png' })
  const parsed = parseDocument(await (await page.request.get(`/shots/${shotId}/mends.json`)).text())
  if (!parsed.ok) throw new Error(parsed.detail)
  const { mends, tracks } = parsed.document
  const area = mends.at(-1)!.areas[0] as KeyedArea
  for (const frame of [1001, 1004, 1010, 1013, 1016, 1020]) {
    const { x } = middleOf(geometryAt(area, tracksById(tracks), frame))
    expect(Math.abs(x - middleAt(frame))).toBeLessThan(15)
  }
  await page.keyboard.press('Control+z')
  await expect(page.getByText('Outlined on 1008 only')).toBeVisible()
  await page.keyboard.press('Delete')
  await stage.saved()
})
