/** Large footage: proxies while it moves, all samples at rest, and no more memory than is said. */
import sharp from 'sharp'
import { bringIn, closed, MendStage } from './bench'
import { expect, test } from './test'

const SIZE = { width: 3840, height: 2160 }
const COUNT = 4
/** Black and white pixel by pixel: half as large it is grey. A grey bar tells the frames apart. */
async function checkered(frame: number): Promise<Buffer> {
  const { width, height } = SIZE
  const data = Buffer.alloc(width * height)
  for (let row = 0, i = 0; row < height; row++)
    for (let col = 0; col < width; col++, i++) data[i] = (row + col) % 2 === 0 ? 255 : 0
  for (let row = 0; row < 40; row++) data.fill(100, row * width, row * width + 40 * frame)
  return sharp(data, { raw: { width, height, channels: 1 } }).toColourspace('srgb').png({ compressionLevel: 1 }).toBuffer() // prettier-ignore
}

test('proxies while it plays, every sample at rest; what frames take is bounded and said', async ({
  page,
}) => {
  const files = []
  for (let i = 0; i < COUNT; i++)
    files.push({ name: `large.${1001 + i}.png`, mimeType: 'image/png', buffer: await checkered(i) })
  const shotId = await bringIn(page, files)
  const asked: string[] = []
  page.on('request', (request) => {
    const [, frame, as] = /frames\/(\d+)\?as=(\w+)/.exec(request.url()) ?? []
    if (frame) asked.push(`${frame} ${as}`)
  })
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1001&zoom=100')
  const pixel = () =>
    page.getByTestId('picture-canvas').evaluate((canvas) => {
      const context = (canvas as HTMLCanvasElement).getContext('2d')!
      return context.getImageData(canvas.clientWidth >> 1, canvas.clientHeight >> 1, 1, 1).data[0]!
    })
  // At rest a pixel is black or white, never the grey of a proxy.
  const isSharp = async () => [0, 255].includes(await pixel())
  await expect.poll(isSharp).toBe(true)
  expect(asked).toContain('1001 proxy')
  expect(asked).toContain('1001 rgba8')
  await page.getByRole('button', { name: /^Looking aids/ }).click()
  await page.getByRole('checkbox', { name: /Fill frames ahead/ }).check()
  await closed(page)
  await expect(page.getByTestId('ready')).toContainText(`${COUNT}/${COUNT} ready`)
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Space')
  await expect(page.getByTestId('ready')).toContainText('fps')
  // While it plays nothing is fetched whole.
  const whole = () => asked.filter((one) => one.endsWith('rgba8')).length
  const before = whole()
  await expect.poll(async () => !(await isSharp())).toBe(true)
  expect(whole()).toBe(before)
  await page.keyboard.press('Space')
  await expect.poll(isSharp).toBe(true)
  await page.getByRole('button', { name: /^Looking aids/ }).click()
  const memory = page.getByTestId('memory')
  await expect(memory).toContainText('of 400 MB')
  const megabytes = Number(/take (\d+) of/.exec((await memory.textContent())!)![1])
  // Proxies of 8 MB, and no more than three whole pictures of 32 MB.
  expect(megabytes).toBeGreaterThanOrEqual(COUNT * 7)
  expect(megabytes).toBeLessThanOrEqual(COUNT * 8 + 3 * 32 + 4)
})
