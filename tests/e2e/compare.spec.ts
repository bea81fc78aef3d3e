/** Plate and result looked at together: each way by its key and by the pointer, checked by the values on the canvas. */
import { LM_060 } from '../../demo/lm060/scene'
import { bringIn, closed, MendStage } from './bench'
import { filmClip } from './demoFilm'
import { expect, test, type Page } from './test'

test.describe.configure({ mode: 'serial' })

const SIZE = { width: 420, height: 160 }
const FRAME = 1004
/** Within the stroke, to the left and to the right of the picture's middle; and beside it. */
const [LEFT, RIGHT, BESIDE] = [
  [150, 80],
  [270, 80],
  [210, 20],
] as const
let shotId: string
let plateOf: (place: readonly [number, number]) => number[]
let resultOf: typeof plateOf

type Colour = readonly number[]

async function colourAt(page: Page, at: { x: number; y: number }): Promise<number[]> {
  return page.getByTestId('picture-canvas').evaluate((canvas, { x, y }) => {
    const box = canvas.getBoundingClientRect()
    const context = (canvas as HTMLCanvasElement).getContext('2d')!
    return [...context.getImageData(Math.floor(x - box.left), Math.floor(y - box.top), 1, 1).data.slice(0, 3)]
  }, at)
}

const shown = (stage: MendStage, [x, y]: readonly [number, number], byPx = 0) =>
  expect.poll(async () => {
    const at = await stage.placeOf(x, y)
    return colourAt(stage.page, { x: at.x + byPx, y: at.y })
  })

test('a shot with a stroke of plain colour across it', async ({ page }) => {
  const clip = filmClip('LM_060-compare.mkv', 'LM_060', {
    firstFrame: LM_060.firstFrame,
    count: 6,
    crop: `${SIZE.width}:${SIZE.height}:860:560`,
  })
  shotId = await bringIn(page, clip)
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${FRAME}&zoom=100`)
  const places = [LEFT, RIGHT, BESIDE]
  const look = async () => {
    const colours = new Map<string, Colour>()
    for (const [x, y] of places) colours.set(`${x}`, await colourAt(page, await stage.placeOf(x, y)))
    return ([x]: readonly [number, number]) => [...colours.get(`${x}`)!]
  }
  plateOf = await look()
  await page.getByTestId('picture').focus()
  await page.keyboard.press('n')
  await page.getByRole('menuitem', { name: /^Brush/ }).click()
  const settings = page.getByRole('region', { name: 'Next stroke' })
  await settings.getByRole('radio', { name: 'Colour', exact: true }).click()
  await settings.getByRole('textbox', { name: 'Softness' }).fill('0')
  await settings.getByRole('textbox', { name: 'Softness' }).press('Enter')
  const [from, to] = [await stage.placeOf(100, 80), await stage.placeOf(320, 80)]
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(to.x, to.y, { steps: 4 })
  await page.mouse.up()
  await stage.settled()
  await stage.saved()
  // Grain is told along the scene's motion, which is looked at again once edits have paused: what is read off here must not change by a code value then.
  const sceneOf = async () => (await page.request.get(`/shots/${shotId}/scene`)).json() as Promise<{ readonly state: string; readonly revision: number }> // prettier-ignore
  await expect
    .poll(async () => ((one) => one.state === 'done' && one.revision > 0)(await sceneOf()))
    .toBe(true)
  await page.reload()
  await stage.settled()
  resultOf = await look()
  expect(resultOf(LEFT)).not.toEqual(plateOf(LEFT))
  expect(resultOf(BESIDE)).toEqual(plateOf(BESIDE))
})

test('wiped: the plate left of a line that is dragged and turned, by pointer and by keys; the address says so', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${FRAME}&zoom=100`)
  await page.getByTestId('picture').focus()
  await page.keyboard.press('2')
  await shown(stage, LEFT).toEqual(plateOf(LEFT))
  await shown(stage, RIGHT).toEqual(resultOf(RIGHT))
  const [line, turn] = [page.getByRole('slider', { name: 'Line of the wipe' }), page.getByRole('slider', { name: 'Turn of the wipe' })] // prettier-ignore
  const [grip, to] = [(await line.boundingBox())!, await stage.placeOf(100, 80)]
  await page.mouse.move(grip.x + grip.width / 2, grip.y + grip.height / 2)
  await page.mouse.down()
  await page.mouse.move(to.x, to.y, { steps: 3 })
  await page.mouse.up()
  await shown(stage, LEFT).toEqual(resultOf(LEFT))
  await line.focus()
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowRight')
  await shown(stage, LEFT).toEqual(plateOf(LEFT))
  await shown(stage, RIGHT).toEqual(resultOf(RIGHT))
  // Turned by half a turn the plate lies on the other side.
  await turn.focus()
  for (let i = 0; i < 18; i++) await page.keyboard.press('Shift+ArrowRight')
  await shown(stage, LEFT).toEqual(resultOf(LEFT))
  await shown(stage, RIGHT).toEqual(plateOf(RIGHT))
  // The address follows a little later: it must have come to the last turn.
  const turned = Number(await turn.getAttribute('aria-valuenow'))
  await expect.poll(() => new URL(page.url()).searchParams.get('compare')).toMatch(new RegExp(`^wipe,0\\.5.*,${turned}$`)) // prettier-ignore
  await page.reload()
  await stage.settled()
  await shown(stage, RIGHT).toEqual(plateOf(RIGHT))
  await page.getByTestId('picture').focus()
  await page.keyboard.press('2')
  await shown(stage, RIGHT).toEqual(resultOf(RIGHT))
  if (process.env['SHOT']) {
    await page.keyboard.press('2')
    await page.screenshot({ path: '/tmp/wipe.png' })
  }
})

