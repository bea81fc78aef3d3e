/** Fills, sources, the finish and handovers under the hands: the doorstep of LM_020, as a short shot of its own. */
import { readFileSync } from 'node:fs'
import { expect, test, type Page } from './test'
import sharp from 'sharp'
import { parseDocument } from '../../core/document/document'
import { unzip } from '../unzip'
import { bringIn, MendStage } from './bench'
import { filmClip } from './demoFilm'

test.describe.configure({ mode: 'serial' })

/** Part of the frame, and of the shot: the banner comes in from the right and covers the clamp. */
const CROP = { x: 720, y: 380, width: 480, height: 300 }
const [FIRST, COUNT] = [1006, 12]
/** Round the clamp, in px of the cropped picture. */
const CLAMP = [[190, 158], [196, 98], [240, 90], [246, 78], [290, 78], [296, 96], [294, 142], [312, 154], [306, 178], [194, 178]] as const // prettier-ignore
const INSIDE = { x: 250, y: 135 }

const doorstep = (): string =>
  filmClip('LM_020-doorstep.mkv', 'LM_020', {
    firstFrame: FIRST,
    count: COUNT,
    crop: `${CROP.width}:${CROP.height}:${CROP.x}:${CROP.y}`,
  })

let shotId: string
async function documentOf(page: Page) {
  const parsed = parseDocument(await (await page.request.get(`/shots/${shotId}/mends.json`)).text())
  if (!parsed.ok) throw new Error(parsed.detail)
  return parsed.document
}

/** Samples of the picture as the canvas shows them, by places of the picture. */
async function shown(
  page: Page,
  stage: MendStage,
  places: readonly (readonly [number, number])[],
): Promise<number[][]> {
  const box = (await page.getByTestId('picture').boundingBox())!
  const screen = await Promise.all(places.map(([x, y]) => stage.placeOf(x, y)))
  return page.getByTestId('picture-canvas').evaluate(
    (canvas, all) =>
      all.map(([x, y]) => [
        ...(canvas as HTMLCanvasElement).getContext('2d')!.getImageData(x!, y!, 1, 1).data.slice(0, 3),
      ]),
    screen.map(({ x, y }) => [Math.floor(x - box.x), Math.floor(y - box.y)]),
  )
}

test('a shot to work on', async ({ page }) => {
  shotId = await bringIn(page, doorstep())
})

test('a patch is drawn and covers at once: its source is found and marked, moved by hand, and the next of the places taken', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1001')
  const [before] = await shown(page, stage, [[INSIDE.x, INSIDE.y]])
  await stage.draw('Patch', CLAMP)
  const source = page.getByRole('button', { name: /^Source of Patch 1/ })
  await expect(source).toBeVisible()
  await expect.poll(async () => (await shown(page, stage, [[INSIDE.x, INSIDE.y]]))[0]).not.toEqual(before)
  await stage.saved()
  const first = (await documentOf(page)).mends[0]!
  expect(first.fill.methodId).toBe('heal')
  expect(first.source!.keys).toHaveLength(1)
  expect(Math.hypot(first.source!.keys[0]!.dx, first.source!.keys[0]!.dy)).toBeGreaterThan(60)

  await page.getByTestId('picture').focus()
  await page.keyboard.press('s')
  await expect(page.getByRole('radio', { name: /^Place 2 of/ })).toBeChecked()
  await expect(page.getByTestId('source-corners')).toBeVisible()
  await stage.saved()
  const second = (await documentOf(page)).mends[0]!.source!.keys[0]!
  expect([second.dx, second.dy]).not.toEqual([first.source!.keys[0]!.dx, first.source!.keys[0]!.dy])
  await page.keyboard.press('Control+z')

  // Elsewhere in time the source is keyed, and the start is pinned.
  await stage.goTo(1003)
  await source.focus()
  await page.keyboard.press('Shift+ArrowLeft')
  await expect(page.getByTestId('source-pins').getByRole('button')).toHaveCount(2)
  await page.keyboard.press('Control+z')
  await expect(page.getByTestId('source-pins')).toHaveCount(0)
  await stage.saved()
})

test('what passes in front is held out: it keeps every bit, and the patch none of its colour', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1010&zoom=100')
  await stage.select('Patch 1')
  await stage.unfold('Area')
  // The banner on this frame, and everything right of it.
  await page.getByRole('button', { name: 'Add an area…' }).click()
  await page.getByRole('menuitem', { name: 'Box' }).nth(1).click()
  const left = 262
  const [corner, across] = [await stage.placeOf(left, 2), await stage.placeOf(478, 220)]
  await page.mouse.move(corner.x, corner.y)
  await page.mouse.down()
  await page.mouse.move(across.x, across.y, { steps: 4 })
  await page.mouse.up()
  await stage.settled()
  await stage.saved()
  const places = Array.from(
    { length: 60 },
    (_, i) => [left + 3 + (i % 12) * 4, 84 + Math.floor(i / 12) * 16] as const,
  )
  const mended = await shown(page, stage, places)
  await page.keyboard.down('p')
  await expect(page.getByTestId('picture-canvas')).toHaveAttribute('data-ready', 'false')
  const plate = await shown(page, stage, places)
  await page.keyboard.up('p')
  expect(mended).toEqual(plate)
})

