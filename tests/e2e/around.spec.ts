/** An all-round shot: looked around in, its tripod mended in a straight view downwards, and put back over the pole when it is rendered. */
import { join } from 'node:path'
import AxeBuilder from '@axe-core/playwright'
import sharp from 'sharp'
import { EYE_M, LM_090, momentAt, TRIPOD } from '../../demo/lm090/scene'
import { sizeOfView } from '../../core/sphere/straightView'
import { poseOfXmp, UPRIGHT } from '../../server/media/sphere.server'
import { MendStage, renderedPictures } from './bench'
import { DEMO_FOLDER } from './demoFilm'
import { bringInDemo } from './seed'
import { expect, test } from './test'

test.describe.configure({ mode: 'serial' })

const SIDE = sizeOfView({ angleDeg: 90 }, LM_090)
const MIDDLE = SIDE / 2
/** How far the feet of the tripod stand from the pole, px of the view. */
const FOOT_PX = (MIDDLE * Math.hypot(TRIPOD[0]!.to[0], TRIPOD[0]!.to[2])) / EYE_M
const OUTLINE_PX = FOOT_PX + 8
const ON = 1012
let [shotId, viewId] = ['', '']

test('its card leads around; the picture is pulled about and turned by names and keys', async ({ page }) => {
  await bringInDemo('LM_090')
  await page.goto('/')
  const card = page.getByTestId('shot-card').filter({ hasText: 'LM_090' })
  await card.getByRole('link', { name: 'Look around' }).click()
  await page.waitForURL('**/around')
  shotId = new URL(page.url()).pathname.split('/')[2]!
  const picture = page.getByRole('application', { name: /^Straight view/ })
  await expect(page.getByTestId('straight')).toHaveAttribute('data-current', 'true')
  const { x, y, width } = (await picture.boundingBox())!
  await page.mouse.move(x + width / 2, y + width / 2)
  await page.mouse.down()
  await page.mouse.move(x + width / 2 - width / 9, y + width / 2, { steps: 5 })
  await page.mouse.up()
  // A ninth of 90° to the left: it looks 10° further right.
  const heading = Number(await page.getByLabel('Heading', { exact: true }).inputValue())
  expect(Math.abs(heading - 10)).toBeLessThan(1.5)
  await picture.press('ArrowRight')
  expect(Number(await page.getByLabel('Heading', { exact: true }).inputValue())).toBeCloseTo(heading + 5, 1)
  await page.getByRole('button', { name: 'Down', exact: true }).click()
  await expect(page.getByTestId('straight')).toHaveAttribute('data-current', 'true')
  if (process.env['SHOT']) await page.screenshot({ path: '/tmp/around-page.png' })
  const { violations } = await new AxeBuilder({ page }).analyze()
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([])
})

test('a view downwards becomes a shot to work in', async ({ page }) => {
  await page.goto(`/shots/${shotId}/around`)
  await page.getByRole('button', { name: 'Down', exact: true }).click()
  await expect(page.getByText(`${SIDE}×${SIDE} px`)).toBeVisible()
  await page.getByRole('button', { name: 'Make this view' }).click()
  const mend = page.getByTestId('view').getByRole('link', { name: 'Mend in Down' })
  await expect(mend).toBeVisible()
  // What was done is not said to have failed, and what cannot be done is said in words.
  await expect(page.getByText('could not be asked for')).toHaveCount(0)
  const refused = await page.evaluate(async (id) => {
    const response = await fetch(`/shots/${id}/views`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: '{"intent":"turn"}' }) // prettier-ignore
    return { status: response.status, ...((await response.json()) as object) }
  }, shotId)
  expect(refused).toEqual({ status: 400, ok: false, message: expect.stringContaining('no order for an all-round shot') }) // prettier-ignore
  viewId = (await mend.getAttribute('href'))!.split('/')[2]!
  await mend.click()
  await expect(page.getByRole('link', { name: 'Around LM_090' })).toBeVisible()
})

