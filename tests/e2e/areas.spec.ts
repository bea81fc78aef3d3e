/** Areas, tracks, pins and history of the Mend stage under the hands, on a shot of their own. */
import { readFileSync } from 'node:fs'
import { expect, test, type Page } from './test'
import sharp from 'sharp'
import { parseDocument } from '../../core/document/document'
import { trackMotionAt } from '../../core/document/tracks'
import { apply } from '../../core/geometry/transform'
import { mothPoint } from '../../demo/lm010/scene'
import { MendStage } from './bench'
import { momentOf, plateVideo, readScene } from './demoFilm'

test.describe.configure({ mode: 'serial' })

const scene = readScene()
/** The eye spot of the left wing, where it is painted on the moth: how it moves in the frame is known exactly. */
const EYE_SPOT = { x: 112, y: 138 }
/** Across the sky, where nothing hangs. */
const NO_LINE = [
  [40, 200],
  [120, 330],
] as const
let shotId: string

async function documentOf(page: Page) {
  const parsed = parseDocument(await (await page.request.get(`/shots/${shotId}/mends.json`)).text())
  if (!parsed.ok) throw new Error(parsed.detail)
  return parsed.document
}

test('a shot to work on', async ({ page }) => {
  await page.goto('/')
  await page.getByTestId('file-input').setInputFiles(plateVideo())
  const cards = page.getByTestId('shot-card')
  const before = await cards.count()
  await expect(cards).toHaveCount(before + 1)
  shotId = (await cards.last().getByRole('link').getAttribute('href'))!.split('/')[2]!
})

test('motes are clicked one after the other into one mend; a box and an outline are drawn', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1010')
  await stage.draw('Dust', [
    [200, 60],
    [300, 90],
    [420, 60],
  ])
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('mend-card')).toHaveCount(1)
  // What fills them is not what is looked at here: the quickest will do.
  await stage.chooseFill('Membrane')
  await stage.draw('Mark', [
    [900, 60],
    [1000, 110],
  ])
  await stage.draw('Object', [
    [80, 120],
    [160, 110],
    [170, 170],
    [90, 180],
  ])
  await expect(page.getByTestId('mend-card')).toHaveCount(3)
  // Nothing here is about what fills it: the quickest will do.
  await page.getByRole('button', { name: /^Method:/ }).click()
  await page.getByRole('menuitemradio', { name: /^Membrane/ }).click()
  await stage.saved()
  const { mends } = await documentOf(page)
  expect(mends.map((mend) => [mend.name, mend.areas.map((area) => area.shape)])).toEqual([
    ['Dust 1', ['ellipse', 'ellipse', 'ellipse']],
    ['Mark 1', ['box']],
    ['Object 1', ['outline']],
  ])
  await stage.settled()
})

test('shapes are changed by handles and by numbers; a corner is a key away; the area goes out as SVG', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1010')
  await stage.select('Mark 1')
  await stage.unfold('Area')
  await stage.dragHandle('Middle', 930, 100)
  await stage.type('Turn', 20)
  await stage.type('Corners', 6)
  await stage.handle('Side').focus()
  await page.keyboard.press('Shift+ArrowRight')
  await stage.saved()
  const box = (await documentOf(page)).mends[1]!.areas[0]!
  if (box.shape !== 'box') throw new Error('a box stays a box')
  expect(box.keys.at(-1)).toMatchObject({ frame: 1010, turnDeg: 20, cornerPx: 6 })
  expect(Math.abs(box.keys.at(-1)!.x - 930)).toBeLessThan(2)
  await stage.select('Object 1')
  await stage.unfold('Area')
  await stage.handle('Point 2').focus()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: /^Point 2 of Object 1.*corner/ })).toBeVisible()
  await page.getByRole('button', { name: 'This area…' }).click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'Export as SVG' }).click(),
  ])
  expect(readFileSync(await download.path(), 'utf8')).toMatch(/<path d="M.*Z"\/>/)
  await stage.saved()
})

test('a holdout is drawn, an area is copied to another mend, and a matte sequence is brought in', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1010')
  await stage.select('Object 1')
  await stage.unfold('Area')
  await page.getByRole('button', { name: 'Add an area…' }).click()
  await page.getByRole('group').nth(1).getByRole('menuitem', { name: 'Ellipse' }).click()
  await stage.click([[120, 150]])
  await expect(page.getByRole('list', { name: 'Areas of the mend' })).toContainText('held out')
  await page.getByRole('button', { name: 'This area…' }).click()
  await page.getByRole('menuitem', { name: 'Copy the area' }).click()
  await stage.select('Mark 1')
  await stage.unfold('Area')
  await page.getByRole('button', { name: 'This area…' }).click()
  await page.getByRole('menuitem', { name: 'Paste an area' }).click()
  const picture = Buffer.alloc(scene.width * scene.height)
  picture.fill(255, 40 * scene.width + 600, 40 * scene.width + 640)
  const png = await sharp(picture, { raw: { width: scene.width, height: scene.height, channels: 1 } }).png().toBuffer() // prettier-ignore
  await page
    .getByLabel('Matte pictures')
    .setInputFiles([{ name: 'matte.1010.png', mimeType: 'image/png', buffer: png }])
  await expect(page.getByRole('list', { name: 'Areas of the mend' })).toContainText('Matte sequence')
  await stage.saved()
  expect((await documentOf(page)).mends[1]!.areas.map((area) => [area.shape, area.role])).toEqual([
    ['box', 'cover'],
    ['ellipse', 'holdout'],
    ['matte', 'cover'],
  ])
  await stage.settled()
})

