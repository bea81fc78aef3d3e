import { documentOf } from '../../tests/fixtures/sampleDocument'
import { sampleMend } from '../../tests/fixtures/sampleMend'
import type { ShotDocument } from '../../core/plan/shotDocument'
import { StoppedError, type RunOptions } from '../../workers/pool'
import type { EvaluateAnswer, EvaluateRequest, NamesAnswer, NamesRequest } from '../../workers/protocol'
import { FrameCache } from './frameCache'
import type { FrameCacheOptions } from './frameState'

type Request = EvaluateRequest | NamesRequest
interface Open<R extends Request = Request> {
  readonly request: R
  readonly urgency: number
  readonly signal?: AbortSignal
  readonly onShare?: (done: number, total: number) => void
  readonly answer: (answer: EvaluateAnswer | NamesAnswer) => void
  readonly fail: (cause: Error) => void
}

/** Frames are called by the feather of their only mend: equal exactly when they look the same. */
const nameOf = ({ mends }: ShotDocument, frame: number) =>
  `${frame} ${mends[0]!.finish.featherOutPx} ${mends[0]!.fill.methodId}`

/** A pool in the hands of the test: requests wait until they are answered. */
class HandPool {
  size = 2
  document: ShotDocument | null = null
  open: Open[] = []
  setDocument = (_id: string, document: ShotDocument) => void (this.document = document)
  dropDocument = () => void (this.document = null)
  run = (request: Request, { urgency = 0, signal, onShare }: RunOptions = {}) =>
    new Promise<EvaluateAnswer | NamesAnswer>((answer, fail) => {
      const entry = { request, urgency, signal, onShare, answer, fail }
      this.open.push(entry)
      signal?.addEventListener('abort', () => {
        this.open = this.open.filter((one) => one !== entry)
        fail(new StoppedError())
      })
    })

  framesAt(frame: number): Open<EvaluateRequest>[] {
    return this.evaluations.filter(({ request }) => request.frame === frame)
  }

  get evaluations(): Open<EvaluateRequest>[] {
    return this.open.filter((one): one is Open<EvaluateRequest> => one.request.kind === 'evaluate')
  }

  answer(one: Open): void {
    this.open = this.open.filter((other) => other !== one)
    const { request } = one
    const document = this.document!
    if (request.kind === 'names')
      one.answer(request.frames.map((frame) => ({ frame, key: nameOf(document, frame) })))
    else
      one.answer({
        patches: [],
        measures: [],
        notes: [],
        seenMaps: [],
        name: nameOf(document, request.frame),
      })
  }