test('side by side: both halves show the same place, and the pointer reads it in each', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${FRAME}&zoom=100`)
  await page.getByTestId('picture').focus()
  await page.keyboard.press('3')
  const quarter = Math.round((await page.getByTestId('picture').boundingBox())!.width / 4)
  await shown(stage, LEFT, -quarter).toEqual(plateOf(LEFT))
  await shown(stage, LEFT, quarter).toEqual(resultOf(LEFT))
  const at = await stage.placeOf(...LEFT)
  for (const byPx of [-quarter, quarter]) {
    await page.mouse.move(at.x + byPx, at.y)
    await expect(page.getByTestId('picture')).toContainText(`${LEFT[0]}.0, ${LEFT[1]}.0 px`)
  }
  if (process.env['SHOT']) await page.screenshot({ path: '/tmp/beside.png' })
  // A tool needs the picture where it is.
  await stage.select('Brush 1')
  await page.getByRole('button', { name: 'Paint', exact: true }).click()
  await shown(stage, LEFT).toEqual(resultOf(LEFT))
})

test('flipped by itself, at a rate; held it ends with the key', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${FRAME}&zoom=100`)
  await page.getByTestId('picture').focus()
  await page.keyboard.down('4')
  for (const colour of [plateOf(LEFT), resultOf(LEFT), plateOf(LEFT)])
    await shown(stage, LEFT).toEqual(colour)
  await page.keyboard.up('4')
  await expect(page.getByRole('button', { name: 'Compare: nothing' })).toBeVisible()
  await shown(stage, LEFT).toEqual(resultOf(LEFT))
})

