/** Housekeeping as a user does it: found, renamed, moved, put away, put back, deleted for good. */
import { randomUUID } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { bringIn, MendStage } from './bench'
import { ffmpeg } from '../media'
import { filmClip } from './demoFilm'
import { expect, test, type Page } from './test'

test.describe.configure({ mode: 'serial' })

const clip = (name: string): string => filmClip(`${name}.mkv`, 'LM_010', { firstFrame: 1001, count: 2 })
const card = (page: Page, name: string) => page.getByTestId('shot-card').filter({ hasText: name })
const notice = (page: Page, words: string) => page.getByRole('listitem').filter({ hasText: words })

/** By keyboard: a menu within a menu shuts when a pointer that jumps passes the wrong place. Tried again until the page can be pressed. */
async function choose(page: Page, shot: string, ...items: readonly string[]): Promise<void> {
  const opener = card(page, shot).getByRole('button', { name: /^More of/ })
  await expect(async () => {
    await page.keyboard.press('Escape')
    await opener.press('Enter', { timeout: 5000 })
    for (const item of items)
      await page.getByRole('menuitem', { name: item, exact: true }).press('Enter', { timeout: 5000 })
  }).toPass()
}

test('shots are brought in, renamed and found', async ({ page }) => {
  await bringIn(page, clip('HOUSE_A'))
  await bringIn(page, clip('HOUSE_B'))
  await choose(page, 'HOUSE_A', 'Rename…')
  const dialog = page.getByRole('dialog', { name: 'Rename HOUSE_A' })
  await dialog.getByLabel('Name').fill('Lamp 7')
  await dialog.getByLabel('Title').fill('over the street')
  await dialog.getByRole('button', { name: 'Rename' }).click()
  await expect(card(page, 'Lamp 7')).toContainText('over the street')
  await page.getByRole('searchbox', { name: 'Find shots' }).fill('street lamp')
  await expect(page.getByTestId('shot-card')).toHaveCount(1)
  await expect(page).toHaveURL(/find=street\+lamp/)
  await page.reload()
  await expect(page.getByTestId('shot-card')).toHaveCount(1)
  await page.getByRole('button', { name: 'Show all' }).click()
  await expect(card(page, 'HOUSE_B')).toBeVisible()
  await page.getByRole('combobox', { name: 'Order' }).selectOption('Latest first')
  await expect(page.getByTestId('shot-card').first()).toContainText('HOUSE_B')
})

test('put in the bin and back at once, or from the bin; deleted for good only when told so', async ({
  page,
}) => {
  await page.goto('/')
  await choose(page, 'HOUSE_B', 'Put in the bin')
  await expect(card(page, 'HOUSE_B')).toHaveCount(0)
  await notice(page, 'HOUSE_B in the bin').getByRole('button', { name: 'Put back' }).click()
  await expect(card(page, 'HOUSE_B')).toBeVisible()
  await choose(page, 'HOUSE_B', 'Put in the bin')
  await expect(card(page, 'HOUSE_B')).toHaveCount(0)
  expect((await page.request.get('/shots/house-b/mend')).status()).toBe(404)
  await page.goto('/productions')
  await page
    .getByTestId('in-bin')
    .filter({ hasText: 'HOUSE_B' })
    .getByRole('button', { name: 'Put back' })
    .click()
  await expect(page.getByTestId('in-bin')).toHaveCount(0)
  await page.goto('/')
  await choose(page, 'HOUSE_B', 'Put in the bin')
  await expect(card(page, 'HOUSE_B')).toHaveCount(0)
  await page.goto('/productions')
  await page.getByRole('button', { name: 'Empty the bin…' }).click()
  await page.getByRole('button', { name: 'Keep it' }).click()
  await expect(page.getByTestId('in-bin')).toHaveCount(1)
  await page.getByRole('button', { name: 'Empty the bin…' }).click()
  await page.getByRole('button', { name: 'Delete for good' }).click()
  await expect(page.getByTestId('in-bin')).toHaveCount(0)
  await expect(page.getByText('1 shot deleted for good.')).toBeVisible()
})

test('productions are made, renamed, archived, put away and put back; shots move between them', async ({
  page,
}) => {
  await page.goto('/productions')
  await page.getByRole('textbox', { name: 'Name of a new production' }).fill('Second')
  await page.getByRole('button', { name: 'Make' }).click()
  const row = (name: string) => page.getByTestId('production').filter({ hasText: name })
  await expect(row('Second')).toBeVisible()
  await row('Second').getByRole('button', { name: 'Rename…' }).click()
  await page.getByRole('dialog').getByLabel('Name').fill('Evening')
  await page.getByRole('dialog').getByRole('button', { name: 'Rename' }).click()
  await expect(row('Evening')).toBeVisible()
  await page.goto('/')
  await choose(page, 'Lamp 7', 'Move to', 'Evening')
  await expect(page.getByText('1 shot moved to Evening.')).toBeVisible()
  await page.getByRole('combobox', { name: 'Production' }).selectOption('Evening')
  await expect(page.getByTestId('shot-card')).toHaveCount(1)
  await page.goto('/productions')
  if (process.env['SHOT']) await page.screenshot({ path: '/tmp/productions.png' })
  await row('Evening').getByRole('button', { name: 'Archive' }).click()
  await expect(row('Evening')).toContainText('archived')
  await page.goto('/')
  await expect(card(page, 'Lamp 7')).toHaveCount(0)
  await page.goto('/productions')
  await row('Evening').getByRole('button', { name: 'Bring back' }).click()
  await expect(row('Evening')).not.toContainText('archived')
  await row('Evening').getByRole('button', { name: 'Put in the bin' }).click()
  await expect(page.getByTestId('in-bin').filter({ hasText: 'Evening, all of it' })).toBeVisible()
  await page.getByTestId('in-bin').getByRole('button', { name: 'Put back' }).click()
  await expect(row('Evening')).toBeVisible()
  await page.goto('/')
  await expect(card(page, 'Lamp 7')).toBeVisible()
  if (process.env['SHOT']) await page.screenshot({ path: '/tmp/shots.png' })
})

