import { FramePlates } from './framePlates'

const LARGE = { width: 3840, height: 2160 }
const SMALL = { width: 1280, height: 720 }

interface Picture {
  readonly width: number
  isClosed: boolean
  close(): void
}

let asked: string[] = []
beforeEach(() => {
  asked = []
  jest.useFakeTimers()
  const globals = globalThis as unknown as Record<string, unknown>
  globals['ImageData'] = class {
    constructor(
      readonly data: unknown,
      readonly width: number,
    ) {}
  }
  globals['createImageBitmap'] = async ({ width }: { width: number }): Promise<Picture> => ({
    width,
    isClosed: false,
    close(this: Picture) {
      this.isClosed = true
    },
  })
  globals['fetch'] = async (url: string) => {
    asked.push(url.slice('/plate/frames/'.length))
    return { ok: !url.includes('1040'), status: 500, arrayBuffer: async () => new ArrayBuffer(4) }
  }
})
afterEach(() => jest.useRealTimers())

const settle = async () => {
  for (let i = 0; i < 12; i++) await Promise.resolve()
}

function platesOf(size: typeof LARGE) {
  const problems: string[] = []
  const ignore = () => undefined
  const plates = new FramePlates('/plate', size, { onChange: ignore, onSettled: ignore, onProblem: (words) => problems.push(words) }) // prettier-ignore
  return { plates, problems }
}

test('the usual sizes are fetched whole, once, and resting on them fetches nothing more', async () => {
  const { plates } = platesOf(SMALL)
  plates.fetch(1001)
  plates.fetch(1001)
  plates.rest(1001)
  await settle()
  jest.advanceTimersByTime(1000)
  await settle()
  expect(asked).toEqual(['1001?as=rgba8'])
  expect(plates.at(1001)?.width).toBe(1280)
  expect(plates.bytes).toBe(4 * 1280 * 720)
})

test('of large ones proxies are fetched; rested on, a frame comes whole, and a quick step past it does not', async () => {
  const { plates } = platesOf(LARGE)
  plates.fetch(1001, true)
  plates.rest(1001)
  await settle()
  expect(plates.at(1001)?.width).toBe(1920)
  jest.advanceTimersByTime(100)
  plates.fetch(1002, true)
  plates.rest(1002)
  await settle()
  jest.advanceTimersByTime(200)
  await settle()
  expect(asked).toEqual(['1001?as=proxy', '1002?as=proxy', '1002?as=rgba8'])
  expect([plates.at(1001)?.width, plates.at(1002)?.width]).toEqual([1920, 3840])
  // A fetched one is a quarter of a whole one: that is what there is room for.
  expect(plates.bytesEach).toBe(4 * 1920 * 1080)
  expect(plates.bytes).toBe(2 * 4 * 1920 * 1080 + 4 * 3840 * 2160)
  // Playing, nothing rests.
  plates.rest(1001)
  plates.rest(null)
  jest.advanceTimersByTime(1000)
  expect(asked).toHaveLength(3)
})

test('of whole large pictures the last ones are kept; what goes is closed, its proxy stays', async () => {
  const { plates } = platesOf(LARGE)
  const whole: Picture[] = []
  for (let frame = 1001; frame <= 1005; frame++) {
    plates.fetch(frame, true)
    plates.rest(frame)
    await settle()
    jest.advanceTimersByTime(200)
    await settle()
    whole.push(plates.at(frame) as unknown as Picture)
  }
  expect(whole.map(({ width }) => width)).toEqual([3840, 3840, 3840, 3840, 3840])
  expect(whole.map(({ isClosed }) => isClosed)).toEqual([true, true, false, false, false])
  expect([1001, 1002, 1003, 1004, 1005].map((frame) => plates.at(frame)?.width)).toEqual([1920, 1920, 3840, 3840, 3840]) // prettier-ignore
  // What is come back to is the latest.
  for (const frame of [1003, 1006]) {
    plates.fetch(frame, true)
    plates.rest(frame)
    await settle()
    jest.advanceTimersByTime(200)
    await settle()
  }
  whole.push(plates.at(1006) as unknown as Picture)
  expect([1003, 1004, 1005, 1006].map((frame) => plates.at(frame)?.width)).toEqual([3840, 1920, 3840, 3840])
  plates.evictAllBut(new Set([1005]))
  expect([plates.at(1003), plates.at(1005)?.width, plates.at(1006)]).toEqual([null, 3840, null])
  plates.close()
  expect(whole.every(({ isClosed }) => isClosed)).toBe(true)
  expect(plates.bytes).toBe(0)
})

test('what cannot be fetched is said, and asked for again only when somebody looks at it', async () => {
  const { plates, problems } = platesOf(SMALL)
  plates.fetch(1040)
  await settle()
  expect(problems).toEqual(['Frame 1040 could not be fetched (500). It is asked for again when you come back to it.']) // prettier-ignore
  plates.fetch(1040)
  await settle()
  expect(asked).toHaveLength(1)
  plates.fetch(1040, true)
  await settle()
  expect(asked).toHaveLength(2)
})