  async answerAll(): Promise<void> {
    for (let round = 0; round < 200 && this.open.length > 0; round++) {
      for (const one of [...this.open]) this.answer(one)
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

/** @param draftAfterMs  Null: as it is set. */
function cacheOf(draftAfterMs: number | null = 0) {
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
    markLocation: '',
    stillLocation: '',
    resultLocation: '',
    firstFrame: 1001,
    lastFrame: 1006,
  }
  const cache = new FrameCache({
    plate,
    documentId: 'd',
    pool: pool as unknown as FrameCacheOptions['pool'],
    onProblem: (message) => problems.push(message),
    ...(draftAfterMs === null ? {} : { draftAfterMs }),
  })
  return { cache, pool, problems }
}

const mend = sampleMend()
const document = documentOf([mend])
const edited = documentOf([{ ...mend, finish: { ...mend.finish, featherOutPx: 4 } }])
const textured = documentOf([{ ...mend, fill: { methodId: 'texture', methodVersion: 1, params: {} } }])
const all = [1001, 1002, 1003, 1004, 1005, 1006]

test('the frame at the playhead comes first, then the others, round the end', async () => {
  const { cache, pool } = cacheOf()
  cache.want({ frame: 1005, document, isPlaying: true })
  expect(pool.evaluations[0]).toMatchObject({ urgency: 2, request: { frame: 1005, isDraft: false } })
  await pool.answerAll()
  await settle()
  expect(all.every((frame) => cache.isReady(frame))).toBe(true)
  expect(fetched.slice(0, 3)).toEqual([1005, 1006, 1001])
  expect([...fetched].sort()).toEqual(all)
})

test('at rest the nearest frames come first, on more than back', async () => {
  const { cache, pool } = cacheOf()
  cache.want({ frame: 1003, document })
  await pool.answerAll()
  await settle()
  expect(fetched).toEqual([1003, 1004, 1005, 1002, 1006, 1001])
})

test('an edit makes frames stale and stops what is out of date; undone, what still holds is shown at once', async () => {
  const { cache, pool } = cacheOf()
  cache.want({ frame: 1001, document })
  const [stale] = pool.framesAt(1001)
  cache.want({ frame: 1001, document: edited })
  expect(stale!.signal!.aborted).toBe(true)
  await pool.answerAll()
  expect(cache.stateAt(1001)).toMatchObject({ stage: 'full', mended: { name: '1001 4 across' } })
  cache.want({ frame: 1001, document })
  // What was there is shown until the new one is, and said to be older.
  expect(cache.stateAt(1001)).toMatchObject({ stage: 'older', mended: { name: '1001 4 across' } })
  cache.want({ frame: 1001, document: edited })
  const names = pool.open.find(({ request }) => request.kind === 'names')!
  pool.answer(names)
  await settle()
  expect(cache.stateAt(1001).stage).toBe('full')
  expect(pool.framesAt(1001).filter(({ signal }) => !signal!.aborted)).toHaveLength(0)
})

test('a document of the same records is the same: what is under way goes on', async () => {
  const { cache, pool } = cacheOf()
  cache.want({ frame: 1001, document, isPassing: true, fillsAhead: false })
  const [begun] = pool.framesAt(1001)
  cache.want({ frame: 1001, document: { ...document, mends: [...document.mends] }, fillsAhead: false })
  expect(begun!.signal!.aborted).toBe(false)
  pool.answer(begun!)
  await settle()
  // Nothing of it was measured while it was passing: that is made up for.
  expect(cache.stateAt(1001).stage).toBe('full')
  expect(pool.framesAt(1001).map(({ request }) => request.isPassing)).toEqual([false])
  await pool.answerAll()
  expect(pool.framesAt(1001)).toEqual([])
  cache.want({ frame: 1001, document: { ...document, tracks: new Map([['t', {} as never]]) } })
  expect(cache.stateAt(1001).stage).toBe('older')
})

test('a frame that fails is said once and tried again when the playhead comes to it', async () => {
  const { cache, pool, problems } = cacheOf()
  brokenFrame = 1003
  cache.want({ frame: 1001, document })
  await pool.answerAll()
  await settle()
  expect(problems).toEqual([expect.stringMatching(/Frame 1003 could not be fetched \(500\)/)])
  expect(fetched.filter((frame) => frame === 1003)).toHaveLength(1)
  brokenFrame = null
  cache.want({ frame: 1003, document })
  await settle()
  expect(cache.isReady(1003)).toBe(true)
})

test('a mend that fails is said once; after closing nothing more is asked for', async () => {
  const { cache, pool, problems } = cacheOf()
  cache.want({ frame: 1001, document })
  pool.framesAt(1001)[0]!.fail(new Error('no memory'))
  await settle()
  expect(problems).toEqual([expect.stringMatching(/Frame 1001 could not be mended: no memory/)])
  cache.close()
  await settle()
  expect(pool.evaluations.filter(({ request }) => request.frame !== 1001)).toHaveLength(0)
  expect(pool.document).toBeNull()
})

test('a fill that takes long is shown as a draft first, and said to be one; then it is made in full', async () => {
  const { cache, pool } = cacheOf()
  cache.want({ frame: 1002, document: textured })
  const [draft, full] = pool.framesAt(1002)
  expect([draft!.request.isDraft, full!.request.isDraft]).toEqual([true, false])
  pool.answer(draft!)
  await settle()
  expect(cache.stateAt(1002).stage).toBe('draft')
  expect(cache.isReady(1002)).toBe(false)
  full!.onShare!(3, 4)
  expect(cache.stateAt(1002).progress).toBe(0.75)
  pool.answer(full!)
  await settle()
  expect(cache.stateAt(1002)).toMatchObject({ stage: 'full', progress: null })
})

test('where the full frame is done sooner than the draft, that one is stopped and nothing goes back', async () => {
  const { cache, pool } = cacheOf()
  cache.want({ frame: 1002, document: textured })
  const [draft, full] = pool.framesAt(1002)
  pool.answer(full!)
  await settle()
  expect(draft!.signal!.aborted).toBe(true)
  await pool.answerAll()
  expect(cache.isReady(1002)).toBe(true)
})

const aheadIn = (pool: HandPool) => pool.evaluations.filter(({ urgency }) => urgency === 0)

test('as many frames are worked ahead as there are workers, once the one that is waited for is there', async () => {
  const { cache, pool } = cacheOf()
  cache.want({ frame: 1001, document })
  await settle()
  expect(aheadIn(pool)).toEqual([])
  expect(fetched).toEqual([1001])
  pool.answer(pool.framesAt(1001)[0]!)
  await settle()
  const ahead = aheadIn(pool)
  expect(ahead).toHaveLength(2)
  // What will be wanted next, two frames on and one back, is brought meanwhile.
  expect(ahead.map(({ request: { frame, next } }) => [frame, next])).toEqual([
    [1002, 1003],
    [1003, 1006],
  ])
  cache.want({ frame: 1006, document })
  await settle()
  expect(ahead.every(({ signal }) => signal!.aborted)).toBe(true)
  expect(aheadIn(pool)).toEqual([])
  await pool.answerAll()
  expect(cache.isReady(1006)).toBe(true)
})

test('where nothing is to be filled ahead, only what is looked at is worked on, until it plays', async () => {
  const { cache, pool } = cacheOf()
  cache.want({ frame: 1001, document, fillsAhead: false })
  await settle()
  pool.answer(pool.framesAt(1001)[0]!)
  await settle()
  expect([...fetched].sort()).toEqual([1001, 1002, 1003]) // beside; the rest is not
  expect(aheadIn(pool)).toEqual([])
  cache.want({ frame: 1001, document })
  await settle()
  const begun = aheadIn(pool)
  expect(begun).toHaveLength(2)
  cache.want({ frame: 1001, document, fillsAhead: false })
  await settle()
  expect(begun.every(({ signal }) => signal!.aborted)).toBe(true)
  cache.want({ frame: 1002, document, fillsAhead: false })
  await settle()
  expect(pool.framesAt(1002)[0]).toMatchObject({ urgency: 2, request: { next: null } })
  pool.answer(pool.framesAt(1002)[0]!)
  await settle()
  expect(aheadIn(pool)).toEqual([])
  cache.want({ frame: 1002, document, fillsAhead: false, isPlaying: true })
  await settle()
  expect(aheadIn(pool)).toHaveLength(2)
  expect([...fetched].sort()).toEqual(all)
})

test('stepping on, the frame after the one that is waited for is worked on beside it', async () => {
  const { cache, pool } = cacheOf()
  cache.want({ frame: 1001, document })
  await settle()
  pool.answer(pool.framesAt(1001)[0]!)
  await settle()
  cache.want({ frame: 1002, document })
  await settle()
  expect(aheadIn(pool).map(({ request }) => request.frame)).toContain(1003)
  expect(pool.framesAt(1002)[0]!.signal!.aborted).toBe(false)
})

test('while a value is dragged only what is looked at is worked on, and nothing of it is stored', async () => {
  const { cache, pool } = cacheOf()
  cache.want({ frame: 1003, document })
  await settle()
  cache.want({ frame: 1003, document: edited, isPassing: true })
  await settle()
  expect(pool.evaluations.map(({ request }) => [request.frame, request.isPassing])).toEqual([[1003, true]])
  await pool.answerAll()
  cache.want({ frame: 1003, document: edited })
  // At rest it is measured and stored.
  expect(pool.framesAt(1003)[0]!.request.isPassing).toBe(false)
})

test('who shows a frame is told of that frame alone', async () => {
  const { cache, pool } = cacheOf()
  const told: number[] = []
  const stop = cache.subscribe((frame) => void told.push(frame))
  cache.want({ frame: 1001, document })
  await settle()
  told.length = 0
  const before = cache.stateAt(1005)
  pool.answer(pool.framesAt(1001)[0]!)
  await settle()
  expect(told).toContain(1001)
  // Others have been begun: mends of two, plates of two.
  expect([...new Set(told)].sort()).toEqual([1001, 1002, 1003, 1004, 1006])
  expect(cache.stateAt(1005)).toBe(before)
  stop()
  told.length = 0
  await pool.answerAll()
  expect(told).toEqual([])
})

test('no draft where the full result is there as soon; where they come soon, only one that is late has one', async () => {
  jest.useFakeTimers()
  try {
    const { cache, pool } = cacheOf(null)
    const kinds = (frame: number) => pool.framesAt(frame).map(({ request }) => request.isDraft)
    cache.want({ frame: 1002, document: textured })
    jest.advanceTimersByTime(40)
    pool.answer(pool.framesAt(1002)[0]!)
    await settle()
    jest.advanceTimersByTime(500)
    expect([cache.isReady(1002), kinds(1002)]).toEqual([true, []])
    // This one takes 200 ms: the next one is waited for longer.
    cache.want({ frame: 1005, document: textured })
    jest.advanceTimersByTime(200)
    pool.answer(pool.framesAt(1005).find(({ request }) => !request.isDraft)!)
    await settle()
    cache.want({ frame: 1006, document: textured })
    jest.advanceTimersByTime(150)
    expect(kinds(1006)).toEqual([false])
    jest.advanceTimersByTime(200)
    expect(kinds(1006)).toEqual([false, true])
  } finally {
    jest.useRealTimers()
  }
})

test('held, only plates are fetched: what was under way stops, and what follows is asked for once the mends are known', async () => {
  const { cache, pool } = cacheOf()
  cache.want({ frame: 1003, document })
  expect(pool.evaluations.length).toBeGreaterThan(0)
  cache.want({ frame: 1003, document: edited, isHeld: true })
  await settle()
  expect(pool.evaluations).toEqual([])
  expect(fetched).toContain(1003)
  cache.want({ frame: 1003, document: edited })
  expect(pool.framesAt(1003)).not.toEqual([])
  await pool.answerAll()
  expect(cache.isReady(1003)).toBe(true)
})
