/** Skin under the hands: an outline round the lamplighter's head evens it where it has the tone of skin; its blemishes are found, and each goes with its own place. */
import { join } from 'node:path'
import sharp from 'sharp'
import { parseDocument, type MendDocument } from '../../core/document/document'
import { HEAD, LM_050, momentAt } from '../../demo/lm050/scene'
import { MendStage, renderedPictures } from './bench'
import { DEMO_FOLDER, filmClip } from './demoFilm'
import { expect, test, type Page } from './test'

test.describe.configure({ mode: 'serial' })

/** Part of the frame, and of the shot: he turns fastest here. */
const CROP = { left: 380, top: 60, width: 520, height: 640 }
const [FIRST, COUNT] = [1009, 8]
/** The frame of the short shot on which all is done, and one to judge by. */
const [WORKED, JUDGED] = [1004, 1008]

const inFilm = (frame: number): number => frame - LM_050.firstFrame + FIRST
const spotsOn = (frame: number) =>
  momentAt(inFilm(frame)).blemishes.map(({ x, y, ...rest }) => ({
    ...rest,
    x: x - CROP.left,
    y: y - CROP.top,
  }))

const readCrop = async (kind: 'plate' | 'truth' | 'matte', frame: number): Promise<Buffer> => {
  const picture = sharp(join(DEMO_FOLDER, 'LM_050', kind, `LM_050.${inFilm(frame)}.png`)).extract(CROP)
  return (kind === 'matte' ? picture.extractChannel(0) : picture).raw().toBuffer()
}

let shotId: string
const documentOf = async (page: Page): Promise<MendDocument> => {
  const parsed = parseDocument(await (await page.request.get(`/shots/${shotId}/mends.json`)).text())
  if (!parsed.ok) throw new Error(parsed.detail)
  return parsed.document
}

test('a shot to work on', async ({ page }) => {
  await page.goto('/')
  const cards = page.getByTestId('shot-card')
  const before = await cards.count()
  const crop = `${CROP.width}:${CROP.height}:${CROP.left}:${CROP.top}`
  const file = filmClip('LM_050-head.mkv', 'LM_050', { firstFrame: FIRST, count: COUNT, crop })
  await page.getByTestId('file-input').setInputFiles(file)
  await expect(cards).toHaveCount(before + 1)
  shotId = (await cards.last().getByRole('link').getAttribute('href'))!.split('/')[2]!
})

test('an outline round the head starts with what suits its size; its blemishes are found, one is left out, the others go with the skin', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${WORKED}`)
  const { head } = momentAt(inFilm(WORKED))
  const outline = Array.from({ length: 10 }, (_, i) => {
    const turn = (2 * Math.PI * i) / 10
    return [
      head.x - CROP.left + 1.04 * HEAD.across * Math.cos(turn),
      head.y - CROP.top + 0.98 * HEAD.down * Math.sin(turn),
    ] as const
  })
  await stage.draw('Skin', outline)
  await stage.saved()
  const { radiusPx, poresPx } = (await documentOf(page)).mends[0]!.fill.params as Record<string, number>
  expect(radiusPx! > 35 && radiusPx! < 55 && poresPx! >= 4).toBe(true)
  await stage.settled()

  await page.getByRole('button', { name: 'Find blemishes' }).click()
  const rings = page.getByRole('checkbox', { name: /^Spot \d/ })
  await expect(page.getByTestId('found-spots')).toContainText('Click one in the picture to leave it out')
  const count = await rings.count()
  console.log(`${count} spots found of 9`)
  expect(count).toBeGreaterThan(4)
  // Sifted: only those that are lighter than the skin, then all again.
  const sieve = page.getByTestId('found-spots')
  await sieve.getByRole('radio', { name: 'Lighter' }).click()
  await expect(sieve).toContainText(': 0 darker')
  await sieve.getByRole('radio', { name: 'Both' }).click()
  await expect(sieve).toContainText(`${count} of ${count} spots`)
  await rings.last().press(' ')
  await expect(rings.last()).not.toBeChecked()
  await page.getByRole('button', { name: `Mend ${count - 1} spots` }).click()
  await expect(page.getByTestId('spots')).toContainText('each goes with its own place on the skin')
  await stage.saved()
  const { mends, tracks } = await documentOf(page)
  expect(mends[1]).toMatchObject({ kind: 'blemish', fill: { methodId: 'heal', params: { touch: 'found' } } })
  expect(mends[1]!.areas).toHaveLength(count - 1)
  const surface = tracks.find(({ kind }) => kind === 'surface')
  expect(surface).toMatchObject({ referenceFrame: WORKED })
  expect(surface!.frames).toHaveLength(COUNT)
  // A modelled head has a face too: its eyes and lips were held out as soon as it was outlined.
  expect(tracks.filter(({ kind }) => kind === 'face')).toHaveLength(1)
  // One step back: they stay where they were drawn. And again.
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Follow the skin' })).toBeVisible()
  await page.keyboard.press('Control+Shift+z')
  await expect(page.getByTestId('spots')).toContainText('each goes with its own place on the skin')
  await stage.saved()
})

test('tones are learnt and taken away in the picture; the matte and what each size comes to are looked at', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${WORKED}`)
  await stage.select('Skin 1')
  const tones = async () =>
    ((await documentOf(page)).mends[0]!.fill.params['tones'] as { use: string; frame: number }[]).map(
      ({ use, frame }) => [use, frame],
    )
  await page.getByRole('button', { name: 'Learn on this frame' }).click()
  await expect(page.getByRole('button', { name: `Tone learnt on ${WORKED}`, exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'Take away…' }).click()
  const { head } = momentAt(inFilm(WORKED))
  await stage.click([[head.x - CROP.left, head.y - CROP.top - 0.93 * HEAD.down]])
  await expect(page.getByRole('button', { name: `Tone taken away on ${WORKED}`, exact: true })).toBeVisible()
  await stage.saved()
  expect((await tones()).sort()).toEqual([['learnt', WORKED], ['taken', WORKED]]) // prettier-ignore
  await page.getByRole('button', { name: 'Sizes' }).click()
  await expect(page.getByTestId('bands')).toHaveAccessibleName(/^Structure before and after: 1\.8 px/)
  // Tinted, the picture shows through; alone it is white on the brow, black on the wool.
  await page.getByRole('button', { name: 'Matte', exact: true }).click()
  const brow = await stage.placeOf(head.x - CROP.left, head.y - CROP.top - 0.45 * HEAD.down)
  const colourAt = ({ x, y }: { x: number; y: number }) =>
    page.getByTestId('picture-canvas').evaluate(
      (canvas: HTMLCanvasElement, at) => {
        const box = canvas.getBoundingClientRect()
        const per = canvas.width / box.width
        return [...canvas.getContext('2d')!.getImageData(Math.round(per * (at.x - box.x)), Math.round(per * (at.y - box.y)), 1, 1).data.slice(0, 3)] // prettier-ignore
      },
      { x, y },
    )
  await expect.poll(() => colourAt(brow)).toEqual([255, 255, 255])
  await page.getByRole('button', { name: 'Matte over it' }).click()
  await expect.poll(async () => { const [red, , blue] = await colourAt(brow); return blue! > red! }).toBe(true) // prettier-ignore
  await page.getByRole('button', { name: 'Matte over it' }).click()
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(page.getByText('Found on each frame')).toBeVisible()
  await stage.saved()
  expect(await tones()).toEqual([])
})

