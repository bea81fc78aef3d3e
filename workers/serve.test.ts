import { documentOf } from '../tests/fixtures/sampleDocument'
import { movingWall } from '../tests/fixtures/movingWall'
import { translationBy } from '../core/geometry/transform'
import { createSamples } from '../core/image/samples'
import { DIGEST } from '../core/shot/digest'
import { sampleMend } from '../tests/fixtures/sampleMend'
import { DEFAULT_TRACK_SETTINGS } from '../core/motion/settings'
import type { FromWorker, PlateReference, ToWorker } from './protocol'
import { changeBetween } from './documents'
import { serveCompute, type PlateAccess } from './serve'

const plate: PlateReference = {
  plateId: 'p',
  width: 240,
  height: 180,
  channels: 3,
  bitDepth: 8,
  location: '',
  matteLocation: '',
  markLocation: '',
  stillLocation: '',
  resultLocation: '',
}

const MEMORY = { tiles: 1 << 24, results: 1 << 24 }

/** A port in the hands of the test; frame 13 cannot be read. */
function served() {
  const answers: { message: FromWorker; transferred: number }[] = []
  const read: number[] = []
  let send: (message: ToWorker) => void = () => undefined
  let arrived: () => void = () => undefined
  const wall = movingWall({ motion: (i) => translationBy(1.2 * i, 0) })
  serveCompute(
    {
      post: (message, transfer) => {
        answers.push({ message, transferred: transfer.length })
        if (message.kind === 'done' || message.kind === 'failed') arrived()
      },
      onMessage: (listen) => void (send = listen),
    },
    {
      faceFiles: { folder: '', read: () => Promise.reject(new Error('no faces here')) },
      openPlate: () =>
        ({
          readRects: (wanted) =>
            Promise.all(
              wanted.map(async ({ frame, rect }) => {
                read.push(frame)
                if (frame === 13) throw Object.assign(new Error('frame 13 is not there'), { code: 'missing' })
                return frame > 100 ? createSamples(rect.width, rect.height, 3, 8) : wall.readRect(frame, rect)
              }),
            ),
          readMatte: async () => null,
          readStill: async () => null,
          readMark: async () => null,
        }) satisfies PlateAccess,
    },
  )
  send({ kind: 'start', stopFlag: null, memory: MEMORY })
  const ask = (message: ToWorker) =>
    new Promise<void>((resolve) => {
      arrived = resolve
      send(message)
    })
  return { answers, read, ask, send: (message: ToWorker) => send(message), last: () => answers.at(-1)! }
}

const track = (frames: number[]) =>
  ({
    kind: 'track',
    plate,
    request: { kind: 'point', seed: [100.4, 80.3], settings: DEFAULT_TRACK_SETTINGS, startFrame: 1, frames },
  }) as const

test('an evaluation answers with pieces whose memory is handed over, and with what the frame is called', async () => {
  const { ask, send, last } = served()
  const document = documentOf([sampleMend()], new Map(), {
    firstFrame: 1001,
    lastFrame: 1003,
    width: 240,
    height: 180,
  })
  send({ kind: 'document', documentId: 'd', change: changeBetween(null, document) })
  const task = { plate, documentId: 'd' } as const
  await ask({ kind: 'task', token: 1, request: { kind: 'evaluate', ...task, frame: 1001, isDraft: false } })
  expect(last()).toMatchObject({
    message: {
      kind: 'done',
      token: 1,
      answer: { notes: [], patches: [{}], name: expect.stringMatching(DIGEST) },
    },
    // Its samples, and the runs of what was mended.
    transferred: 2,
  })
  const { message } = last()
  if (message.kind !== 'done' || !('name' in message.answer))
    throw new Error('an evaluation answers with a name')
  const { name } = message.answer
  await ask({ kind: 'task', token: 2, request: { kind: 'names', ...task, frames: [1001, 1002] } })
  expect(last().message).toMatchObject({
    kind: 'done',
    answer: [{ frame: 1001, key: name }, { frame: 1002 }],
  })
  send({ kind: 'document', documentId: 'd', change: null })
  await ask({ kind: 'task', token: 3, request: { kind: 'names', ...task, frames: [1001] } })
  expect(last().message).toMatchObject({
    kind: 'failed',
    error: { message: expect.stringContaining('was not given') },
  })
})

test('a track tells every frame and answers with all of them', async () => {
  const { ask, answers, last } = served()
  await ask({ kind: 'task', token: 2, request: track([2, 3, 4]) })
  expect(answers.filter(({ message }) => message.kind === 'progress')).toHaveLength(3)
  expect(last().message).toMatchObject({
    kind: 'done',
    token: 2,
    answer: { end: { reason: 'finished' }, frames: [{ frame: 1 }, { frame: 2 }, { frame: 3 }, { frame: 4 }] },
  })
})

test('what the next frame reads is brought meanwhile, also when it is frame 0', async () => {
  const { ask, send, read } = served()
  const range = { firstFrame: 0, lastFrame: 12, width: 240, height: 180 }
  const document = documentOf([sampleMend({ span: { firstFrame: 0, lastFrame: 12 } })], new Map(), range)
  send({ kind: 'document', documentId: 'd', change: changeBetween(null, document) })
  const task = { plate, documentId: 'd', isDraft: false } as const
  await ask({ kind: 'task', token: 1, request: { kind: 'evaluate', ...task, frame: 12, next: 0 } })
  expect(read).toContain(0)
})

test('a cling that finds no line says so', async () => {
  const { ask, last } = served()
  const points = [
    { x: 60, y: 20, widthPx: 8 },
    { x: 70, y: 160, widthPx: 8 },
  ]
  await ask({
    kind: 'task',
    token: 3,
    request: {
      kind: 'cling',
      plate,
      request: { points, settings: { searchPx: 8, bridgeFrames: 2 }, startFrame: 101, ways: [[102]] },
    },
  })
  expect(last().message).toMatchObject({
    kind: 'done',
    answer: { frames: [], ends: [{ reason: 'no-line', frame: 101 }] },
  })
})

test('the stop flag ends a track at the next frame; what was held is answered', async () => {
  const { ask, send, last } = served()
  const stopFlag = new SharedArrayBuffer(4)
  send({ kind: 'start', stopFlag, memory: MEMORY })
  Atomics.store(new Int32Array(stopFlag), 0, 4)
  await ask({ kind: 'task', token: 4, request: track([2, 3]) })
  expect(last().message).toMatchObject({
    kind: 'done',
    answer: { end: { reason: 'stopped' }, frames: [{ frame: 1 }] },
  })
})

test('a failure comes back with its code, and the worker goes on', async () => {
  const { ask, last } = served()
  await ask({ kind: 'task', token: 5, request: track([12, 13]) })
  expect(last().message).toEqual({
    kind: 'failed',
    token: 5,
    error: { code: 'missing', message: 'frame 13 is not there' },
  })
  await ask({ kind: 'task', token: 6, request: track([2]) })
  expect(last().message).toMatchObject({ kind: 'done', token: 6 })
})
