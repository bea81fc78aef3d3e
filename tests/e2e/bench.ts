/** The Mend stage in the hands of a test: real pointer, real keys. */
import { readFileSync } from 'node:fs'
import { expect, type Locator, type Page } from '@playwright/test'
import { unzip } from '../unzip'

/** Brings footage in as a shot. @returns Its id. */
export async function bringIn(page: Page, files: Parameters<Locator['setInputFiles']>[0]): Promise<string> {
  await page.goto('/')
  const cards = page.getByTestId('shot-card')
  const before = await cards.count()
  await page.getByTestId('file-input').setInputFiles(files)
  await expect(cards).toHaveCount(before + 1)
  return (await cards.last().getByRole('link').getAttribute('href'))!.split('/')[2]!
}

/** Closes the settings that are open, and waits until they are gone: keys that come sooner are theirs. */
export async function closed(page: Page): Promise<void> {
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toHaveCount(0)
}

export class MendStage {
  readonly page: Page
  constructor(page: Page) {
    this.page = page
  }

  /** Opens a shot and waits until its frame is shown, mends and all. */
  async open(shotId: string, search = ''): Promise<void> {
    await this.page.goto(`/shots/${shotId}/mend${search}`)
    await this.settled()
  }

  /** The frame on the canvas is ready: plate and present mends. */
  async settled(): Promise<void> {
    await expect(this.page.getByTestId('picture-canvas')).toHaveAttribute('data-ready', 'true')
  }

  async saved(): Promise<void> {
    await expect(this.page.getByTestId('saved')).toHaveText('Saved')
  }

