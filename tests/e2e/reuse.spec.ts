/** Mended once, used everywhere: cameras and their sensor maps, recipes, mends copied to other shots. */
import { readFileSync } from 'node:fs'
import AxeBuilder from '@axe-core/playwright'
import { expect, test, type Page } from './test'
import sharp from 'sharp'
import { mapToCsv, readSensorMap, sensorMapSchema } from '../../core/survey/sensorMap'
import { MendStage } from './bench'
import { DEMO_FOLDER } from './demoFilm'
import { bringInDemo } from './seed'

test.describe.configure({ mode: 'serial' })

/** Short shots of their own, the second half as large as the first. */
const SHOTS = { first: 'reuse-a', second: 'reuse-b' } as const
const FRAMES = [1001, 1002, 1003, 1004]

async function bringIn(page: Page, name: string, width: number): Promise<void> {
  const files = FRAMES.map(async (frame) => ({
    name: `${name}.${frame}.png`,
    mimeType: 'image/png',
    buffer: await sharp(`${DEMO_FOLDER}/LM_020/plate/LM_020.${frame}.png`)
      .resize(width)
      .png({ compressionLevel: 1 })
      .toBuffer(),
  }))
  await page.getByTestId('file-input').setInputFiles(await Promise.all(files))
  await expect(page.getByTestId('shot-card').filter({ hasText: name })).toBeVisible()
}

test.beforeAll(() => bringInDemo())

const places = (page: Page) => page.getByTestId('place')
const savedFile = async (page: Page, button: string): Promise<string> => {
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: button }).click(),
  ])
  return readFileSync(await download.path(), 'utf8')
}

test('the demo’s camera has the map of its lens-cap clip; it is edited, exported, brought in again and merged', async ({
  page,
}) => {
  await page.goto('/')
  await bringIn(page, SHOTS.first, 1280)
  await bringIn(page, SHOTS.second, 640)
  await page.getByRole('link', { name: 'Cameras' }).click()
  // Of eleven faults three are dead: nothing tells them in the dark.
  await expect(places(page)).toHaveCount(8)
  const whole = sensorMapSchema.parse(JSON.parse(await savedFile(page, 'Export JSON')))
  expect(whole).toMatchObject({ camera: 'Lamplighter A', sensor: { width: 1280, height: 720 } })
  const table = readSensorMap(await savedFile(page, 'Export CSV'))
  expect(table).toEqual({ ok: true, map: whole })

  await places(page)
    .first()
    .getByRole('button', { name: /^Take .* off the map$/ })
    .click()
  await expect(places(page)).toHaveCount(7)
  const x = places(page).first().getByLabel(/^x of/)
  await x.fill('333.5')
  await x.press('Enter')
  await page.getByRole('button', { name: 'Add a mote' }).click()
  await expect(places(page)).toHaveCount(8)
  await places(page)
    .last()
    .getByRole('button', { name: /^Take Mote at 640, 360 off the map$/ })
    .click()
  await page.getByRole('button', { name: 'Save changes' }).click()
  await expect(page.getByText('The map is saved.')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Save changes' })).toBeDisabled()
  await page.reload()
  await expect(places(page)).toHaveCount(7)
  await expect(places(page).first().getByLabel(/^x of/)).toHaveValue('333.5')

  // Another name is no change of the map.
  await page.getByRole('button', { name: 'Rename Lamplighter A' }).click()
  await page.getByLabel('Name of Lamplighter A').fill('Lamplighter B')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'Lamplighter B' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Save changes' })).toBeDisabled()
  await page.getByRole('button', { name: 'Rename Lamplighter B' }).click()
  await page.getByLabel('Name of Lamplighter B').fill('Nothing of the kind')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('heading', { name: 'Lamplighter B' })).toBeVisible()
  await page.getByRole('button', { name: 'Rename Lamplighter B' }).click()
  await page.getByLabel('Name of Lamplighter B').fill('Lamplighter A')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'Lamplighter A' })).toBeVisible()

  await page
    .getByLabel('Production of maps that are brought in')
    .selectOption({ label: 'The Lamplighter’s Moth' })
  const later = {
    ...whole,
    madeOn: '2026-11-20',
    motes: [{ x: 400, y: 300, radiusXPx: 15, radiusYPx: 12, turnDeg: 0, depthStops: -0.3 }],
  }
  await page
    .getByLabel('Sensor map file')
    .setInputFiles({ name: 'later.csv', mimeType: 'text/csv', buffer: Buffer.from(mapToCsv(later)) })
  await expect(page.getByText('Kept with Lamplighter A: 8 bad pixels, 1 mote.')).toBeVisible()
  await expect(places(page)).toHaveCount(9)
  await page.getByLabel('Merge with').selectOption({ index: 1 })
  await expect(page.getByText(/^Merged: 9 bad pixels, 1 mote/)).toBeVisible()
  await expect(places(page)).toHaveCount(10)
  await expect(page.getByTestId('camera').getByRole('link')).toHaveCount(3)
})