test('the difference is so many times as large, by size and by sign; where nothing is mended there is none', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${FRAME}&zoom=100`)
  await page.getByTestId('picture').focus()
  await page.keyboard.press('5')
  const at = await stage.placeOf(...LEFT)
  await page.mouse.move(at.x, at.y)
  const apart = resultOf(LEFT).map((value, c) => value - plateOf(LEFT)[c]!)
  const inWords = (code: number) => (code > 0 ? `+${code}` : code < 0 ? `−${-code}` : '0')
  await expect(page.getByTestId('read-out')).toHaveText(
    `${LEFT[0]}.0, ${LEFT[1]}.0 px · plate ${plateOf(LEFT).join(' ')} · result ${resultOf(LEFT).join(' ')} · ${apart.map(inWords).join(' ')}`,
  )
  const times = (n: number) => plateOf(LEFT).map((value, c) => Math.min(255, n * Math.abs(resultOf(LEFT)[c]! - value))) // prettier-ignore
  await shown(stage, LEFT).toEqual(times(8))
  await shown(stage, BESIDE).toEqual([0, 0, 0])
  await page.getByRole('button', { name: 'Compare: Difference' }).click()
  const menu = page.getByRole('dialog', { name: 'Compare plate and result' })
  await menu.getByRole('textbox', { name: 'Times' }).fill('1')
  await menu.getByRole('textbox', { name: 'Times' }).press('Enter')
  await shown(stage, LEFT).toEqual(times(1))
  await menu.getByRole('radio', { name: 'Signed' }).click()
  await shown(stage, LEFT).toEqual(plateOf(LEFT).map((value, c) => 128 + resultOf(LEFT)[c]! - value))
  await shown(stage, BESIDE).toEqual([128, 128, 128])
  if (process.env['SHOT']) await page.screenshot({ path: '/tmp/difference.png' })
})

test('the matte: how far mends cover each pixel, over the picture and alone', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${FRAME}&zoom=100&compare=matte,alone`)
  await shown(stage, LEFT).toEqual([255, 255, 255])
  await shown(stage, BESIDE).toEqual([0, 0, 0])
  await page.getByTestId('picture').focus()
  await page.keyboard.press('6')
  await shown(stage, LEFT).toEqual(resultOf(LEFT))
  await page.keyboard.press('6')
  await page.getByRole('button', { name: 'Compare: Matte' }).click()
  await page.getByRole('radio', { name: 'Over the picture' }).click()
  // A tint: neither white nor as it was; beside the stroke the picture stays.
  await shown(stage, LEFT).not.toEqual([255, 255, 255])
  await shown(stage, LEFT).not.toEqual(resultOf(LEFT))
  await shown(stage, BESIDE).toEqual(resultOf(BESIDE))
  await closed(page)
  // Plain colour was gathered from nowhere: nothing is shown of where it was seen.
  await page.keyboard.press('7')
  await expect(page.getByRole('button', { name: 'Compare: Seen' })).toBeVisible()
  await shown(stage, LEFT).toEqual(resultOf(LEFT))
})

test('a version, and a result that was kept, are compared with what is tried next', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${FRAME}&zoom=100`)
  const made = await page.request.post(`/shots/${shotId}/handover.data`, { headers: { Origin: new URL(page.url()).origin }, form: { intent: 'make', format: 'png', firstFrame: '1001', lastFrame: '1006' } }) // prettier-ignore
  expect(made.ok()).toBe(true)
  const list = async () => (await page.request.get(`/shots/${shotId}/compared`)).json() as Promise<{ readonly id: string }[]> // prettier-ignore
  await expect.poll(async () => (await list()).length).toBe(1)
  await page.getByRole('button', { name: 'Compare: nothing' }).click()
  const menu = page.getByRole('dialog', { name: 'Compare plate and result' })
  await menu.getByRole('button', { name: 'Keep this result' }).click()
  await expect(menu.getByRole('radio', { name: 'Kept' })).toBeChecked()
  await closed(page)
  // Off, so that the result is the plate: another fill would do as well.
  await stage.select('Brush 1')
  await page.keyboard.press('o')
  await shown(stage, LEFT).toEqual(plateOf(LEFT))
  await page.getByTestId('picture').focus()
  await page.keyboard.press('2')
  await expect(page.getByRole('button', { name: 'Compare: Wipe · Kept' })).toBeVisible()
  await shown(stage, LEFT).toEqual(resultOf(LEFT))
  await shown(stage, RIGHT).toEqual(plateOf(RIGHT))
  const at = await stage.placeOf(...LEFT)
  await page.mouse.move(at.x, at.y)
  await expect(page.getByTestId('read-out')).toContainText(`kept ${resultOf(LEFT).join(' ')} · result ${plateOf(LEFT).join(' ')}`) // prettier-ignore
  // The same of the version; the address leads to it again.
  await page.getByRole('button', { name: 'Compare: Wipe · Kept' }).click()
  await menu.getByRole('radio', { name: 'v001' }).click()
  await shown(stage, LEFT).toEqual(resultOf(LEFT))
  await expect.poll(() => new URL(page.url()).searchParams.get('compare')).toMatch(/^wipe,.*-.*-.*-.*-/)
  await page.reload()
  await stage.settled()
  await shown(stage, LEFT).toEqual(resultOf(LEFT))
  await shown(stage, RIGHT).toEqual(plateOf(RIGHT))
  await page.getByTestId('picture').focus()
  await page.keyboard.press('5')
  const apart = plateOf(LEFT).map((value, c) => Math.min(255, 8 * Math.abs(value - resultOf(LEFT)[c]!)))
  await shown(stage, LEFT).toEqual(apart)
  await shown(stage, BESIDE).toEqual([0, 0, 0])
  const wrong = await page.request.get(`/shots/${shotId}/compared/7d444840-9dc0-41d1-9245-5ffdce74fad2`)
  expect(wrong.status()).toBe(404)
})
