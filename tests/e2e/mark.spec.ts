/** Taking a mark off under the hands: a box round the still mark of LM_060, one button, and what is under it is there. */
import { join } from 'node:path'
import { expect, test } from './test'
import sharp from 'sharp'
import { parseDocument } from '../../core/document/document'
import { LM_060, STILL_MARK } from '../../demo/lm060/scene'
import { bringIn, MendStage } from './bench'
import { DEMO_FOLDER, filmClip } from './demoFilm'

test.describe.configure({ mode: 'serial' })

/** Part of the frame, and of the shot: the mark and what goes by under it. */
const CROP = { left: 860, top: 560, width: 420, height: 160 }
const COUNT = 24
/** Px of the crop; drawn 4 px too large. */
const BOX = {
  left: STILL_MARK.x - CROP.left - 4,
  top: STILL_MARK.y - CROP.top - 4,
  right: STILL_MARK.x + STILL_MARK.width - CROP.left + 4,
  bottom: STILL_MARK.y + STILL_MARK.height - CROP.top + 4,
}

/** The other shot shows the mark so many px further right and down. */
const ASIDE = { x: 24, y: 20 }

const cut = (name: string, part: typeof CROP, count: number): string =>
  filmClip(name, 'LM_060', {
    firstFrame: LM_060.firstFrame,
    count,
    crop: `${part.width}:${part.height}:${part.left}:${part.top}`,
  })
const corner = (): string => cut('LM_060-corner.mkv', CROP, COUNT)

let shotId: string

test('a shot to work on', async ({ page }) => {
  shotId = await bringIn(page, corner())
})

test('a box and a button: its picture is worked out, shown, kept, and taken off in one step', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1010')
  await stage.draw('Mark', [
    [BOX.left, BOX.top],
    [BOX.right, BOX.bottom],
  ])
  await stage.saved()
  await stage.unfold('Fill')
  await expect(page.getByTestId('mark-part')).toContainText('Only for footage that you may alter')
  await page.getByRole('button', { name: 'Take it off' }).click()
  await expect(page.getByText(/Taken off: other frames showed \d+ %/)).toBeVisible()
  await stage.saved()
  await expect(page.getByRole('img', { name: 'The mark by itself' })).toBeVisible()
  const parsed = parseDocument(await (await page.request.get(`/shots/${shotId}/mends.json`)).text())
  if (!parsed.ok) throw new Error(parsed.detail)
  const { methodId, params } = parsed.document.mends[0]!.fill
  expect(methodId).toBe('unmix')
  const { mark, leftPx, topPx } = params as { mark: string; leftPx: number; topPx: number }
  const response = await page.request.get(`/marks/${mark.slice('mark:'.length)}`)
  expect(response.headers()['content-type']).toBe('image/png')
  const picture = sharp(await response.body())
  expect(await picture.metadata()).toMatchObject({ depth: 'ushort', channels: 4 })
  expect(await opacityErrorOf(await response.body(), leftPx, topPx)).toBeLessThan(0.06)
})

/** Mean difference from the exact opacity, where the mark is. */
async function opacityErrorOf(png: Buffer, left: number, top: number): Promise<number> {
  const found = await sharp(png)
    .toColourspace('rgb16')
    .raw({ depth: 'ushort' })
    .toBuffer({ resolveWithObject: true })
  const values = new Uint16Array(found.data.buffer, found.data.byteOffset, found.data.length / 2)
  const frame = join(DEMO_FOLDER, 'LM_060', 'matte', `LM_060.${LM_060.firstFrame}.png`)
  const matte = await sharp(frame).extract(CROP).extractChannel(0).raw().toBuffer()
  let [sum, count] = [0, 0]
  for (let row = BOX.top; row < BOX.bottom; row++) {
    for (let col = BOX.left; col < BOX.right; col++) {
      const truth = matte[row * CROP.width + col]! / 255
      if (truth === 0) continue
      const at = (row - top) * found.info.width + (col - left)
      sum += Math.abs(values[4 * at + 3]! / 65535 - truth)
      count++
    }
  }
  return sum / count
}