  /** Where the picture lies on the page: its corner and its scale. */
  async #view(): Promise<{ x: number; y: number; scale: number }> {
    const picture = this.page.getByTestId('picture')
    const box = (await picture.boundingBox())!
    const view = await picture.evaluate((element) => ({
      scale: Number(element.dataset['scale']),
      left: Number(element.dataset['left']),
      top: Number(element.dataset['top']),
    }))
    return { x: box.x + view.left, y: box.y + view.top, scale: view.scale }
  }

  /** Where a place of the picture lies on the page. */
  async placeOf(x: number, y: number): Promise<{ x: number; y: number }> {
    const view = await this.#view()
    return { x: view.x + x * view.scale, y: view.y + y * view.scale }
  }

  /** The place of the picture under a place on the page. */
  async pictureAt(place: { x: number; y: number }): Promise<{ x: number; y: number }> {
    const view = await this.#view()
    return { x: (place.x - view.x) / view.scale, y: (place.y - view.y) / view.scale }
  }

  async goTo(frame: number): Promise<void> {
    await this.page.getByTestId('picture').focus()
    await this.page.keyboard.press('Home')
    const first = Number(await this.page.getByTestId('frame').innerText())
    for (let at = first; at + 10 <= frame; at += 10) await this.page.keyboard.press('Shift+ArrowRight')
    for (let at = first + Math.floor((frame - first) / 10) * 10; at < frame; at++)
      await this.page.keyboard.press('ArrowRight')
    await expect(this.page.getByTestId('frame')).toHaveText(String(frame))
  }

  /** New mend of a kind, its places clicked one after the other, Enter. */
  async draw(kind: string, places: readonly (readonly [number, number])[]): Promise<void> {
    await this.page.getByTestId('picture').focus()
    await this.page.keyboard.press('n')
    await this.page.getByRole('menuitem', { name: new RegExp(`^${kind}`) }).click()
    await this.click(places)
    await this.page.keyboard.press('Enter')
  }

  /** Clicks places of the picture. */
  async click(places: readonly (readonly [number, number])[]): Promise<void> {
    for (const [x, y] of places) {
      const place = await this.placeOf(x, y)
      await this.page.mouse.move(place.x, place.y, { steps: 3 })
      await this.page.mouse.down()
      await this.page.mouse.up()
    }
  }

  /** Whether a drawn wire looks for its line: a switch of the palette. */
  async setClings(clings: boolean): Promise<void> {
    await this.page.getByTestId('picture').focus()
    await this.page.keyboard.press('n')
    const box = this.page.getByRole('menuitemcheckbox', { name: /cling as soon/ })
    if ((await box.getAttribute('aria-checked')) !== String(clings)) await box.click()
    await this.page.keyboard.press('Escape')
  }

  /** A wire from one place to another, as drawn: it does not look for its line. */
  async drawWire(from: { x: number; y: number }, to: { x: number; y: number }): Promise<void> {
    await this.setClings(false)
    await this.draw('Wire', [
      [from.x, from.y],
      [to.x, to.y],
    ])
  }

  /** Nothing is being followed any more. */
  async followed(): Promise<void> {
    await expect(this.page.getByTestId('following')).toHaveCount(0)
  }

  /** Unfolds a mend's card; one that is unfolded stays so. */
  async select(name: string): Promise<void> {
    const card = this.page.getByTestId('mend-card').getByRole('button', { name, exact: true })
    if ((await card.getAttribute('aria-expanded')) !== 'true') await card.click()
  }

  handle(name: string) {
    return this.page.getByRole('button', { name: new RegExp(`^${name} of `) })
  }

  /** Drags a handle of the selected mend with the pointer. */
  async dragHandle(name: string, x: number, y: number): Promise<void> {
    const box = (await this.handle(name).boundingBox())!
    const to = await this.placeOf(x, y)
    await this.page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
    await this.page.mouse.down()
    await this.page.mouse.move(to.x, to.y, { steps: 4 })
    await this.page.mouse.up()
  }

  /** Types a value into a field of the selected mend. */
  async type(label: string, value: number): Promise<void> {
    const field = this.page.getByRole('textbox', { name: label, exact: true })
    await field.fill(String(value))
    await field.press('Enter')
  }

  /** Another fill for the selected mend. */
  async chooseFill(title: string): Promise<void> {
    await this.page.getByRole('button', { name: /^Method:/ }).click()
    await this.page.getByRole('menuitemradio', { name: new RegExp(`^${title}`) }).click()
  }

  /** What the canvas shows of the picture at 100 %: three of four samples, as what it is compared with has no alpha. */
  async shownSamples({ width, height }: { width: number; height: number }): Promise<Buffer> {
    const { left, top } = await this.page
      .getByTestId('picture')
      .evaluate((element) => ({ left: Number(element.dataset['left']), top: Number(element.dataset['top']) }))
    const shown = await this.page.getByTestId('picture-canvas').evaluate(
      (canvas, [x, y, w, h]) => {
        const { data } = (canvas as HTMLCanvasElement).getContext('2d')!.getImageData(x!, y!, w!, h!)
        return Array.from({ length: data.length / 4 }, (_, i) =>
          String.fromCharCode(data[4 * i]!, data[4 * i + 1]!, data[4 * i + 2]!),
        ).join('')
      },
      [left, top, width, height],
    )
    return Buffer.from(shown, 'latin1')
  }

  async unfold(part: 'Area' | 'Motion' | 'Fill' | 'Finish' | 'Span'): Promise<void> {
    const button = this.page.getByRole('button', { name: new RegExp(`^${part} `) })
    if ((await button.getAttribute('aria-expanded')) !== 'true') await button.click()
  }
}

/** Makes a version of a shot as PNG pictures and downloads it. @returns Its files by their names. */
export async function renderedPictures(page: Page, shotId: string): Promise<Map<string, Buffer>> {
  await page.goto(`/shots/${shotId}/handover`)
  await page.getByRole('radio', { name: /PNG pictures/ }).check()
  await page.getByRole('button', { name: 'Make version' }).click()
  const row = page.getByTestId('version').first()
  await expect(row).toHaveAttribute('data-state', 'done')
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    row.getByRole('link', { name: 'Download' }).click(),
  ])
  return unzip(readFileSync(await download.path()))
}

/** What was worked out before stays out of this: the browser works for itself. @returns How often it has asked. */
export async function withoutResults(page: Page): Promise<() => number> {
  let asked = 0
  await page.route(/\/results\?/, (route) => {
    asked++
    return route.fulfill({ status: 409 })
  })
  return () => asked
}
