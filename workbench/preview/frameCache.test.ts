import { sampleMend } from '../../tests/fixtures/sampleMend'
import { StoppedError, type ComputePool, type RunOptions } from '../../workers/pool'
import type { EvaluateAnswer, EvaluateRequest } from '../../workers/protocol'
import { FrameCache } from './frameCache'

const NO_TRACKS = new Map<string, never>()

/** A pool in the hands of the test: requests wait until they are answered. */
class HandPool {
  open: {
    request: EvaluateRequest
    urgency: number
    signal?: AbortSignal
    answer: (answer: EvaluateAnswer) => void
    fail: (cause: Error) => void
  }[] = []
  run = (request: EvaluateRequest, { urgency = 0, signal }: RunOptions = {}) =>
    new Promise<EvaluateAnswer>((answer, fail) => {
      const entry = { request, urgency, signal, answer, fail }
      this.open.push(entry)
      signal?.addEventListener('abort', () => {
        this.open = this.open.filter((one) => one !== entry)
        fail(new StoppedError())
      })
    })
  async answerAll(): Promise<void> {
    for (let round = 0; round < 200 && this.open.length > 0; round++) {
      for (const one of this.open.splice(0))
        one.answer({ patches: [], measures: [], notes: [], seenMaps: [] })
      await settle()
    }
  }
}

const settle = async () => {
  for (let i = 0; i < 12; i++) await Promise.resolve()
}

let brokenFrame: number | null = null
const fetched: number[] = []
beforeEach(() => {
  brokenFrame = null
  fetched.length = 0
  const globals = globalThis as unknown as Record<string, unknown>
  globals['ImageData'] = class {}
  globals['createImageBitmap'] = async () => ({ close: () => undefined })
  globals['fetch'] = async (url: string) => {
    const frame = Number(/\/(\d+)\?/.exec(url)![1])
    fetched.push(frame)
    return { ok: frame !== brokenFrame, status: 500, arrayBuffer: async () => new ArrayBuffer(4) }
  }
})

function cacheOf() {
  const pool = new HandPool()
  const problems: string[] = []
  const plate = {
    plateId: 'p',
    width: 1,
    height: 1,
    channels: 3,
    bitDepth: 8 as const,
    location: '/frames',
    matteLocation: '',
    stillLocation: '',
    resultLocation: '',
    firstFrame: 1001,
    lastFrame: 1006,
  }
  const cache = new FrameCache({
    plate,
    pool: pool as unknown as ComputePool,
    onChange: () => undefined,
    onProblem: (message) => problems.push(message),
  })
  return { cache, pool, problems }
}

const mends = [sampleMend()]
const all = [1001, 1002, 1003, 1004, 1005, 1006]

test('the frame at the playhead comes first, then the others, round the end', async () => {
  const { cache, pool } = cacheOf()
  cache.want(1005, mends, NO_TRACKS)
  expect(pool.open[0]).toMatchObject({ urgency: 1, request: { plan: { frame: 1005 } } })
  await pool.answerAll()
  await settle()
  expect(all.every((frame) => cache.isReady(frame))).toBe(true)
  expect(fetched.slice(0, 3)).toEqual([1005, 1006, 1001])
  expect([...fetched].sort()).toEqual(all)
})

test('an edit makes frames stale, stops what is out of date, and an undo finds nothing to do on a frame that is back', async () => {
  const { cache, pool } = cacheOf()
  cache.want(1001, mends, NO_TRACKS)
  const stale = pool.open[0]!
  const edited = [sampleMend({ finish: { ...mends[0]!.finish, featherOutPx: 4 } })]
  cache.want(1001, edited, NO_TRACKS)
  expect(stale.signal!.aborted).toBe(true)
  await pool.answerAll()
  expect(cache.isReady(1001)).toBe(true)
  cache.want(1001, mends, NO_TRACKS)
  expect(cache.isReady(1001)).toBe(false)
  expect(cache.mendedAt(1001)).toMatchObject({ isCurrent: false }) // shown until the new one is there
  await pool.answerAll()
  expect(cache.isReady(1001)).toBe(true)
})

test('a frame that fails is said once and tried again when the playhead comes to it', async () => {
  const { cache, pool, problems } = cacheOf()
  brokenFrame = 1003
  cache.want(1001, mends, NO_TRACKS)
  await pool.answerAll()
  await settle()
  expect(problems).toEqual([expect.stringMatching(/Frame 1003 could not be fetched \(500\)/)])
  expect(fetched.filter((frame) => frame === 1003)).toHaveLength(1)
  brokenFrame = null
  cache.want(1003, mends, NO_TRACKS)
  await settle()
  expect(cache.isReady(1003)).toBe(true)
})

test('a mend that fails is said once; after closing nothing more is asked for', async () => {
  const { cache, pool, problems } = cacheOf()
  cache.want(1001, mends, NO_TRACKS)
  pool.open.find((one) => one.request.plan.frame === 1001)!.fail(new Error('no memory'))
  await settle()
  expect(problems).toEqual([expect.stringMatching(/Frame 1001 could not be mended: no memory/)])
  cache.close()
  expect(pool.open.filter((one) => one.request.plan.frame !== 1001)).toHaveLength(0)
})

const textured = [sampleMend({ fill: { methodId: 'texture', methodVersion: 1, params: {} } })]

test('a fill that takes long is looked at first, coarsely, once for each change; then it is made in full', async () => {
  const { cache, pool } = cacheOf()
  cache.want(1002, textured, NO_TRACKS)
  const [first, full] = pool.open.filter((one) => one.request.plan.frame === 1002) as [
    (typeof pool.open)[number],
    (typeof pool.open)[number],
  ]
  expect([first.request.isDraft, full.request.isDraft]).toEqual([true, false])
  pool.open = pool.open.filter((one) => one !== first)
  first.answer({ patches: [], measures: [], notes: [], seenMaps: [] })
  await settle()
  expect(cache.mendedAt(1002)).toMatchObject({ isCurrent: false })
  expect(cache.isReady(1002)).toBe(false)
  await pool.answerAll()
  await settle()
  expect(cache.isReady(1002)).toBe(true)
  // Everything that takes long has been worked out by now: other frames are made in full at once.
  cache.want(1004, [...textured], NO_TRACKS)
  await pool.answerAll()
  expect(cache.isReady(1004)).toBe(true)
})

test('where the full frame is done sooner than the first look, that one is stopped and nothing goes back', async () => {
  const { cache, pool } = cacheOf()
  cache.want(1002, textured, NO_TRACKS)
  const [first, full] = pool.open.filter((one) => one.request.plan.frame === 1002) as [
    (typeof pool.open)[number],
    (typeof pool.open)[number],
  ]
  full.answer({ patches: [], measures: [], notes: [], seenMaps: [] })
  await settle()
  expect(first.signal!.aborted).toBe(true)
  await pool.answerAll()
  expect(cache.isReady(1002)).toBe(true)
})

test('what is looked at does not wait for what may be looked at later', async () => {
  const { cache, pool } = cacheOf()
  cache.want(1001, [...textured], NO_TRACKS)
  await settle()
  const ahead = pool.open.filter((one) => one.urgency === 0)
  expect(ahead).toHaveLength(2)
  cache.want(1006, textured, NO_TRACKS)
  await settle()
  expect(ahead.some((one) => one.signal!.aborted)).toBe(true)
  await pool.answerAll()
  expect(cache.isReady(1006)).toBe(true)
})