test('a file that is no map says so, and nothing changes', async ({ page }) => {
  await page.goto('/cameras')
  await expect(page.getByTestId('camera').getByRole('link')).toHaveCount(3)
  await page
    .getByLabel('Sensor map file')
    .setInputFiles({ name: 'notes.csv', mimeType: 'text/csv', buffer: Buffer.from('x,y\n1,2\n') })
  await expect(page.getByText(/^notes.csv was not read. The table lacks the columns/)).toBeVisible()
  await expect(page.getByTestId('camera').getByRole('link')).toHaveCount(3)
})

test('a map is applied to many shots at once; in each it is one step that undo takes back; a map is deleted', async ({
  page,
}) => {
  await page.goto('/cameras')
  await page.getByTestId('camera').getByRole('link').first().click()
  await page.getByRole('button', { name: 'Apply to shots…' }).click()
  for (const name of Object.values(SHOTS))
    await page.getByRole('checkbox', { name: new RegExp(`^${name}`) }).check()
  await page.getByRole('button', { name: 'Apply to 2 shots' }).click()
  await expect(page.getByText(/places of Lamplighter A are mended in 2 shots/)).toBeVisible()
  const stage = new MendStage(page)
  for (const shot of Object.values(SHOTS)) {
    await page.goto(`/shots/${shot}/mend`)
    await expect(page.getByTestId('mend-card')).toHaveCount(2)
    await expect(page.getByTestId('mend-card').first()).toContainText('Pixel 1')
    await page.getByTestId('picture').focus()
    await page.keyboard.press('Control+z')
    await expect(page.getByTestId('mend-card')).toHaveCount(0)
    await stage.saved()
  }
  await page.goto('/cameras')
  await page.getByTestId('camera').getByRole('link').first().click()
  // From then on they are shots of the camera.
  await page.getByRole('button', { name: 'Apply to shots…' }).click()
  await expect(page.getByRole('checkbox', { name: new RegExp(`^${SHOTS.second}`) })).toBeChecked()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Delete…' }).click()
  await page.getByRole('button', { name: 'Delete for good' }).click()
  await expect(page.getByTestId('camera').getByRole('link')).toHaveCount(2)
})

test('a mend’s settings are kept as a recipe, which a new mend starts with and a present one takes over', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open(SHOTS.first)
  await stage.setClings(false)
  await stage.draw('Wire', [[200, 100], [260, 180]]) // prettier-ignore
  await stage.chooseFill('Across')
  await stage.saved()
  const card = page.getByTestId('mend-card')
  const menu = async (index: number) => {
    await card.nth(index).getByRole('button', { name: /^More for/ }).click() // prettier-ignore
    await page.getByRole('menuitem', { name: 'Recipe' }).click()
  }
  await menu(0)
  await page.getByRole('menuitem', { name: 'Keep its settings' }).click()
  await page.getByLabel('Name', { exact: true }).fill('Thread on plaster')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(page.getByText('Thread on plaster is kept as a recipe.')).toBeVisible()

  // A new one by the recipe, and one that is given it.
  await page.getByTestId('picture').focus()
  await page.keyboard.press('n')
  await page.getByRole('menuitem', { name: 'By a recipe' }).click()
  await page.getByRole('menuitem', { name: /^Thread on plaster/ }).click()
  await stage.click([[300, 100], [360, 180]]) // prettier-ignore
  await page.keyboard.press('Enter')
  await expect(card).toHaveCount(2)
  await stage.draw('Wire', [[400, 100], [460, 180]]) // prettier-ignore
  await expect(card).toHaveCount(3)
  await menu(2)
  await page.getByRole('menuitem', { name: /^Thread on plaster/ }).click()
  await stage.saved()
  const { mends } = (await (await page.request.get(`/shots/${SHOTS.first}/mends.json`)).json()) as {
    mends: { fill: { methodId: string } }[]
  }
  expect(mends.map(({ fill }) => fill.methodId)).toEqual(['across', 'across', 'across'])
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Control+z')
  await expect(card.nth(2)).toContainText('Clean plate')
})

test('mends are copied to another shot, and recipes deleted', async ({ page }) => {
  const stage = new MendStage(page)
  await stage.open(SHOTS.first)
  const card = page.getByTestId('mend-card')
  await card.first().getByRole('button', { name: /^More for/ }).click() // prettier-ignore
  await page.getByRole('menuitem', { name: 'Copy to other shots…' }).click()
  await page.getByRole('checkbox', { name: new RegExp(`^${SHOTS.second}`) }).check()
  await page.getByRole('button', { name: 'Copy to 1 shot' }).click()
  await expect(page.getByText(/^1 mend copied to 1 shot/)).toBeVisible()
  await card.first().getByRole('button', { name: /^More for/ }).click() // prettier-ignore
  await page.getByRole('menuitem', { name: 'Recipe' }).click()
  await page.getByRole('menuitem', { name: /^Rename or delete/ }).click()
  await page.getByRole('button', { name: 'Delete Thread on plaster' }).click()
  await expect(page.getByRole('dialog')).toContainText('There is none.')
  await stage.open(SHOTS.second)
  await expect(card).toHaveCount(1)
  await expect(card).toContainText('Wire 1')
})

test('axe finds nothing wrong with the cameras', async ({ page }) => {
  await page.goto('/cameras')
  await expect(places(page).first()).toBeVisible()
  const { violations } = await new AxeBuilder({ page }).analyze()
  expect(violations.map(({ id, nodes }) => [id, nodes.map(({ target }) => target)])).toEqual([])
})