test('the tripod is outlined once, and all under it was seen in some frame', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(viewId, `?frame=${ON}`)
  const corners = Array.from({ length: 10 }, (_, i) => (2 * Math.PI * i) / 10)
  await stage.draw('Object', corners.map((turn) => [MIDDLE + OUTLINE_PX * Math.cos(turn), MIDDLE + OUTLINE_PX * Math.sin(turn)] as const)) // prettier-ignore
  await expect(page.getByTestId('gathered')).toContainText('seen in other frames')
  await stage.settled()
  await stage.saved()
  if (process.env['SHOT']) await page.screenshot({ path: '/tmp/around-view.png' })
})

test('rendered, it is gone over the pole; outside no sample has changed', async ({ page }) => {
  const finished = await renderedPictures(page, shotId)
  expect(finished.size).toBeGreaterThanOrEqual(LM_090.frameCount)
  const png = [...finished].find(([name]) => name.endsWith(`.${ON}.png`))![1]
  expect(poseOfXmp((await sharp(png).metadata()).xmp!.toString('utf8'))).toEqual(UPRIGHT)
  const raw = (picture: Buffer | string) => sharp(picture).removeAlpha().raw().toBuffer()
  const of = (kind: string) => raw(join(DEMO_FOLDER, 'LM_090', kind, `LM_090.${ON}.png`))
  const [result, plate, truth, clean] = [await raw(png), await of('plate'), await of('truth'), await of('truth-without-grain')] // prettier-ignore
  const matte = await sharp(join(DEMO_FOLDER, 'LM_090', 'matte', `LM_090.${ON}.png`)).extractChannel(0).raw().toBuffer() // prettier-ignore
  const { width, height } = LM_090
  const sums = { before: 0, seen: 0, all: 0, grain: 0 }
  let [count, seenCount, outside] = [0, 0, 0]
  for (let pixel = 0; pixel < width * height; pixel++) {
    const pitch = Math.PI * (0.5 - (Math.floor(pixel / width) + 0.5) / height)
    const isSeen = matte[pixel]! > 0 && isSeenElsewhere(2 * Math.PI * (((pixel % width) + 0.5) / width - 0.5), pitch) // prettier-ignore
    for (let at = 3 * pixel; at < 3 * pixel + 3; at++) {
      // What lies outside the outline is looked at too: up to some 35° from the pole.
      if (pitch > (-50 * Math.PI) / 180 && result[at] !== plate[at]) outside++
      if (matte[pixel] === 0) continue
      count++
      const error = (result[at]! - clean[at]!) ** 2
      sums.before += (plate[at]! - clean[at]!) ** 2
      sums.all += error
      sums.grain += (truth[at]! - clean[at]!) ** 2
      if (!isSeen) continue
      seenCount++
      sums.seen += error
    }
  }
  const psnr = (sum: number, of = count) => 10 * Math.log10((255 * 255 * of) / sum)
  console.log(`tripod: ${psnr(sums.seen, seenCount).toFixed(1)} dB on the ${((100 * seenCount) / count).toFixed(0)} % of it that other frames show, ${psnr(sums.all).toFixed(1)} on all, against the truth without grain; ${psnr(sums.before).toFixed(1)} before; the grain alone gives ${psnr(sums.grain).toFixed(1)}`) // prettier-ignore
  if (process.env['SHOT']) await sharp(png).toFile('/tmp/around.png')
  expect(outside).toBe(0)
  expect(psnr(sums.before)).toBeLessThan(18)
  expect(seenCount).toBeGreaterThan(0.5 * count)
  expect(psnr(sums.seen, seenCount)).toBeGreaterThan(34)
})

/** Whether the ground in a direction lies outside the outline on some frame, with a margin for its widened edge. */
function isSeenElsewhere(heading: number, pitch: number): boolean {
  const away = EYE_M / -Math.tan(pitch)
  const here = momentAt(ON)
  const [x, z] = [here.right + away * Math.sin(heading), here.ahead + away * Math.cos(heading)]
  const hiddenM = (1.12 * EYE_M * OUTLINE_PX) / MIDDLE
  return Array.from({ length: LM_090.frameCount }, (_, i) => momentAt(LM_090.firstFrame + i)).some(
    ({ right, ahead }) => Math.hypot(x - right, z - ahead) > hiddenM,
  )
}