test('every fill of the menu is tried on, each says what it does, and undo brings the first one back', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1002')
  await stage.select('Patch 1')
  await stage.unfold('Fill')
  const look = async () => JSON.stringify(await shown(page, stage, [[INSIDE.x, INSIDE.y], [240, 150], [270, 110], [230, 120]])) // prettier-ignore
  const looks = [await look()]
  for (const title of ['Texture', 'Clone', 'Membrane', 'Median', 'Near', 'Soften']) {
    const before = looks.at(-1)
    await stage.chooseFill(title)
    await expect(page.getByRole('button', { name: `Method: ${title}` })).toBeVisible()
    await expect.poll(look).not.toBe(before)
    looks.push(await look())
  }
  expect(new Set(looks).size).toBe(7)
  // Across works along a path only: it is not offered here.
  await page.getByRole('button', { name: /^Method:/ }).click()
  await expect(page.getByRole('menuitemradio', { name: /^Across/ })).toHaveCount(0)
  await page.keyboard.press('Escape')
  for (let i = 0; i < 6; i++) await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Method: Heal' })).toBeVisible()
  await stage.saved()
})

test('the finish: grouped, with units; a ramp and a handover are seen in the strip', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1006')
  await stage.select('Patch 1')
  await stage.unfold('Finish')
  await stage.type('Exposure', 0.5)
  await stage.settled()
  await stage.unfold('Span')
  await stage.type('Dissolve', 3)
  await page.getByRole('button', { name: 'Hand over at 1006' }).click()
  await expect(page.getByTestId('mend-card')).toHaveCount(2)
  await stage.saved()
  const { mends } = await documentOf(page)
  expect(mends.map((mend) => [mend.name, mend.span])).toEqual([
    ['Patch 1', { firstFrame: 1001, lastFrame: 1008, rampInFrames: 0, rampOutFrames: 0 }],
    ['Patch 2', { firstFrame: 1006, lastFrame: 1012, rampInFrames: 3, rampOutFrames: 0 }],
  ])
  expect(mends[0]!.finish.exposureStops).toBe(0.5)
  await page.keyboard.press('Control+z')
  await expect(page.getByTestId('mend-card')).toHaveCount(1)
  await page.keyboard.press('Control+z')
  await stage.saved()
})

test('cut away, the picture is handed over with alpha; a still goes behind it', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1002')
  await stage.select('Patch 1')
  await stage.unfold('Fill')
  await stage.chooseFill('Cut')
  await stage.settled()
  // Two greys that are no picture: nothing is behind.
  const [[r, g, b]] = (await shown(page, stage, [[INSIDE.x, INSIDE.y]])) as [[number, number, number]]
  expect(r === g && g === b).toBe(true)
  await stage.saved()
  await page.goto(`/shots/${shotId}/handover`)
  await page.getByRole('radio', { name: /PNG pictures/ }).check()
  await page.getByRole('button', { name: 'Make version' }).click()
  const row = page.getByTestId('version').first()
  await expect(row).toHaveAttribute('data-state', 'done')
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    row.getByRole('link', { name: 'Download' }).click(),
  ])
  const [png] = [...(await unzip(readFileSync(await download.path()))).values()]
  const { data, info } = await sharp(png).raw().toBuffer({ resolveWithObject: true })
  expect(info.channels).toBe(4)
  expect(data[(INSIDE.y * info.width + INSIDE.x) * 4 + 3]).toBe(0)
  expect(data[3]).toBe(255)

  await stage.open(shotId, '?frame=1002')
  await stage.select('Patch 1')
  await stage.unfold('Fill')
  await page.getByRole('radio', { name: 'Still' }).click()
  await expect(
    page.getByText('The still that should show behind is missing.', { exact: false }),
  ).toBeVisible()
  const still = await sharp({ create: { width: CROP.width, height: CROP.height, channels: 3, background: '#204060' } }).png().toBuffer() // prettier-ignore
  await page
    .getByLabel('Still picture')
    .setInputFiles([{ name: 'sky.png', mimeType: 'image/png', buffer: still }])
  await expect(page.getByText('in place')).toBeVisible()
  await stage.settled()
  await expect
    .poll(async () => (await shown(page, stage, [[INSIDE.x, INSIDE.y]]))[0])
    .toEqual([0x20, 0x40, 0x60])
})
