import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sceneSource, wavesAt } from '../tests/fixtures/sampleScene'
import { surveySchema } from '../core/survey/finds'
import { writePngSequence } from '../tests/media'
import { EXIT } from './exitCodes'
import { surveyFootage } from './survey'

const SIZE = { width: 160, height: 96 }
const quiet = () => undefined
const never = new AbortController().signal
let folder: string
let plate: string

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'cli-survey-'))
  const source = sceneSource(
    SIZE,
    (i) => ({
      background: (x, y, c) => 0.7 * wavesAt(2.5 * (x - 4 * i), 2.5 * y, c, 3),
      isHidden: (x, y) => Math.floor(x) === 70 && Math.floor(y) === 40,
    }),
    (frame, i) =>
      ((Math.floor(i / 3) === 40 * SIZE.width + 70 ? 0 : 1) * (((frame * 7919 + i * 104_729) % 97) - 48)) /
      28,
  )
  const frames = await Promise.all(
    Array.from({ length: 12 }, (_, i) => source.readRect(i, { col: 0, row: 0, ...SIZE })),
  )
  plate = await writePngSequence(join(folder, 'plate'), frames)
})
afterAll(() => rmSync(folder, { recursive: true }))

const options = (out: string) => ({ plate, out: join(folder, out), firstFrame: '1001', rate: '' })

test('the finds of a plate are written as a file of the stated format, and counted', async () => {
  const said: string[] = []
  const summary = await surveyFootage(options('finds.json'), (text) => said.push(text), never)
  expect(summary).toMatchObject({
    frames: 12,
    rest: 'moves',
    cuts: 0,
    finds: { pixel: 1, mote: 0, mark: 0, line: 0 },
  })
  expect(said.at(-2)).toContain('12 of 12')
  const survey = surveySchema.parse(JSON.parse(readFileSync(join(folder, 'finds.json'), 'utf8')))
  expect(survey.finds[0]).toMatchObject({ kind: 'pixel', class: 'dead', x: 70.5, y: 40.5 })
})

test('stopped, or with nowhere to write, nothing is left behind and the exit code says which', async () => {
  const stopped = new AbortController()
  const stopWhenReading = (text: string) => void (text.includes('looked through') && stopped.abort())
  await expect(surveyFootage(options('stopped.json'), stopWhenReading, stopped.signal)).rejects.toMatchObject(
    { exitCode: EXIT.stopped },
  )
  expect(() => readFileSync(join(folder, 'stopped.json'))).toThrow()
  await expect(surveyFootage(options('no/such/folder.json'), quiet, never)).rejects.toMatchObject({
    exitCode: EXIT.output,
  })
  await expect(
    surveyFootage({ ...options('a.json'), plate: join(folder, 'none.mkv') }, quiet, never),
  ).rejects.toMatchObject({ exitCode: EXIT.plate })
})
