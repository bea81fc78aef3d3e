/** The Mend stage under the hands: pointer, keys, undo, reload; and each stage for those who cannot see it. */
import AxeBuilder from '@axe-core/playwright'
import { expect, test } from './test'
import { startApplication } from './application'
import { MendStage } from './bench'
import { filmClip, momentOf, readScene } from './demoFilm'

test.describe.configure({ mode: 'serial' })

const scene = readScene()
const first = momentOf(scene, 1001).threads[0]!
/** Half of the shot: nothing here needs more, and its scene is worked out in half the time. */
const FRAMES = 24
const clip = () => filmClip('LM_010-bench.mkv', 'LM_010', { firstFrame: 1001, count: FRAMES })
let shotId: string

test('a shot to work on', async ({ page }) => {
  await page.goto('/')
  await page.getByTestId('file-input').setInputFiles(clip())
  const uploads = page.getByTestId('shot-card')
  const before = await uploads.count()
  await expect(uploads).toHaveCount(before + 1)
  shotId = (await uploads.last().getByRole('link').getAttribute('href'))!.split('/')[2]!
})

test('a wire drawn with the pointer vanishes with the settings it starts with', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId)
  const sampleThread = () =>
    page.getByTestId('picture-canvas').evaluate((canvas, place) => {
      const { data } = (canvas as HTMLCanvasElement).getContext('2d')!.getImageData(place.x, place.y, 1, 1)
      return data[0]! + data[1]! + data[2]!
    }, spot)
  const middle = first.points[20]!
  const [place, box] = [
    await stage.placeOf(middle.x, middle.y),
    (await page.getByTestId('picture').boundingBox())!,
  ]
  const spot = { x: Math.round(place.x - box.x), y: Math.round(place.y - box.y) }
  const dark = await sampleThread()
  await stage.drawWire(
    first.points.findLast((point) => point.y < -5)!,
    first.contact,
  )
  await stage.settled()
  await expect(page.getByTestId('mend-card')).toHaveCount(1)
  expect(await sampleThread()).toBeGreaterThan(dark + 60)

  // What it starts with was looked at; for all that follows the quickest will do.
  await stage.chooseFill('Across')
  await stage.settled()
  await page.keyboard.down('p')
  await expect.poll(sampleThread).toBe(dark)
  await page.keyboard.up('p')
  await stage.settled()
  await expect(stage.handle('End 1')).toBeVisible()
  await page.keyboard.press('g')
  await expect(stage.handle('End 1')).toBeHidden()
  await page.keyboard.press('g')
})

test('handles are dragged, nudged by keys, and one drag is one undo', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1020')
  await stage.select('Wire 1')
  await stage.unfold('Area')
  const x = page.getByRole('textbox', { name: 'x of End 2', exact: true })
  const start = Number(await x.inputValue())
  const target = momentOf(scene, 1020).threads[0]!.contact
  await stage.dragHandle('End 2', target.x, target.y)
  expect(Math.abs(Number(await x.inputValue()) - target.x)).toBeLessThan(1.5)
  await expect(page.getByTestId('pin')).toHaveCount(2) // the first frame was pinned when it was drawn there
  const dragged = Number(await x.inputValue())
  await stage.handle('End 2').focus()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Shift+ArrowRight')
  await page.keyboard.press('Alt+ArrowLeft')
  expect(Number(await x.inputValue())).toBeCloseTo(dragged + 10.9, 1)
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  expect(Number(await x.inputValue())).toBeCloseTo(dragged, 1)
  await page.keyboard.press('Control+z')
  expect(Number(await x.inputValue())).toBeCloseTo(start, 1)
  await page.keyboard.press('Control+Shift+z')
  expect(Number(await x.inputValue())).toBeCloseTo(dragged, 1)
  await stage.saved()
})

