/** The Proof stage: measured by a worker, looked at, noted, signed off, reported; one sample changed behind our back is told. */
import { createWriteStream } from 'node:fs'
import { readdir, readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import AxeBuilder from '@axe-core/playwright'
import Papa from 'papaparse'
import sharp from 'sharp'
import { ZipFile } from 'yazl'
import { LM_060 } from '../../demo/lm060/scene'
import { openDatabase } from '../../server/db/client.server'
import { proofFrames } from '../../server/db/schema'
import { unzip } from '../unzip'
import { bringIn, closed, MendStage } from './bench'
import { filmClip } from './demoFilm'
import { expect, test, type Page } from './test'

test.describe.configure({ mode: 'serial' })

const SIZE = { width: 420, height: 160 }
const COUNT = 16
const FRAME = 1006
let shotId: string

/** The stage, once it listens. */
async function openProof(page: Page, query = ''): Promise<void> {
  await page.goto(`/shots/${shotId}/proof${query}`)
  await expect(page.getByTestId('picture-canvas')).toHaveAttribute('data-frame', /\d/)
}

const verdict = (page: Page) => page.getByTestId('verdict')

test('a shot with a stroke of plain colour on one frame', async ({ page }) => {
  const clip = filmClip('LM_060-proof.mkv', 'LM_060', { firstFrame: LM_060.firstFrame, count: COUNT, crop: `${SIZE.width}:${SIZE.height}:860:560` }) // prettier-ignore
  shotId = await bringIn(page, clip)
  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${FRAME}&zoom=100`)
  await page.getByTestId('picture').focus()
  await page.keyboard.press('n')
  await page.getByRole('menuitem', { name: /^Brush/ }).click()
  const settings = page.getByRole('region', { name: 'Next stroke' })
  await settings.getByRole('radio', { name: 'Colour', exact: true }).click()
  const [from, to] = [await stage.placeOf(100, 80), await stage.placeOf(160, 80)]
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(to.x, to.y, { steps: 4 })
  await page.mouse.up()
  await stage.settled()
  await stage.saved()
})

test('every frame is measured; nothing outside has changed; what shows is listed, and leads to its place', async ({
  page,
}) => {
  await openProof(page, '?frame=1001')
  await expect(verdict(page)).toContainText('Not measured yet')
  await page.getByRole('button', { name: 'Measure', exact: true }).click()
  await expect(verdict(page)).toContainText(`0 samples changed outside every mend, on ${COUNT} frames`)
  const snags = page.getByTestId('snag-list')
  const first = snags.getByRole('button').first()
  await expect(first).toContainText(`${FRAME}`)
  await expect(snags).toContainText('differs here from what other frames show')
  await page.getByTestId('picture').focus()
  await page.keyboard.press('PageDown')
  await expect(page.getByTestId('frame')).toHaveText(`${FRAME}`)
  await expect(page.getByTestId('snag-ring')).toBeVisible()
  await expect(
    page.getByRole('img', { name: `Plate, result and difference at frame ${FRAME}` }),
  ).toBeVisible()
  // A click on a chart goes to its frame.
  const chart = page.getByTestId('chart-residue')
  const box = (await chart.getByRole('button').boundingBox())!
  await page.mouse.click(box.x + (box.width * 2.5) / COUNT, box.y + box.height / 2)
  await expect(page.getByTestId('frame')).toHaveText('1003')
  if (process.env['SHOT']) {
    await first.click()
    await page.waitForTimeout(600)
    await page.screenshot({ path: '/tmp/proof.png' })
  }
  const { violations } = await new AxeBuilder({ page }).analyze()
  expect(violations.map(({ id, nodes }) => [id, nodes.map(({ html }) => html)])).toEqual([])
})

test('what is tried is one step; the page says that mends have changed, and only frames that hang on it are measured again', async ({
  page,
  application,
}) => {
  const database = openDatabase(application.databaseUrl)
  try {
    await database.db.update(proofFrames).set({ plateSha256: 'as it was' })
    await openProof(page, `?frame=${FRAME}`)
    await expect(page.getByTestId('outdated')).toHaveCount(0)
    await page.getByTestId('snag-list').getByRole('button').first().click()
    await page.getByRole('button', { name: 'Widen by 1 px' }).click()
    await expect(page.getByRole('button', { name: /^Undo: Size/ })).toBeEnabled()
    // At once: what rests is saved first.
    await page.getByRole('button', { name: 'Measure again' }).click()
    const measured = async () => {
      const rows = await database.db.select({ frame: proofFrames.frame, sha: proofFrames.plateSha256 }).from(proofFrames) // prettier-ignore
      return rows.filter(({ sha }) => sha !== 'as it was').map(({ frame }) => frame).sort() // prettier-ignore
    }
    await expect.poll(measured).toEqual([FRAME - 4, FRAME, FRAME + 1, FRAME + 4, FRAME + 8])
    await expect(verdict(page)).toHaveAttribute('data-state', 'done')
    await expect(page.getByTestId('outdated')).toHaveCount(0)
  } finally {
    await database.pool.end()
  }
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Control+z')
  await expect(page.getByTestId('outdated')).toContainText('The mends have changed since')
  await expect(page.getByTestId('saved')).toHaveText('Saved')
})

test('a note is pinned to a range, answered, resolved; it is in the strip and on the card', async ({
  page,
}) => {
  await openProof(page, '?frame=1004')
  await page.getByTestId('picture').focus()
  await page.keyboard.press('n')
  const form = page.getByRole('form', { name: 'New note' })
  await form.getByRole('textbox', { name: 'Your name' }).fill('Ines')
  await form.getByRole('textbox', { name: 'Note on frame 1004' }).fill('The stroke shows.')
  await form.getByRole('spinbutton').fill('1007')
  await form.getByRole('button', { name: 'Pin it' }).click()
  const note = page.getByTestId('note')
  await expect(note).toContainText('1004–1007')
  await expect(note).toContainText('Ines')
  await expect(
    page.getByTestId('note-line').getByRole('button', { name: 'Note at 1004 by Ines' }),
  ).toBeVisible()
  await note.getByRole('button', { name: 'Answer' }).click()
  await note.getByRole('textbox', { name: 'Answer' }).fill('It is meant to.')
  await note.getByRole('button', { name: 'Send' }).click()
  await expect(note).toContainText('It is meant to.')
  await page.goto('/')
  await expect(page.getByText('1 note').first()).toBeVisible()
  await openProof(page)
  await page.getByRole('tab', { name: /^Notes/ }).click()
  await note.getByRole('button', { name: 'Resolve' }).click()
  await expect(note).toContainText('Resolved by Ines')
})

test('a version is measured by itself, signed off, and reported; its table has what was measured', async ({
  page,
}) => {
  await page.goto(`/shots/${shotId}/handover`)
  await page.getByRole('button', { name: 'Make version' }).click()
  await expect(page.getByTestId('version').first()).toHaveAttribute('data-state', 'done')
  await openProof(page)
  await page
    .getByRole('combobox', { name: 'What is proved' })
    .selectOption({ label: 'Version 1, PNG pictures' })
  await expect(page).toHaveURL(/version=/)
  await expect(verdict(page)).toContainText(`0 samples changed outside every mend, on ${COUNT} frames`)
  const signOff = page.getByRole('region', { name: 'Sign-off' })
  await signOff.getByRole('textbox', { name: 'Your name' }).fill('Ines')
  await signOff.getByRole('button', { name: 'Sign off' }).click()
  await expect(page.getByTestId('review-state')).toContainText('Approved by Ines')
  // It is compared with the mends as they are now: they are the same, to the bit, where the stroke lies as elsewhere.
  await page.goto(page.url().replace(/frame=\d+/, `frame=${FRAME}`))
  await page.getByTestId('picture').focus()
  await page.keyboard.press('5')
  const bright = () =>
    page.getByTestId('picture-canvas').evaluate((canvas) => {
      const { width, height } = canvas as HTMLCanvasElement
      const { data } = (canvas as HTMLCanvasElement).getContext('2d')!.getImageData(0, 0, width, height)
      return data.filter((value, i) => i % 4 === 0 && value > 100).length
    })
  await expect.poll(bright).toBeGreaterThan(50)
  await page.getByRole('button', { name: 'Compare: Difference' }).click()
  await page.getByRole('radio', { name: 'As it is now' }).click()
  await expect(page.getByRole('button', { name: 'Compare: Difference · As it is now' })).toBeVisible()
  await expect.poll(bright).toBe(0)
  const [report, table] = await Promise.all(
    ['page', 'table'].map(async (name) => {
      const href = await page.getByRole('link', { name, exact: true }).getAttribute('href')
      return (await page.request.get(href!)).text()
    }),
  )
  expect(report).toContain('Samples changed outside every mend: 0')
  expect(report).toContain('data:image/png;base64,')
  expect(report).toContain('The stroke shows.')
  const { data } = Papa.parse<Record<string, string>>(table!, { header: true, skipEmptyLines: true })
  expect(data).toHaveLength(COUNT)
  expect(data.map(({ frame }) => Number(frame))).toEqual(Array.from({ length: COUNT }, (_, i) => 1001 + i))
  expect(data.filter(({ mend }) => mend === 'Brush 1').map(({ frame }) => frame)).toEqual([`${FRAME}`])
  expect(data.every(({ changed_outside: count, plate_sha256: plate }) => count === '0' && /^[0-9a-f]{64}$/.test(plate!))).toBe(true) // prettier-ignore
  await page.goto(`/shots/${shotId}/handover`)
  await expect(page.getByTestId('version').first()).toContainText('Approved by Ines')
})

test('one sample changed by one code value in the file that is handed over is told', async ({
  page,
  application,
}) => {
  const folders = join(application.dataDir, 'versions')
  const paths = (await readdir(folders, { recursive: true })).filter((name) => name.endsWith('.zip'))
  const ours = paths.find((name) => name.includes('LM_060-proof'))!
  const files = await unzip(await readFile(join(folders, ours)))
  const [name, png] = [...files].find(([one]) => one.endsWith('.1009.png'))!
  const { data, info } = await sharp(png).raw().toBuffer({ resolveWithObject: true })
  data[3 * (40 * info.width + 30) + 1]! += data[3 * (40 * info.width + 30) + 1]! < 255 ? 1 : -1
  files.set(
    name,
    await sharp(data, { raw: { width: info.width, height: info.height, channels: 3 } })
      .png()
      .toBuffer(),
  )
  const zip = new ZipFile()
  for (const [one, bytes] of files) zip.addBuffer(bytes, one, { compress: false })
  zip.end()
  const changed = join(folders, `${ours}.changed`)
  await pipeline(zip.outputStream, createWriteStream(changed))
  await writeFile(join(folders, ours), await readFile(changed))
  await openProof(page)
  await page
    .getByRole('combobox', { name: 'What is proved' })
    .selectOption({ label: 'Version 1, PNG pictures' })
  await expect(verdict(page)).toContainText('Report')
  await page.getByRole('button', { name: 'Measure again' }).click()
  await expect(verdict(page)).toContainText('1 sample has changed outside every mend, first on frame 1009')
  await expect(verdict(page)).toContainText('The file is not what was rendered on frame 1009')
})

test('a range is played round and round, and to its end; the clock is kept by leaving frames out; the picture stands alone', async ({
  page,
}) => {
  await openProof(page, '?frame=1003')
  await page.getByTestId('picture').focus()
  await page.keyboard.press('q')
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight')
  await page.keyboard.press('w')
  await expect(page.getByTestId('not-played')).toHaveCount(2)
  const seen = new Set<number>()
  await page.keyboard.press('Space')
  await expect
    .poll(async () => {
      for (let i = 0; i < 12; i++) seen.add(Number(await page.getByTestId('frame').textContent()))
      return [...seen].sort()
    })
    .toEqual([1003, 1004, 1005, 1006])
  // The readout is honest: it says what animation frames have really shown during the last second.
  const look = () =>
    page.evaluate(async () => {
      const [frame, readout] = ['frame', 'ready'].map((id) =>
        document.querySelector(`[data-testid="${id}"]`)!,
      )
      const changes: number[] = []
      let last = frame!.textContent
      const end = performance.now() + 3000
      while (performance.now() < end || frame!.textContent === last) {
        if (frame!.textContent !== last) changes.push(performance.now())
        last = frame!.textContent
        await new Promise(requestAnimationFrame)
      }
      const now = performance.now()
      const lately = [...changes, now].filter((at) => now - at <= 1000)
      return {
        said: Number(/([\d.]+) fps/.exec(readout!.textContent)![1]),
        counted: ((lately.length - 1) * 1000) / (now - lately[0]!),
        overall: ((changes.length - 1) * 1000) / (changes.at(-1)! - changes[0]!),
      }
    })
  await expect
    .poll(async () => {
      const { said, counted, overall } = await look()
      console.log(`played: readout ${said.toFixed(1)} fps, counted ${counted.toFixed(1)} fps`)
      // A frame that came late may be made up for: over some seconds that is no faster.
      expect(overall).toBeLessThanOrEqual(24.7)
      return Math.abs(said - counted)
    })
    .toBeLessThanOrEqual(0.5)
  await page.getByRole('button', { name: 'Playback: frames 1003 to 1006' }).click()
  await page.getByRole('radio', { name: 'Stop', exact: true }).click()
  await closed(page)
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible()
  await expect(page.getByTestId('frame')).toHaveText('1006')
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Shift+q')
  await expect(page.getByTestId('not-played')).toHaveCount(0)
  // Jogged by the wheel with Shift.
  const box = (await page.getByTestId('picture').boundingBox())!
  await page.mouse.move(box.x + 40, box.y + 40)
  await page.keyboard.down('Shift')
  await page.mouse.wheel(0, 100)
  await page.keyboard.up('Shift')
  await expect(page.getByTestId('frame')).toHaveText('1007')
  await page.keyboard.press('f')
  await expect
    .poll(async () => (await page.getByTestId('picture').boundingBox())!.height)
    .toBe(page.viewportSize()!.height)
  await page.keyboard.press('f')
  await expect.poll(async () => (await page.getByTestId('picture').boundingBox())!.height).toBeLessThan(600)
  await page.getByRole('button', { name: /^Looking aids/ }).click()
  await page.getByRole('radio', { name: 'White', exact: true }).click()
  await page.getByRole('radio', { name: 'Stops', exact: true }).click()
  await closed(page)
  const corner = await page.getByTestId('picture-canvas').evaluate((canvas) => [...(canvas as HTMLCanvasElement).getContext('2d')!.getImageData(2, 2, 1, 1).data.slice(0, 3)]) // prettier-ignore
  expect(corner).toEqual([255, 255, 255])
})
