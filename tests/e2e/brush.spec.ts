/** Painting by hand: real pointer events of a pen with pressure; strokes are records that are listed, hidden, ordered, taken away. */
import type { Page } from '@playwright/test'
import { parseDocument } from '../../core/document/document'
import { strokesOf } from '../../core/document/strokeCommands'
import { LM_060 } from '../../demo/lm060/scene'
import sharp from 'sharp'
import { bringIn, MendStage, renderedPictures } from './bench'
import { filmClip } from './demoFilm'
import { expect, test } from './test'

test.describe.configure({ mode: 'serial' })

/** `tilt`, degrees from upright. */
type Point = readonly [x: number, y: number, pressure: number, tilt?: number]

/** Along places of the picture, with a pen. */
async function paint(stage: MendStage, points: readonly Point[]): Promise<void> {
  const pen = await stage.page.context().newCDPSession(stage.page)
  const send = async (
    type: 'mousePressed' | 'mouseMoved' | 'mouseReleased',
    [x, y, force, tiltX = 0]: Point,
  ) => {
    const buttons = type === 'mouseReleased' ? 0 : 1
    const place = await stage.placeOf(x, y)
    const event = {
      type,
      ...place,
      button: 'left',
      buttons,
      pointerType: 'pen',
      force,
      tiltX,
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
  const clip = filmClip('LM_060-paint.mkv', 'LM_060', {
    firstFrame: LM_060.firstFrame,
    count: 8,
    crop: `${SIZE.width}:${SIZE.height}:860:560`,
  })
  shotId = await bringIn(page, clip)
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

test('of a picture that is shown smaller a dab draws only its own part again, and leaves what drawing all of it would', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1006')
  await stage.select('Brush 1')
  await page.getByRole('button', { name: 'Paint', exact: true }).click()
  await page.getByRole('radio', { name: 'Light', exact: true }).click()
  const middle = await stage.placeOf(SIZE.width / 2, SIZE.height / 2)
  await page.mouse.move(middle.x, middle.y)
  await page.mouse.wheel(0, 330)
  await expect.poll(async () => Number(await page.getByTestId('picture').getAttribute('data-scale'))).toBeLessThan(0.7) // prettier-ignore
  await paint(stage, [[150, 60, 1], [230, 90, 1]]) // prettier-ignore
  const canvas = page.getByTestId('picture-canvas')
  const pixels = () => canvas.evaluate((one) => (one as HTMLCanvasElement).toDataURL())
  const part = await pixels()
  // Another way of comparing, and back: all of it is drawn again.
  await page.keyboard.press('5')
  await expect.poll(pixels).not.toBe(part)
  await page.keyboard.press('5')
  await expect.poll(pixels).toBe(part)
  await page.keyboard.press('Control+z')
  await expect(page.getByTestId('strokes').getByRole('listitem')).toHaveCount(3)
  await stage.saved()
})

test('what is painted is seen before the pen is lifted; let go by Escape nothing of it is left', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1006')
  await page.getByTestId('picture').focus()
  const [inside, next] = [await stage.placeOf(60, 110), await stage.placeOf(110, 110)]
  const before = [await colourAt(stage, inside), await colourAt(stage, next)]
  await stage.select('Brush 1')
  await page.getByRole('button', { name: 'Paint', exact: true }).click()
  await page.getByRole('radio', { name: 'Colour', exact: true }).click()
  const isGrey = async (place: typeof inside) =>
    Math.max(...(await colourAt(stage, place)).map((one) => Math.abs(one - 128))) < 24
  await page.mouse.move(inside.x, inside.y)
  await page.mouse.down()
  await expect.poll(() => isGrey(inside)).toBe(true)
  await page.mouse.move(next.x, next.y, { steps: 8 })
  await expect.poll(() => isGrey(next)).toBe(true)
  await expect(page.getByTestId('strokes').getByRole('listitem')).toHaveCount(3)
  await page.keyboard.press('Escape')
  await expect.poll(async () => [await colourAt(stage, inside), await colourAt(stage, next)]).toEqual(before)
  await page.mouse.up()
  await stage.saved()
  expect(await strokesSaved(page, shotId)).toHaveLength(3)
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

test('strokes are chosen together, in the list and in the picture; moved, widened, re-timed, taken away as one', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1006')
  await page.keyboard.press('n')
  await page.getByRole('menuitem', { name: /^Brush/ }).click()
  const settings = page.getByRole('region', { name: 'Next stroke' })
  const set = async (name: string, value: string) => {
    await settings.getByRole('textbox', { name, exact: true }).fill(value)
    await settings.getByRole('textbox', { name, exact: true }).press('Enter')
  }
  await settings.getByRole('radio', { name: 'Colour', exact: true }).click()
  await settings.getByRole('radio', { name: 'Nothing', exact: true }).click()
  await settings.getByRole('radio', { name: 'Some', exact: true }).click()
  await set('Lasts', '2')
  await set('Size', '10')
  await set('Leaned', '3')
  await page.getByTestId('picture').focus()
  await paint(stage, [[160, 30, 1], [280, 30, 1]]) // prettier-ignore
  // Leaned by 45 degrees, half way to flat: twice as wide.
  await paint(stage, [[160, 60, 1, 45], [280, 60, 1, 45]]) // prettier-ignore
  await paint(stage, [[160, 90, 1], [280, 90, 1]]) // prettier-ignore
  const rows = page.getByTestId('strokes').getByRole('listitem')
  await expect(rows).toHaveCount(3)
  await stage.saved()
  const widest = ({ keys }: { keys: readonly { points: readonly { widthPx: number }[] }[] }) =>
    Math.max(...keys[0]!.points.map(({ widthPx }) => widthPx))
  const saved = async () => (await strokesSaved(page, shotId)).slice(-3)
  for (const [i, width] of [10, 20, 10].entries())
    expect(Math.abs(widest((await saved())[i]!) - width)).toBeLessThan(0.5)
  expect((await saved())[0]!.stroke.span).toMatchObject({ firstFrame: 1006, lastFrame: 1007 })

  // The lowest in the list is the first; Ctrl adds the one in the middle.
  await page.keyboard.press('Escape')
  await rows.nth(2).getByRole('button').click()
  await rows
    .nth(1)
    .getByRole('button')
    .click({ modifiers: ['Control'] })
  const card = page.getByTestId('chosen-stroke')
  await expect(card).toContainText('These 2 strokes')
  // Dragged by the line of the one whose handles are shown; the other goes along.
  const [from, to] = [await stage.placeOf(190, 60), await stage.placeOf(210, 70)]
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(to.x, to.y, { steps: 3 })
  await page.mouse.up()
  await stage.saved()
  const starts = async () => (await saved()).map(({ keys }) => [Math.round(keys[0]!.points[0]!.x), Math.round(keys[0]!.points[0]!.y)]) // prettier-ignore
  expect(await starts()).toEqual([[180, 40], [180, 70], [160, 90]]) // prettier-ignore
  await page.keyboard.press('Control+z')
  await stage.saved()
  expect(await starts()).toEqual([[160, 30], [160, 60], [160, 90]]) // prettier-ignore

  await page.getByRole('button', { name: 'Choose all' }).click()
  await expect(card).toContainText('These 3 strokes')
  await card.getByRole('textbox', { name: 'Width' }).fill('30')
  await card.getByRole('textbox', { name: 'Width' }).press('Enter')
  await card.getByRole('button', { name: 'A frame earlier' }).click()
  await stage.saved()
  for (const [i, width] of [30, 60, 30].entries())
    expect(Math.abs(widest((await saved())[i]!) - width)).toBeLessThan(1.5)
  for (const { stroke } of await saved())
    expect([stroke.span.firstFrame, stroke.span.lastFrame]).toEqual([1005, 1006])
  if (process.env['SHOT']) await page.screenshot({ path: '/tmp/strokes.png' })
  // In the picture, Shift takes one out of what is chosen.
  const lowest = await stage.placeOf(190, 90)
  await page.keyboard.down('Shift')
  await page.mouse.click(lowest.x, lowest.y)
  await page.keyboard.up('Shift')
  await expect(card).toContainText('These 2 strokes')
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Delete')
  await expect(rows).toHaveCount(1)
  await page.keyboard.press('Control+z')
  await expect(rows).toHaveCount(3)
  await stage.saved()
})

test('the tip is set by dragging in the picture, and shows what a clone would lay down', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1004')
  await stage.select('Brush 2')
  await page.getByRole('button', { name: 'Paint', exact: true }).click()
  const settings = page.getByRole('region', { name: 'Next stroke' })
  const [middle, rim, fade] = [await stage.placeOf(120, 80), await stage.placeOf(145, 80), await stage.placeOf(125, 80)] // prettier-ignore
  await page.mouse.move(middle.x, middle.y)
  await page.keyboard.down('Control')
  await page.mouse.down()
  await page.mouse.move(rim.x, rim.y, { steps: 2 })
  await page.keyboard.down('Shift')
  await page.mouse.move(fade.x, fade.y, { steps: 2 })
  await page.mouse.up()
  await page.keyboard.up('Shift')
  await page.keyboard.up('Control')
  await expect(settings.getByRole('textbox', { name: 'Size', exact: true })).toHaveValue('50')
  await expect(settings.getByRole('textbox', { name: 'Softness' })).toHaveValue('0.80')
  await expect(page.getByTestId('strokes').getByRole('listitem')).toHaveCount(3)

  await settings.getByRole('radio', { name: 'Clone', exact: true }).click()
  const right = settings.getByRole('textbox', { name: 'From right' })
  await right.fill('-60')
  await right.press('Enter')
  const at = await stage.placeOf(200, 80)
  await page.mouse.move(at.x, at.y)
  const ghost = page.getByTestId('source-ghost')
  await expect(ghost).toBeVisible()
  const [shown, source] = [
    await ghost.evaluate((canvas) => {
      const { width, height } = canvas as HTMLCanvasElement
      const context = (canvas as HTMLCanvasElement).getContext('2d')!
      return [...context.getImageData(Math.floor(width / 2), Math.floor(height / 2), 1, 1).data.slice(0, 3)]
    }),
    await colourAt(stage, await stage.placeOf(140, 80)),
  ]
  for (const [i, value] of shown.entries()) expect(Math.abs(value - source[i]!)).toBeLessThan(24)
  if (process.env['SHOT']) await page.screenshot({ path: '/tmp/ghost.png' })
})