test('spots that are clicked by hand follow as soon as the tool is put down', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${WORKED}`)
  await page.getByTestId('picture').focus()
  await page.keyboard.press('n')
  await page.getByRole('menuitem', { name: /^Blemish/ }).click()
  await stage.click(spotsOn(WORKED).slice(3, 5).map(({ x, y }) => [x, y] as const)) // prettier-ignore
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('spots')).toContainText('2 spots, each goes with its own place on the skin')
  await stage.saved()
  for (let steps = 0; steps < 3; steps++) await page.keyboard.press('Control+z')
  await stage.saved()
  expect((await documentOf(page)).mends).toHaveLength(2)
})

test('rendered, the spots are gone where they have gone to; eyes, wool and the wall are untouched', async ({
  page,
}) => {
  const pictures = [...(await renderedPictures(page, shotId))]
  const png = pictures.find(([name]) => name.endsWith(`.${JUDGED}.png`))![1]
  const [result, plate, skin] = await Promise.all([
    sharp(png).removeAlpha().raw().toBuffer(),
    readCrop('plate', JUDGED),
    readCrop('matte', JUDGED),
  ])
  const spots = spotsOn(JUDGED)
  const meanOf = (data: Buffer, x: number, y: number, from: number, to: number) => {
    let [sum, count] = [0, 0]
    for (let row = Math.ceil(y - to); row < y + to; row++)
      for (let col = Math.ceil(x - to); col < x + to; col++) {
        const away = Math.hypot(col + 0.5 - x, row + 0.5 - y)
        if (away < from || away >= to) continue
        sum += data[3 * (row * CROP.width + col) + 1]!
        count++
      }
    return sum / count
  }
  const contrastOf = (data: Buffer, { x, y, radiusPx }: (typeof spots)[number]) =>
    Math.abs(meanOf(data, x, y, 0, 0.8 * radiusPx) - meanOf(data, x, y, 1.6 * radiusPx, 2.4 * radiusPx))
  const gone = spots.filter(
    (spot) => spot.facing > 0.4 && contrastOf(result, spot) < 0.35 * contrastOf(plate, spot),
  )
  expect(gone.length).toBeGreaterThan(3)
  let [changed, rest] = [0, 0]
  const isNearSkin = (at: number) =>
    [-3, 0, 3].some((down) => [-3, 0, 3].some((right) => (skin[at + down * CROP.width + right] ?? 0) > 0))
  skin.forEach((share, at) => {
    if (share > 0 || isNearSkin(at)) return
    rest++
    if (Math.abs(result[3 * at + 1]! - plate[3 * at + 1]!) > 2) changed++
  })
  console.log(
    `${gone.length} spots gone; ${((100 * changed) / rest).toFixed(2)} % of what is no skin changed by more than two steps`,
  )
  expect(changed / rest).toBeLessThan(0.005)
})