test('a matte that no mend uses is put in the bin and back; the list says what it takes', async ({
  page,
  baseURL,
}) => {
  const white = await sharp({ create: { width: 1280, height: 720, channels: 3, background: 'white' } }).png().toBuffer() // prettier-ignore
  const sent = await page.request.put(`/shots/house-a/mattes/${randomUUID()}/1001?ending=.png&name=white.1001.png`, { data: white, headers: { Origin: baseURL! } }) // prettier-ignore
  expect(sent.status(), await sent.text()).toBe(200)
  await page.goto('/productions')
  // Other tests have left pictures too: the latest stands first.
  const rows = page.getByTestId('beside')
  const row = rows.first()
  await expect(row).toContainText(/Matte.*MB.*nothing now/)
  const count = await rows.count()
  await expect(async () => {
    if ((await rows.count()) === count)
      await row.getByRole('button', { name: 'Put in the bin' }).click({ timeout: 1000 })
    await expect(rows).toHaveCount(count - 1, { timeout: 2000 })
  }).toPass()
  await notice(page, 'Matte in the bin').getByRole('button', { name: 'Put back' }).click()
  await expect(rows).toHaveCount(count)
  await row.getByRole('button', { name: 'Put in the bin' }).click()
  await page.getByTestId('in-bin').filter({ hasText: 'Matte' }).getByRole('button', { name: 'Put back' }).click() // prettier-ignore
  await expect(rows).toHaveCount(count)
  if (process.env['SHOT']) await page.screenshot({ path: '/tmp/beside.png', fullPage: true })
})

test('damaged footage is named with its frame; it is left, or taken in and marked in the strip', async ({
  page,
}) => {
  const folder = mkdtempSync(join(tmpdir(), 'fillagrant-damaged-'))
  const file = join(folder, 'harmed.mkv')
  try {
    ffmpeg('-f', 'lavfi', '-i', 'testsrc2=size=320x180:rate=24', '-frames:v', '12', '-c:v', 'ffv1', '-level', '3', '-g', '1', '-slicecrc', '1', file) // prettier-ignore
    const bytes = readFileSync(file)
    bytes[Math.floor((bytes.length * 3.5) / 12)]! ^= 0x55
    writeFileSync(file, bytes)
    await page.goto('/')
    const told = page.getByRole('alert').filter({ hasText: 'harmed.mkv is damaged in 1 of its 12 frames' })
    await page.getByTestId('file-input').setInputFiles(file)
    await told.getByRole('button', { name: 'Dismiss' }).click()
    await expect(told).toHaveCount(0)
    await expect(card(page, 'harmed')).toHaveCount(0)
    await page.reload() // a field that holds the file already is not changed by it
    await page.getByTestId('file-input').setInputFiles(file)
    await told.getByRole('button', { name: 'Take it in as it is' }).click()
    await expect(card(page, 'harmed')).toContainText('1 damaged')
    await page.goto('/shots/harmed/mend')
    await expect(page.getByTestId('damaged-frames')).toContainText('1 damaged')
  } finally {
    rmSync(folder, { recursive: true })
  }
})

test('an edit that can never be stored is set aside with its content; later ones are stored', async ({
  page,
}) => {
  const stage = new MendStage(page)
  await stage.open('house-a', '?frame=1001')
  await page.route('**/edits', (route) =>
    route.fulfill({ status: 422, json: { message: 'It does not fit.' } }),
  )
  const draw = (left: number) => stage.draw('Patch', [[left, 300], [left + 60, 300], [left + 60, 360], [left, 360]]) // prettier-ignore
  await draw(300)
  await expect(page.getByText(/was not kept\. It does not fit\./)).toBeVisible()
  await page.unroute('**/edits')
  const aside = page.getByRole('alert').filter({ hasText: 'set aside in this browser' })
  await expect(aside).toBeVisible() // the page has loaded again by itself
  await expect(page.getByTestId('mend-card')).toHaveCount(0)
  if (process.env['SHOT']) await page.screenshot({ path: '/tmp/aside.png' })
  // The patch, and its source that was found after: both stand in what is kept.
  await expect(aside).toContainText(/could not be stored .* It does not fit\./)
  const download = page.waitForEvent('download')
  await aside.getByRole('button', { name: 'Keep as a file' }).click()
  const [held] = JSON.parse(readFileSync(await (await download).path(), 'utf8')) as { edits: { changes: { after: { kind: string } }[] }[] }[] // prettier-ignore
  expect(held!.edits[0]!.changes[0]!.after.kind).toBe('patch')
  await stage.settled()
  await draw(400)
  await stage.saved()
  await aside.getByRole('button', { name: 'Give up' }).click()
  await page.reload()
  await stage.settled()
  await expect(page.getByTestId('mend-card')).toHaveCount(1)
  await expect(aside).toHaveCount(0)
})
