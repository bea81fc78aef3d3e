import { documentOf } from '../../tests/fixtures/sampleDocument'
import { sampleMend } from '../../tests/fixtures/sampleMend'
import type { ShotDocument } from '../../core/plan/shotDocument'
import { StoppedError } from '../../workers/pool'
import type { EvaluateAnswer, EvaluateRequest } from '../../workers/protocol'
import { OtherSide } from './otherSide'

const document = () => documentOf([sampleMend()])
const settle = async () => {
  for (let i = 0; i < 10; i++) await Promise.resolve()
}

function hand() {
  const given = new Map<string, ShotDocument>()
  const open: { request: EvaluateRequest; answer: (it: EvaluateAnswer) => void; fail: (cause: Error) => void }[] = [] // prettier-ignore
  const problems: string[] = []
  const pool = {
    size: 2,
    setDocument: (id: string, one: ShotDocument) => void given.set(id, one),
    dropDocument: (id: string) => void given.delete(id),
    run: (request: EvaluateRequest, { signal }: { signal: AbortSignal }) =>
      new Promise<EvaluateAnswer>((answer, fail) => {
        open.push({ request, answer, fail })
        signal.addEventListener('abort', () => fail(new StoppedError()))
      }),
  }
  const plate = { plateId: 'p', width: 8, height: 8, channels: 3, bitDepth: 8, location: '', matteLocation: '', stillLocation: '', markLocation: '', resultLocation: '', firstFrame: 1001, lastFrame: 1040 } as const // prettier-ignore
  const side = new OtherSide({ plate, documentId: 'other', pool: pool as never, onProblem: (words) => problems.push(words) }) // prettier-ignore
  let changes = 0
  side.subscribe(() => changes++)
  const answer = async () => {
    const one = open.shift()!
    one.answer({ name: `f${one.request.frame}`, patches: [], measures: [], notes: [], seenMaps: [] })
    await settle()
  }
  return { side, open, given, problems, answer, changesSoFar: () => changes }
}

test('a frame that is looked at is mended with the other mends, once, and said when it is there', async () => {
  const { side, open, given, answer, changesSoFar } = hand()
  const one = document()
  side.want(1003, one)
  side.want(1003, one)
  expect(given.get('other')).toBe(one)
  expect(open.map(({ request }) => [request.documentId, request.frame])).toEqual([['other', 1003]])
  expect(side.at(1003)).toBeNull()
  const before = changesSoFar()
  await answer()
  expect(changesSoFar()).toBeGreaterThan(before)
  expect(side.at(1003)?.name).toBe('f1003')
  side.want(1003, one)
  expect(open).toEqual([])
})

test('what is gone past is called off; the last frames are shown at once; other mends, or none, drop all', async () => {
  const { side, open, given, answer } = hand()
  const one = document()
  side.want(1001, one)
  side.want(1002, one)
  await settle()
  open.shift() // called off: its answer would be thrown away
  await answer()
  expect([side.at(1001), side.at(1002)?.name]).toEqual([null, 'f1002'])
  for (let frame = 1003; frame < 1020; frame++) {
    side.want(frame, one)
    await answer()
  }
  expect(side.at(1002)).toBeNull()
  expect(side.at(1019)?.name).toBe('f1019')
  // What is come back to counts as looked at just now.
  side.want(1004, one)
  side.want(1020, one)
  await answer()
  expect([side.at(1004)?.name, side.at(1005)]).toEqual(['f1004', null])
  side.want(1020, document())
  expect(side.at(1020)).toBeNull()
  side.want(1020, null)
  expect(given.size).toBe(0)
})

test('what fails is said, and tried again when it is come back to', async () => {
  const { side, open, problems } = hand()
  const one = document()
  side.want(1001, one)
  open.shift()!.fail(new Error('the store does not answer'))
  await settle()
  expect(problems).toEqual(['Frame 1001 of what is compared with could not be mended: the store does not answer']) // prettier-ignore
  side.want(1001, one)
  expect(open).toHaveLength(1)
})
