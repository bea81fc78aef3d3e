/** Painting by hand: real pointer events of a pen with pressure; strokes are records that are listed, hidden, ordered, taken away. */
import type { Page } from '@playwright/test'
import { parseDocument } from '../../core/document/document'
import { strokesOf } from '../../core/document/brush'
import { LM_060 } from '../../demo/lm060/scene'
import sharp from 'sharp'
import { MendStage, renderedPictures } from './bench'
import { filmClip } from './demoFilm'
import { expect, test } from './test'

test.describe.configure({ mode: 'serial' })

type Point = readonly [x: number, y: number, pressure: number]

/** Along places of the picture, with a pen. */
async function paint(stage: MendStage, points: readonly Point[]): Promise<void> {
  const pen = await stage.page.context().newCDPSession(stage.page)
  const send = async (type: 'mousePressed' | 'mouseMoved' | 'mouseReleased', [x, y, force]: Point) => {
    const buttons = type === 'mouseReleased' ? 0 : 1
    const place = await stage.placeOf(x, y)
    const event = {
      type,
      ...place,
      button: 'left',
      buttons,
      pointerType: 'pen',
      force,
      clickCount: 1,
    } as const
    await pen.send('Input.dispatchMouseEvent', event)
  }
  await send('mousePressed', points[0]!)
  for (const point of points) await send('mouseMoved', point)
  await send('mouseReleased', points.at(-1)!)
  await pen.detach()
  await stage.settled()
}

const colourAt = (stage: MendStage, place: { x: number; y: number }): Promise<number[]> =>
  stage.page.getByTestId('picture-canvas').evaluate((canvas, { x, y }) => {
    const box = canvas.getBoundingClientRect()
    const context = (canvas as HTMLCanvasElement).getContext('2d')!
    return [...context.getImageData(x - box.left, y - box.top, 1, 1).data.slice(0, 3)]
  }, place)

const strokesSaved = async (page: Page, shotId: string) => {
  const parsed = parseDocument(await (await page.request.get(`/shots/${shotId}/mends.json`)).text())
  if (!parsed.ok) throw new Error(parsed.detail)
  return parsed.document.mends.flatMap((mend) => strokesOf(mend))
}

let shotId: string
const SIZE = { width: 420, height: 160 }

test('a shot to paint on', async ({ page }) => {
  await page.goto('/')
  const cards = page.getByTestId('shot-card')
  const before = await cards.count()
  const clip = filmClip('LM_060-paint.mkv', 'LM_060', {
    firstFrame: LM_060.firstFrame,
    count: 8,
    crop: `${SIZE.width}:${SIZE.height}:860:560`,
  })
  await page.getByTestId('file-input').setInputFiles(clip)
  await expect(cards).toHaveCount(before + 1)
  shotId = (await cards.last().getByRole('link').getAttribute('href'))!.split('/')[2]!
})

test('a stroke lays a colour down, wide as it was pressed; the plate painted over it is the plate to the bit', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1004')
  await page.getByTestId('picture').focus()
  const [inside, beside] = [await stage.placeOf(150, 60), await stage.placeOf(150, 74)]
  const [before, besideBefore] = [await colourAt(stage, inside), await colourAt(stage, beside)]
  await page.keyboard.press('n')
  await page.getByRole('menuitem', { name: /^Brush/ }).click()
  await paint(stage, [[100, 60, 0.5], [150, 60, 0.5], [200, 60, 0.5]]) // prettier-ignore
  await page.getByRole('radio', { name: 'Colour', exact: true }).click()
  await page.getByTestId('picture').focus()
  await paint(stage, [[100, 60, 0.5], [150, 60, 0.5], [200, 60, 0.5]]) // prettier-ignore
  await expect(page.getByTestId('strokes').getByRole('listitem')).toHaveCount(2)
  const painted = await colourAt(stage, inside)
  expect(Math.max(...painted.map((one) => Math.abs(one - 128)))).toBeLessThan(24)
  // Half pressed, the tip of 40 px is 20 px wide.
  expect(await colourAt(stage, beside)).toEqual(besideBefore)

  await page.getByRole('radio', { name: 'Plate', exact: true }).click()
  const softness = page
    .getByRole('region', { name: 'Next stroke' })
    .getByRole('textbox', { name: 'Softness' })
  await softness.fill('0')
  await softness.press('Enter')
  await page.getByTestId('picture').focus()
  await paint(stage, [[120, 60, 1], [180, 60, 1]]) // prettier-ignore
  expect(await colourAt(stage, inside)).toEqual(before)
  await stage.saved()
  const strokes = await strokesSaved(page, shotId)
  expect(strokes.map(({ stroke }) => stroke.fill.methodId)).toEqual(['clean-plate', 'colour', 'plate'])
  for (const { stroke } of strokes)
    expect([stroke.span.firstFrame, stroke.span.lastFrame]).toEqual([1004, 1004])
  const { widthPx } = strokes[0]!.keys[0]!.points[1]!
  expect(Math.abs(widthPx - 20)).toBeLessThan(1)
})

