import { DEFAULT_TRACK_SETTINGS } from '../core/motion/settings'
import { ComputeError, ComputePool, StoppedError, type WorkerHandle } from './pool'
import { documentOf } from '../tests/fixtures/sampleDocument'
import { sampleMend } from '../tests/fixtures/sampleMend'
import type { EvaluateRequest, FromWorker, ToWorker } from './protocol'

const ANSWER = { patches: [], measures: [], notes: [], seenMaps: [], name: 'n' }

/** A worker in the hands of the test: it answers when told to. */
class HandWorker implements WorkerHandle {
  received: ToWorker[] = []
  listen: (message: FromWorker) => void = () => undefined
  die: (reason: string) => void = () => undefined
  isTerminated = false
  post = (message: ToWorker) => void this.received.push(message)
  onMessage = (listen: (message: FromWorker) => void) => void (this.listen = listen)
  onDeath = (listen: (reason: string) => void) => void (this.die = listen)
  terminate = () => void (this.isTerminated = true)

  get tasks() {
    return this.received.filter((message) => message.kind === 'task')
  }
  answer(index: number) {
    this.listen({
      kind: 'done',
      token: this.tasks[index]!.token,
      answer: ANSWER,
    })
  }
}

const request = (frame: number): EvaluateRequest => ({
  kind: 'evaluate',
  plate: {
    plateId: 'p',
    width: 1,
    height: 1,
    channels: 3,
    bitDepth: 8,
    location: '',
    matteLocation: '',
    markLocation: '',
    stillLocation: '',
    resultLocation: '',
  },
  documentId: 'd',
  frame,
  isDraft: false,
})

function poolOf(size: number, stuckMs?: number) {
  const workers: HandWorker[] = []
  const pool = new ComputePool(
    size,
    () => {
      workers.push(new HandWorker())
      return workers.at(-1)!
    },
    undefined,
    stuckMs,
  )
  return { pool, workers }
}

test('the most urgent task runs next', async () => {
  const { pool, workers } = poolOf(1)
  const order: number[] = []
  const all = [1, 2, 3].map((frame, i) =>
    pool.run(request(frame), { urgency: [0, 0, 5][i] }).then(() => order.push(frame)),
  )
  for (let i = 0; i < 3; i++) {
    workers[0]!.answer(i)
    await new Promise((resolve) => setImmediate(resolve))
  }
  await Promise.all(all)
  expect(order).toEqual([1, 3, 2])
  expect(pool.load).toBe(0)
})

test('a frame goes to the worker that had it before, and to any other while that one is busy', async () => {
  const { pool, workers } = poolOf(2)
  const framesOf = (worker: HandWorker) =>
    worker.tasks.map(({ request: asked }) => (asked as EvaluateRequest).frame)
  const run = async (frame: number, isDraft = false) => {
    const done = pool.run({ ...request(frame), isDraft })
    for (const worker of workers) if (worker.tasks.length > 0) worker.answer(worker.tasks.length - 1)
    await done
  }
  for (const frame of [4, 5, 4, 5, 4]) await run(frame)
  expect(workers.map(framesOf)).toEqual([
    [4, 4, 4],
    [5, 5],
  ])
  await run(4, true)
  expect(framesOf(workers[1]!)).toEqual([5, 5, 4])
  const [first, second] = [pool.run(request(6)), pool.run(request(8))]
  expect(framesOf(workers[0]!).at(-1)).toBe(6)
  expect(framesOf(workers[1]!).at(-1)).toBe(8)
  for (const worker of workers) worker.answer(worker.tasks.length - 1)
  await Promise.all([first, second])
})

test('a waiting task that is stopped never runs; a running one is told through shared memory', async () => {
  const { pool, workers } = poolOf(1)
  const [running, waiting] = [new AbortController(), new AbortController()]
  const first = pool.run(request(1), { signal: running.signal })
  const second = pool.run(request(2), { signal: waiting.signal })
  waiting.abort()
  await expect(second).rejects.toBeInstanceOf(StoppedError)
  running.abort()
  await expect(first).rejects.toBeInstanceOf(StoppedError)
  const start = workers[0]!.received[0]!
  expect(start.kind === 'start' && new Int32Array(start.stopFlag!)[0]).toBe(workers[0]!.tasks[0]!.token)
  workers[0]!.answer(0)
  expect(workers[0]!.tasks).toHaveLength(1)
  await expect(pool.run(request(3), { signal: running.signal })).rejects.toBeInstanceOf(StoppedError)
})

test('a worker that dies fails its task and is replaced', async () => {
  const { pool, workers } = poolOf(1)
  const lost = pool.run(request(1))
  workers[0]!.die('out of memory')
  await expect(lost).rejects.toMatchObject({ code: 'worker-lost' })
  const next = pool.run(request(2))
  workers[1]!.answer(0)
  await expect(next).resolves.toEqual(ANSWER)
})

test('an error in the worker arrives with its code; closing stops everything', async () => {
  const { pool, workers } = poolOf(1)
  const failed = pool.run(request(1))
  workers[0]!.listen({
    kind: 'failed',
    token: workers[0]!.tasks[0]!.token,
    error: { code: 'missing', message: 'no frame' },
  })
  await expect(failed).rejects.toEqual(new ComputeError('missing', 'no frame'))
  const open = [pool.run(request(2)), pool.run(request(3))]
  pool.close()
  for (const one of open) await expect(one).rejects.toBeInstanceOf(StoppedError)
  expect(workers[0]!.isTerminated).toBe(true)
})

