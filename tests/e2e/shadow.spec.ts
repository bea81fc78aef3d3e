/** Lifting a shadow under the hands: an outline round it on a few frames, and the ground has its light again. */
import { join } from 'node:path'
import { expect, test } from './test'
import sharp from 'sharp'
import { parseDocument } from '../../core/document/document'
import { LM_030, momentAt } from '../../demo/lm030/scene'
import { bringIn, MendStage, renderedPictures } from './bench'
import { DEMO_FOLDER, filmClip } from './demoFilm'

test.describe.configure({ mode: 'serial' })

/** Part of the frame, and of the shot: the head of the shadow sweeps through it. */
const CROP = { left: 140, top: 220, width: 520, height: 380 }
const COUNT = 24
const ON = 1010
/** Px of the crop. */
const [headX, headY] = [momentAt(ON).shadow.head.x - CROP.left, momentAt(ON).shadow.head.y - CROP.top]
/** Round the head and along the arm to where it leaves the crop, by eye. */
const OUTLINE = [
  [headX + 92, headY - 30],
  [headX + 84, headY + 62],
  [headX + 8, headY + 104],
  [headX - 84, headY + 66],
  [headX - 104, headY - 16],
  [headX - 190, headY - 150],
  [headX - 190, 4],
  [headX - 60, 4],
] as const

const sweep = (): string =>
  filmClip('LM_030-sweep.mkv', 'LM_030', {
    firstFrame: LM_030.firstFrame,
    count: COUNT,
    crop: `${CROP.width}:${CROP.height}:${CROP.left}:${CROP.top}`,
  })

const truthOf = (kind: 'truth' | 'plate', frame: number): Promise<Buffer> =>
  sharp(join(DEMO_FOLDER, 'LM_030', kind, `LM_030.${frame}.png`))
    .extract(CROP)
    .raw()
    .toBuffer()

/** Peak signal to noise inside the shadow's core, dB. */
async function psnrAt(rgb: Buffer): Promise<number> {
  const truth = await truthOf('truth', ON)
  let [squares, count] = [0, 0]
  for (let y = Math.round(headY) - 60; y < headY + 60; y++) {
    for (let x = Math.round(headX) - 60; x < headX + 60; x++) {
      for (let c = 0; c < 3; c++, count++)
        squares += (rgb[3 * (y * CROP.width + x) + c]! - truth[3 * (y * CROP.width + x) + c]!) ** 2
    }
  }
  return 10 * Math.log10((255 * 255 * count) / squares)
}

let shotId: string

test('a shot to work on', async ({ page }) => {
  shotId = await bringIn(page, sweep())
})

test('an outline round the shadow: its depth is found by frames that show the ground lit, and said', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${ON}`)
  await stage.draw('Shadow', OUTLINE)
  await stage.saved()
  const box = (await stage.handle('Middle').boundingBox())!
  const middle = await stage.pictureAt({ x: box.x + box.width / 2, y: box.y + box.height / 2 })
  for (const frame of [1013, 1005]) {
    await stage.goTo(frame)
    const { head } = momentAt(frame).shadow
    await stage.dragHandle(
      'Middle',
      middle.x + head.x - CROP.left - headX,
      middle.y + head.y - CROP.top - headY,
    )
  }
  await stage.goTo(ON)
  await stage.unfold('Fill')
  await expect(page.getByTestId('shade-found')).toContainText('which show the ground lit')
  await stage.saved()
})

test('another fill and back: the settings of each are kept', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${ON}`)
  await stage.select('Shadow 1')
  await stage.unfold('Fill')
  await stage.type('Depth', 0.9)
  await stage.chooseFill('Clean plate')
  await stage.chooseFill('Lift shadow')
  await expect(page.getByRole('textbox', { name: 'Depth', exact: true })).toHaveValue('0.90')
  await stage.type('Depth', 1)
  await stage.saved()
  const parsed = parseDocument(await (await page.request.get(`/shots/${shotId}/mends.json`)).text())
  if (!parsed.ok) throw new Error(parsed.detail)
  expect(parsed.document.mends[0]).toMatchObject({
    fill: { methodId: 'lift-shadow', params: { depth: 1 } },
    otherFills: [{ methodId: 'clean-plate' }],
  })
})

test('rendered, the ground in the shadow is as it is in the light', async ({ page }) => {
  const finished = await renderedPictures(page, shotId)
  const png = [...finished].find(([name]) => name.endsWith(`.${ON}.png`))![1]
  expect(await psnrAt(await truthOf('plate', ON))).toBeLessThan(25)
  expect(await psnrAt(await sharp(png).removeAlpha().raw().toBuffer())).toBeGreaterThan(40)
})