test('a point is tracked both ways and the area follows it; the view holds it still', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1024')
  await stage.select('Dust 1')
  await page.getByRole('button', { name: 'Follow…' }).click()
  await page.getByRole('menuitem', { name: /^A point/ }).click()
  const at = (frame: number) => mothPoint(momentOf(scene, frame).moth, EYE_SPOT)
  await stage.click([[at(1024).x, at(1024).y]])
  await expect(page.getByTestId('following').first()).toBeVisible()
  await stage.followed()
  await stage.saved()
  await expect(page.getByTestId('sure')).toContainText('% sure')
  const { tracks, mends } = await documentOf(page)
  expect(tracks[0]).toMatchObject({ name: 'Point 1', kind: 'point', referenceFrame: 1024 })
  expect(tracks[0]!.frames.length).toBe(48)
  expect(mends[0]!.areas[0]!.follow).toMatchObject({ trackId: tracks[0]!.id, uses: { rotation: false } })
  const start = at(1024)
  const errors = tracks[0]!.frames.map(([frame]) => {
    const m = trackMotionAt(tracks[0]!, frame)!
    return Math.hypot(m[2] - (at(frame).x - start.x), m[5] - (at(frame).y - start.y))
  })
  console.log(
    `point on the wing: mean ${(errors.reduce((a, b) => a + b) / errors.length).toFixed(3)} px, worst ${Math.max(...errors).toFixed(3)} px`,
  )
  expect(errors.reduce((a, b) => a + b) / errors.length).toBeLessThan(0.08)
  expect(Math.max(...errors)).toBeLessThan(0.25)

  const before = await stage.placeOf(start.x, start.y)
  await page.getByRole('button', { name: 'Hold still' }).click()
  await stage.goTo(1040)
  const after = await stage.placeOf(at(1040).x, at(1040).y)
  expect(Math.hypot(after.x - before.x, after.y - before.y)).toBeLessThan(1)
  await page.keyboard.press('k')
  await page.getByRole('button', { name: 'Settings…' }).click()
  await page.getByRole('checkbox', { name: 'Show the picture as the tracker sees it' }).check()
  await page.getByRole('button', { name: 'Close' }).click()
})

test('following on one frame takes the playhead there', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1024')
  await stage.select('Dust 1')
  await page.getByRole('button', { name: 'Follow on one frame' }).click()
  await stage.followed()
  await expect(page.getByTestId('frame')).toHaveText('1025')
  await stage.saved()
})

test('tracks go out and come in as files', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId)
  await page.getByRole('button', { name: 'Tracks', exact: true }).click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'Export as CSV' }).click(),
  ])
  const csv = readFileSync(await download.path(), 'utf8')
  expect(csv.split('\r\n')).toHaveLength(50)
  await page
    .getByLabel('Tracks file')
    .setInputFiles([{ name: 'tracks.csv', mimeType: 'text/csv', buffer: Buffer.from(csv) }])
  await stage.saved()
  await expect.poll(async () => (await documentOf(page)).tracks.length).toBe(2)
})

test('pins are selected in a box, moved, copied and deleted from the keyboard', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1001')
  await stage.select('Mark 1')
  const pins = page.getByTestId('pin')
  const frames = async () =>
    (
      await pins.evaluateAll((all) =>
        all.map((pin) => Number(/\d+/.exec(pin.getAttribute('aria-label')!)![0])),
      )
    ).join(' ')
  await expect.poll(frames).toBe('1010')
  await pins.nth(0).focus()
  await page.keyboard.press('Alt+ArrowRight')
  await expect.poll(frames).toBe('1011')
  await pins.nth(0).focus()
  await page.keyboard.press('Control+c')
  await page.getByTestId('picture').focus()
  await stage.goTo(1020)
  await pins.nth(0).focus()
  await page.keyboard.press('Control+v')
  await expect.poll(frames).toBe('1011 1020')
  await stage.goTo(1001)
  await pins.nth(0).focus()
  await page.keyboard.press('Control+v')
  await expect.poll(frames).toBe('1001 1011 1020')
  const row = (await page.getByTestId('pins').boundingBox())!
  await page.mouse.move(row.x + row.width * 0.12, row.y + 18)
  await page.mouse.down()
  await page.mouse.move(row.x + row.width * 0.6, row.y + 18, { steps: 4 })
  await page.mouse.up()
  await expect(page.locator('[data-testid=pin][aria-pressed=true]')).toHaveCount(2)
  await pins.nth(2).focus()
  await page.keyboard.press('Delete')
  await expect.poll(frames).toBe('1001')
  await page.keyboard.press('Control+z')
  await expect.poll(frames).toBe('1001 1011 1020')
  await stage.saved()
})