test('strokes are hidden, ordered and taken away, one undo each', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1004')
  await stage.select('Brush 1')
  const rows = page.getByTestId('strokes').getByRole('listitem')
  await expect(rows).toHaveCount(3)
  await rows.first().getByRole('button').click()
  await page.getByRole('button', { name: 'Hide the stroke' }).click()
  await expect(page.getByTestId('strokes').getByLabel('Hidden')).toBeVisible()
  await page.getByRole('button', { name: 'Lay it earlier' }).click()
  await expect(rows.nth(1)).toContainText('Plate')
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Delete')
  await expect(rows).toHaveCount(2)
  for (const count of [3, 3, 3]) {
    await page.keyboard.press('Control+z')
    await expect(rows).toHaveCount(count)
  }
  await expect(rows.first()).toContainText('Plate')
  await expect(page.getByTestId('strokes').getByLabel('Hidden')).toHaveCount(0)
})

test('dab through: each dab lives on its frame, and the next frame comes by itself', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1002')
  await stage.select('Brush 1')
  await page.getByRole('button', { name: 'Paint', exact: true }).click()
  await page.getByRole('radio', { name: 'Next frame' }).click()
  await page.getByTestId('picture').focus()
  for (const frame of [1003, 1004, 1005]) {
    await paint(stage, [[300, 100, 1]])
    await expect(page.getByTestId('frame')).toHaveText(String(frame))
  }
  await stage.saved()
  const spans = (await strokesSaved(page, shotId)).slice(-3).map(({ stroke }) => stroke.span)
  expect(spans.map(({ firstFrame, lastFrame }) => [firstFrame, lastFrame])).toEqual([
    [1002, 1002],
    [1003, 1003],
    [1004, 1004],
  ])
  await page.keyboard.press(']')
  await expect(page.getByRole('textbox', { name: 'Size' })).toHaveValue('48')
})

test('a stroke that rides on the scene is re-timed on its card, painted by keys too, and renders as it was shown', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await expect
    .poll(
      async () =>
        ((await (await page.request.get(`/shots/${shotId}/scene`)).json()) as { state: string }).state,
    )
    .toBe('done')
  await stage.open(shotId, '?frame=1004')
  await stage.select('Brush 1')
  await page.getByRole('radio', { name: 'Clone', exact: true }).click()
  await page.getByRole('radio', { name: 'Scene', exact: true }).click()
  await page.getByRole('button', { name: 'Pick source' }).click()
  const source = await stage.placeOf(90, 40)
  await page.mouse.click(source.x, source.y)
  await paint(stage, [[40, 40, 1], [60, 44, 0.7], [70, 40, 0.4]]) // prettier-ignore
  const card = page.getByTestId('chosen-stroke')
  const last = card.getByRole('textbox', { name: 'Last frame' })
  await last.fill('1007')
  await last.press('Enter')
  // By keys: to a place, down, along, up.
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Space')
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowRight')
  await page.keyboard.press('Space')
  await stage.saved()
  const [ridden, keyed] = (await strokesSaved(page, shotId)).slice(-2)
  expect(ridden!.follow).not.toBeNull()
  expect([ridden!.stroke.span.firstFrame, ridden!.stroke.span.lastFrame]).toEqual([1004, 1007])
  expect(ridden!.stroke.source).toMatchObject({ follow: ridden!.follow, keys: [{ dx: 50, dy: 0 }] })
  expect(keyed!.keys[0]!.points.length).toBeGreaterThanOrEqual(2)

  const pictures = await renderedPictures(page, shotId)
  await page.setViewportSize({ width: 1280, height: 800 })
  for (const frame of [1004, 1006]) {
    await stage.open(shotId, `?frame=${frame}&zoom=100`)
    const [, png] = [...pictures].find(([name]) => name.endsWith(`.${frame}.png`))!
    expect((await stage.shownSamples(SIZE)).equals(await sharp(png).removeAlpha().raw().toBuffer())).toBe(
      true,
    )
  }
})