test('a track tells every frame, and when it is stopped it still answers with what it has', async () => {
  const { pool, workers } = poolOf(1)
  const told: number[] = []
  const stop = new AbortController()
  const { plate } = request(1)
  const run = pool.run(
    {
      kind: 'track',
      plate,
      request: {
        kind: 'point',
        seed: [1, 1],
        settings: DEFAULT_TRACK_SETTINGS,
        startFrame: 1,
        frames: [2, 3],
      },
    },
    { signal: stop.signal, onFrame: ({ frame }) => told.push(frame) },
  )
  const { token } = workers[0]!.tasks[0]!
  const outcome = {
    frames: [{ frame: 2, sure: 1, values: [1, 1] }],
    corners: [],
    starts: [],
    end: { reason: 'stopped' as const, frame: 3 },
  }
  workers[0]!.listen({ kind: 'progress', token, tracked: outcome.frames[0]! })
  stop.abort()
  workers[0]!.listen({ kind: 'done', token, answer: outcome })
  await expect(run).resolves.toEqual(outcome)
  expect(told).toEqual([2])
  expect(pool.load).toBe(0)
})

test('workers are told of a document once, then only of what has changed, and forget it when it is dropped', async () => {
  const { pool, workers } = poolOf(1)
  const told = () => workers[0]!.received.filter((message) => message.kind === 'document')
  const run = async () => {
    const done = pool.run(request(1))
    workers[0]!.answer(workers[0]!.tasks.length - 1)
    await done
  }
  const [wire, patch] = [sampleMend(), sampleMend({ id: 'patch' })]
  const first = documentOf([wire, patch])
  pool.setDocument('d', first)
  await run()
  await run()
  expect(told().map(({ change }) => change?.mends.length)).toEqual([2])
  pool.setDocument('d', { ...first, mends: [wire, { ...patch, isOn: false }] })
  await run()
  expect(told().at(-1)!.change).toMatchObject({
    stack: ['wire-1', 'patch'],
    mends: [{ id: 'patch', isOn: false }],
  })
  pool.dropDocument('d')
  expect(told().at(-1)).toEqual({ kind: 'document', documentId: 'd', change: null })
  await pool.withDocument(first, async (documentId) => {
    const done = pool.run({ ...request(1), documentId })
    workers[0]!.answer(workers[0]!.tasks.length - 1)
    await done
    expect(told().at(-1)).toMatchObject({
      documentId,
      change: { mends: [{ id: 'wire-1' }, { id: 'patch' }] },
    })
  })
  expect(told().at(-1)!.change).toBeNull()
})

test('a worker that takes the place of a dead one is given the whole document', async () => {
  const { pool, workers } = poolOf(1)
  pool.setDocument('d', documentOf([sampleMend()]))
  const lost = pool.run(request(1))
  workers[0]!.die('gone')
  await expect(lost).rejects.toMatchObject({ code: 'worker-lost' })
  const next = pool.run(request(1))
  expect(workers[1]!.received.map(({ kind }) => kind)).toEqual(['start', 'document', 'task'])
  workers[1]!.answer(0)
  await next
})

test('warmed, all workers stand before the first task; it changes nothing for those that do already', () => {
  const workers: HandWorker[] = []
  const pool = new ComputePool(3, () => {
    workers.push(new HandWorker())
    return workers.at(-1)!
  })
  pool.warm()
  expect(workers.map(({ received }) => received.map(({ kind }) => kind))).toEqual([
    ['start'],
    ['start'],
    ['start'],
  ])
  pool.warm()
  void pool.run(request(1)).catch(() => undefined)
  expect(workers).toHaveLength(3)
  expect(workers.flatMap(({ tasks }) => tasks)).toHaveLength(1)
  pool.close()
})

test('what a worker has brought is passed to the others', () => {
  const { pool, workers } = poolOf(3)
  pool.warm()
  const tiles = { frame: 7, rects: [], buffer: new SharedArrayBuffer(8) }
  const message = { kind: 'tiles', plate: request(1).plate, tiles } as const
  workers[1]!.listen(message)
  expect(workers.map(({ received }) => received.includes(message))).toEqual([true, false, true])
})

test('what shows no sign of life is given up and its worker ended; what is only slow goes on', async () => {
  jest.useFakeTimers()
  try {
    const { pool, workers } = poolOf(1, 1000)
    const slow = pool.run(request(1), { onShare: () => undefined })
    const { token } = workers[0]!.tasks[0]!
    for (let part = 1; part < 5; part++) {
      jest.advanceTimersByTime(900)
      workers[0]!.listen({ kind: 'share', token, done: part, total: 5 })
    }
    workers[0]!.answer(0)
    await expect(slow).resolves.toEqual(ANSWER)
    const stuck = pool.run(request(1))
    const after = pool.run(request(2))
    const told = expect(stuck).rejects.toMatchObject({
      code: 'stuck',
      message: expect.stringMatching(/after 1 s/),
    })
    jest.advanceTimersByTime(1001)
    await told
    expect(workers[0]!.isTerminated).toBe(true)
    workers[1]!.answer(0)
    await expect(after).resolves.toEqual(ANSWER)
    jest.advanceTimersByTime(10_000)
    expect(workers).toHaveLength(2)
  } finally {
    jest.useRealTimers()
  }
})