test('kept in the library it is taken off another shot, and found there where it lies', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1010')
  await stage.select('Mark 1')
  await stage.unfold('Fill')
  await page.getByRole('button', { name: 'Keep in the library…' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('House mark')
  await page.getByRole('button', { name: 'Keep it' }).click()
  await expect(page.getByText('House mark is kept with the marks.')).toBeVisible()

  await page.goto('/')
  const cards = page.getByTestId('shot-card')
  const before = await cards.count()
  const part = { ...CROP, left: CROP.left - ASIDE.x, top: CROP.top - ASIDE.y }
  await page.getByTestId('file-input').setInputFiles(cut('LM_060-aside.mkv', part, 8))
  await expect(cards).toHaveCount(before + 1)
  const other = (await cards.last().getByRole('link').getAttribute('href'))!.split('/')[2]!
  const name = (await cards.last().getByRole('link').getAttribute('aria-label'))!.replace('Mend ', '')

  await page.getByRole('link', { name: 'Cameras' }).click()
  await page.getByTestId('library-mark').filter({ hasText: 'House mark' }).getByRole('link').click()
  await expect(page.getByRole('img', { name: 'House mark by itself' })).toBeVisible()
  await page.getByRole('button', { name: 'Take it off shots…' }).click()
  await page.getByRole('checkbox', { name: new RegExp(`^${name} `) }).check()
  await page.getByRole('button', { name: 'Take it off 1 shot' }).click()
  await expect(page.getByText(/House mark is taken off 1 shot/)).toBeVisible()

  await stage.open(other)
  await stage.select('Mark 1')
  await stage.unfold('Fill')
  await page.getByRole('button', { name: 'Find it in the shot' }).click()
  await expect(page.getByText(/^Found, \d+ px from the left/)).toBeVisible()
  await stage.saved()
  const lies = async (id: string) => {
    const parsed = parseDocument(await (await page.request.get(`/shots/${id}/mends.json`)).text())
    if (!parsed.ok) throw new Error(parsed.detail)
    return parsed.document.mends[0]!.fill.params as { leftPx: number; topPx: number }
  }
  const [here, there] = [await lies(shotId), await lies(other)]
  expect(Math.abs(there.leftPx - here.leftPx - ASIDE.x)).toBeLessThan(0.5)
  expect(Math.abs(there.topPx - here.topPx - ASIDE.y)).toBeLessThan(0.5)
})

test('undone, it has its clean plate again; a picture without alpha is refused in words', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1010')
  await stage.select('Mark 1')
  await stage.unfold('Fill')
  await expect(page.getByRole('button', { name: 'Method: Unmix' })).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Method: Clean plate' })).toBeVisible()
  await page.keyboard.press('Control+Shift+z')
  await expect(page.getByRole('button', { name: 'Method: Unmix' })).toBeVisible()
  await stage.saved()
  const flat = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#123' } })
    .png()
    .toBuffer()
  // As the page itself sends it.
  const headers = { Origin: new URL(page.url()).origin }
  const refused = await page.request.put('/marks', { data: flat, headers })
  expect(refused.status()).toBe(400)
  expect(await refused.text()).toContain('it has no alpha channel')
  expect((await page.request.get('/marks/..%2F..%2Fpackage.json')).status()).toBe(404)
})

/** Where the other mark of the shot rests, sets out and rests again. */
const BAND = { left: 40, top: 40, width: 880, height: 320 }

test('a mark that travels is found by a scan; accepted it is taken off, and undo brings it back', async ({
  page,
}) => {
  const id = await bringIn(page, cut('LM_060-band.mkv', BAND, COUNT))
  const sceneState = async () => (await (await page.request.get(`/shots/${id}/scene`)).json()).state
  await expect.poll(sceneState).not.toMatch(/waiting|working/)
  await page.goto(`/shots/${id}/survey`)
  await page.getByRole('button', { name: /^Scan/ }).click()
  const find = page.getByTestId('find').filter({ hasText: 'Travelling mark' })
  await expect(find).toHaveCount(1)
  await find.click()
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Enter')
  await expect(page.getByText(/Taken off: other frames showed \d+ %/)).toBeVisible()
  await expect(page.getByTestId('saved')).toHaveText('Saved')
  const parsed = parseDocument(await (await page.request.get(`/shots/${id}/mends.json`)).text())
  if (!parsed.ok) throw new Error(parsed.detail)
  const [mend] = parsed.document.mends
  expect([mend!.kind, mend!.fill.methodId]).toEqual(['mark', 'unmix'])
  // It rests until 1006 and from 1018 on; straight between.
  const { keys } = mend!.areas[0] as { keys: readonly { frame: number; x: number; y: number }[] }
  const [first, last] = [keys[0]!, keys.at(-1)!]
  expect(Math.abs(last.x - first.x - 550.5)).toBeLessThan(1)
  expect(Math.abs(last.y - first.y - 46.25)).toBeLessThan(1)
  expect(keys.map(({ frame }) => frame)).toEqual(
    expect.arrayContaining([LM_060.firstFrame + 5, LM_060.firstFrame + 17]),
  )
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(find).toHaveAttribute('data-state', 'open')
})