test('every setting shows at once, and a slider works from the keyboard', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1001')
  await stage.select('Wire 1')
  const look = () =>
    page.getByTestId('picture-canvas').evaluate((canvas) => (canvas as HTMLCanvasElement).toDataURL())
  let before = await look()
  const changes = async (act: () => Promise<unknown>) => {
    await act()
    await expect.poll(look).not.toBe(before)
    await stage.settled()
    before = await look()
  }
  await changes(() => page.getByRole('radio', { name: 'Level' }).click())
  await changes(() => stage.type('Reach', 20))
  await changes(() => stage.type('Echo', 1))
  await changes(() => stage.type('Meet', 0.1))
  await stage.unfold('Finish')
  await changes(() => stage.type('Feather out', 9))
  await changes(() => stage.type('Strength', 0.4))
  await page.getByRole('slider', { name: /^Feather out/ }).focus()
  await changes(() => page.keyboard.press('ArrowRight'))
  await stage.unfold('Area')
  await changes(() => stage.type('Width', 25))
  await page.getByRole('textbox', { name: 'Feather out', exact: true }).fill('900')
  await expect(page.getByRole('textbox', { name: 'Feather out', exact: true })).toHaveAttribute(
    'aria-invalid',
    'true',
  )
  await page.keyboard.press('Escape')
  await stage.saved()
})

test('mends are duplicated, renamed, reordered, turned off and deleted; all of it is there after a reload, undo included', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId)
  const names = () =>
    page
      .getByTestId('mend-card')
      .evaluateAll((cards) => cards.map((card) => card.querySelector('[aria-expanded]')?.textContent ?? ''))
  await stage.select('Wire 1')
  await page.getByTestId('picture').focus()
  await page.keyboard.press('d')
  await expect(page.getByTestId('mend-card')).toHaveCount(2)
  await page.keyboard.press('F2')
  await page.getByRole('textbox', { name: 'Name' }).fill('Copy')
  await page.keyboard.press('Enter')
  await expect.poll(names).toEqual(['Wire 1', 'Copy'])
  await page.getByRole('button', { name: 'More for Copy' }).click()
  await page.getByRole('menuitem', { name: 'Move up' }).click()
  await expect.poll(names).toEqual(['Copy', 'Wire 1'])
  await page.getByRole('switch', { name: 'Copy on' }).click()
  await expect(page.getByRole('switch', { name: 'Copy on' })).toHaveAttribute('aria-checked', 'false')
  await stage.saved()

  await page.reload()
  await stage.settled()
  await expect.poll(names).toEqual(['Copy', 'Wire 1'])
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('switch', { name: 'Copy on' })).toHaveAttribute('aria-checked', 'true')
  await page.keyboard.press('Control+z')
  await expect.poll(names).toEqual(['Wire 1', 'Copy'])
  await stage.select('Copy')
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Delete')
  await expect.poll(names).toEqual(['Wire 1'])
  await stage.saved()
})

test('points are added by a double click on the line and removed by key', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1001')
  await stage.select('Wire 1')
  const at = await stage.placeOf(first.points[30]!.x, first.points[30]!.y)
  await page.mouse.dblclick(at.x, at.y)
  await expect(stage.handle('Point 1')).toBeVisible()
  await stage.handle('Point 1').focus()
  await page.keyboard.press('Delete')
  await expect(stage.handle('Point 1')).toBeHidden()
  await stage.saved()
})

test('zooming keeps what is under the pointer; the link brings frame, zoom and selection back', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(shotId)
  const place = await stage.placeOf(640, 300)
  const pointer = { x: Math.round(place.x), y: Math.round(place.y) }
  const before = await stage.pictureAt(pointer)
  await page.mouse.move(pointer.x, pointer.y)
  await page.mouse.wheel(0, -1500)
  await expect(page.getByTestId('zoom')).not.toHaveText('61 %')
  const after = await stage.pictureAt(pointer)
  expect(Math.hypot(after.x - before.x, after.y - before.y)).toBeLessThan(0.2)
  await page.getByTestId('picture').focus()
  await page.keyboard.press('1')
  await expect(page.getByTestId('zoom')).toHaveText('100 %')
  await page.keyboard.press('ArrowRight')
  await expect(page).toHaveURL(/frame=1002&zoom=100/)
  await page.reload()
  await expect(page.getByTestId('frame')).toHaveText('1002')
  await expect(page.getByTestId('zoom')).toHaveText('100 %')
})