test('the history is told in words and goes back to a step; several mends go together', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId)
  await page.getByTestId('mend-card').getByRole('button', { name: 'Dust 1', exact: true }).click()
  await page
    .getByTestId('mend-card')
    .getByRole('button', { name: 'Mark 1', exact: true })
    .click({ modifiers: ['Shift'] })
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Delete')
  await expect(page.getByTestId('mend-card')).toHaveCount(1)
  await page.getByRole('button', { name: 'History' }).click()
  const list = page.getByRole('dialog', { name: 'History' })
  await expect(list.getByRole('listitem').first()).toHaveText('Delete several mends')
  await list.getByRole('button', { name: 'New Object 1' }).click()
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('mend-card')).toHaveCount(3)
  await page.getByRole('button', { name: 'History' }).click()
  await page
    .getByRole('dialog', { name: 'History' })
    .getByRole('button', { name: 'Delete several mends' })
    .click()
  await expect(page.getByTestId('mend-card')).toHaveCount(1)
  await stage.saved()
})

test('a key too far out is a snag, and one key goes to it', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1001')
  await stage.select('Object 1')
  await stage.unfold('Motion')
  await page.getByRole('radio', { name: 'Linear' }).click()
  await stage.unfold('Area')
  await stage.goTo(1020)
  await stage.type('x of Point 1', 82)
  await stage.goTo(1021)
  await stage.type('x of Point 1', 382)
  await expect(page.getByTestId('snags')).toBeVisible()
  await stage.goTo(1005)
  await page.keyboard.press('PageDown')
  await expect(page.getByTestId('frame')).toHaveText('1021')
  await stage.saved()
})

test('an object that was outlined once says so, and is carried along', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1024')
  const { x, y } = mothPoint(momentOf(scene, 1024).moth, EYE_SPOT)
  await stage.draw('Object', [
    [x - 24, y - 24],
    [x + 24, y - 24],
    [x + 24, y + 24],
    [x - 24, y + 24],
  ])
  await expect(page.getByText('Outlined on 1024 only')).toBeVisible()
  await stage.chooseFill('Membrane')
  await page.getByRole('button', { name: 'Carry it along' }).click()
  await expect(page.getByTestId('following').first()).toBeVisible()
  await stage.followed()
  await stage.saved()
  const { mends, tracks } = await documentOf(page)
  const { follow } = mends.at(-1)!.areas[0]!
  const track = tracks.find(({ id }) => id === follow?.trackId)!
  expect(track).toMatchObject({ kind: 'spread', referenceFrame: 1024 })
  expect(track.frames.length).toBeGreaterThan(40)
  for (const frame of [1012, 1030, 1036]) {
    const there = mothPoint(momentOf(scene, frame).moth, EYE_SPOT)
    const at = apply(trackMotionAt(track, frame)!, x, y)
    expect(Math.hypot(at.x - there.x, at.y - there.y)).toBeLessThan(2)
  }
  await page.keyboard.press('Delete')
  await stage.saved()
})

test('a wire that is drawn where there is no line stays as it is, and that is said', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1024')
  await stage.setClings(true)
  await stage.draw('Wire', NO_LINE)
  await expect(page.getByText('No line was found here: it stays as it was drawn.')).toBeVisible()
  await stage.followed()
  await stage.saved()
  const { mends } = await documentOf(page)
  expect(mends.at(-1)!.areas[0]).toMatchObject({ shape: 'path', follow: null })
  await page.keyboard.press('Delete')
  await stage.saved()
})

test('a thing that hides the same background on all frames cannot be told from it, and that is said', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1024')
  const { x, y } = momentOf(scene, 1024).moth
  await stage.draw('Object', [
    [x - 120, y - 90],
    [x + 120, y - 90],
    [x + 120, y + 90],
    [x - 120, y + 90],
  ])
  await stage.chooseFill('Membrane')
  await page.getByRole('button', { name: 'Follow the thing' }).click()
  await expect(page.getByText('cannot be told from it. Nothing was changed')).toBeVisible()
  await page.keyboard.press('Delete')
  await stage.saved()
})