test('all frames become ready and play, at no more than the shot’s rate', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(shotId)
  await page.getByRole('button', { name: /^Looking aids/ }).click()
  await page.getByRole('checkbox', { name: /Fill frames ahead/ }).check()
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('ready')).toContainText(`${FRAMES}/${FRAMES} ready`)
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Space')
  await page.waitForTimeout(2500)
  const readout = await page.getByTestId('ready').innerText()
  await page.keyboard.press('Space')
  console.log(`playback readout: ${readout}`)
  // No frame before its time, though one that came late may be made up for; how near a machine comes to the shot's rate is a bench figure.
  const rateFps = Number(/([\d.]+) fps/.exec(readout)![1])
  expect(rateFps).toBeGreaterThan(0)
  expect(rateFps).toBeLessThan(27)
})

test('each stage passes the accessibility check', async ({ page }) => {
  const stage = new MendStage(page)
  for (const open of [
    () => page.goto('/'),
    async () => {
      await stage.open(shotId)
      await stage.select('Wire 1')
      for (const part of ['Area', 'Motion', 'Finish', 'Span'] as const) await stage.unfold(part)
    },
    () => page.goto(`/shots/${shotId}/handover`),
  ]) {
    await open()
    const { violations } = await new AxeBuilder({ page }).analyze()
    expect(
      violations.map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.html.slice(0, 120)).join(' | ')}`),
    ).toEqual([])
  }
  await page.goto(`/shots/${shotId}/mend`)
  await page.getByTestId('picture').focus()
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Keys of this stage' })).toBeVisible()
})

test('footage that cannot be used is refused in words and the page goes on', async ({ page }) => {
  await page.goto('/')
  const cards = await page.getByTestId('shot-card').count()
  const input = page.getByTestId('file-input')
  const refused = page.getByTestId('failed-card')
  for (const [files, words] of [
    [[{ name: 'empty.mov', mimeType: 'video/quicktime', buffer: Buffer.alloc(0) }], /empty\.mov is empty/],
    [
      [{ name: 'notes.mp4', mimeType: 'video/mp4', buffer: Buffer.from('Dear diary. '.repeat(300)) }],
      /notes\.mp4 holds no picture/,
    ],
    [
      ['a.0001.png', 'a.0003.png'].map((name) => ({ name, mimeType: 'image/png', buffer: Buffer.from('x') })),
      /hole: after a\.0001\.png comes a\.0003\.png/,
    ],
  ] as const) {
    await input.setInputFiles([...files])
    await expect(refused.filter({ hasText: words })).toBeVisible()
    await refused.filter({ hasText: words }).getByRole('button', { name: 'Dismiss' }).click()
    await expect(refused).toHaveCount(0)
  }
  await expect(page.getByTestId('shot-card')).toHaveCount(cards)
})

test('web server and database end while edits are made: the page says so and comes back; nothing acknowledged is lost, the rest is sent again', async ({
  page,
}, { parallelIndex }) => {
  const application = await startApplication(4491 + parallelIndex)
  try {
    await page.goto(application.url)
    const few = filmClip('LM_010-few.mkv', 'LM_010', { firstFrame: 1001, count: 6 })
    await page.getByTestId('file-input').setInputFiles(few)
    const link = page.getByTestId('shot-card').getByRole('link')
    await expect(link).toBeVisible()
    const stage = new MendStage(page)
    await page.goto(application.url + (await link.getAttribute('href')))
    await stage.settled()
    await stage.drawWire(
      first.points.findLast((point) => point.y < -5)!,
      first.contact,
    )
    await stage.saved()
    await page.getByTestId('picture').focus()
    await page.keyboard.press('d')
    await application.kill('web', 'SIGKILL')
    await page.keyboard.press('d')
    await expect(page.getByTestId('saved')).toHaveText('Not saved yet')
    const away = page.getByRole('alert').filter({ hasText: 'does not answer' })
    await expect(away).toContainText('The server does not answer. What was saved is safe.')
    await application.startWeb()
    await stage.saved()
    await expect(away).toHaveCount(0)
    await application.letDatabaseAnswer(false)
    await expect(away).toContainText('The database does not answer; it is started again by itself.')
    await page.getByTestId('picture').focus()
    await page.keyboard.press('d')
    await expect(page.getByTestId('saved')).toHaveText('Not saved yet')
    if (process.env['SHOT']) await page.screenshot({ path: '/tmp/away.png' })
    await application.letDatabaseAnswer(true)
    await stage.saved()
    await expect(away).toHaveCount(0)
    await page.reload()
    await stage.settled()
    await expect(page.getByTestId('mend-card')).toHaveCount(4)
  } finally {
    await application.stop()
  }
})
