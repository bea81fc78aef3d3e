import { execFile } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import sharp from 'sharp'
import { serialiseDocument, type MendDocument } from '../core/document/document'
import { fillOf, sampleEllipse, sampleMend } from '../tests/fixtures/sampleMend'
import { mendSamples, sourceOfSamples } from '../tests/fixtures/sampleSource'
import type { Samples } from '../core/image/samples'
import { decodeFrames } from '../server/media/decode.server'
import { probeMedia } from '../server/media/probe.server'
import { patternFrame, writePngSequence } from '../tests/media'
import { buildPrograms } from '../tests/builtPrograms'
import { EXIT } from './exitCodes'
import { CliError } from './cliError'
import { mendFootage } from './mend'

let folder: string
let plate: string
let mends: string
const frames = Array.from({ length: 4 }, (_, i) => patternFrame(96, 64, 3, 16, i))
const document: MendDocument = {
  format: 'fillagrant-mends',
  version: 4,
  plate: {
    name: 'shot',
    width: 96,
    height: 64,
    firstFrame: 1001,
    frameCount: 4,
    frameRate: { num: 24, den: 1 },
  },
  mends: [sampleMend()],
  tracks: [],
}
const never = new AbortController().signal

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'cli-'))
  plate = await writePngSequence(join(folder, 'plate'), frames)
  mends = join(folder, 'mends.json')
  writeFileSync(mends, serialiseDocument(document))
})
afterAll(() => rmSync(folder, { recursive: true }))

async function read(input: Parameters<typeof probeMedia>[0]): Promise<Samples[]> {
  const out: Samples[] = []
  for await (const frame of decodeFrames(input, await probeMedia(input))) out.push(frame)
  return out
}

const source = sourceOfSamples((frame) => frames[frame - 1001]!)
const wanted = async (frame: number): Promise<Samples> =>
  (await mendSamples(source, document.mends, frame, undefined, { firstFrame: 1001, lastFrame: 1004 }))
    .finished

test('pictures and video come out as the evaluator makes them', async () => {
  const said: string[] = []
  const pictures = await mendFootage(
    { plate, mends, out: join(folder, 'out', 'm.%04d.png'), rate: '' },
    (text) => said.push(text),
    never,
  )
  expect(pictures).toMatchObject({ frames: 4, notes: [], seenShares: {} })
  expect(pictures.framesPerSecond).toBeGreaterThan(0)
  expect(said.join('')).toMatch(/4 of 4 frames/)
  expect(readdirSync(join(folder, 'out'))).toEqual(['m.1001.png', 'm.1002.png', 'm.1003.png', 'm.1004.png'])
  const sequence = await read({
    kind: 'sequence',
    pattern: join(folder, 'out', 'm.%04d.png'),
    startNumber: 1001,
    frameRate: { num: 24, den: 1 },
    shownName: 'm',
  })
  expect(sequence).toEqual(await Promise.all([1001, 1002, 1003, 1004].map(wanted)))

  await mendFootage(
    { plate, mends, out: join(folder, 'part.mkv'), rate: '', frames: '1002-1003' },
    () => undefined,
    never,
  )
  const video = await read({ kind: 'video', path: join(folder, 'part.mkv'), shownName: 'part.mkv' })
  expect(video).toEqual([await wanted(1002), await wanted(1003)])

  // A video as the plate: its frames are numbered as the mends number them.
  writeFileSync(
    join(folder, 'later.json'),
    serialiseDocument({ ...document, plate: { ...document.plate, firstFrame: 1002, frameCount: 2 } }),
  )
  const again = await mendFootage(
    {
      plate: join(folder, 'part.mkv'),
      mends: join(folder, 'later.json'),
      out: join(folder, 'again.webm'),
      rate: '',
    },
    () => undefined,
    never,
  )
  expect(again.frames).toBe(2)
})

test('the summary tells how much other frames showed, and where a mend probably shows', async () => {
  const fill = fillOf('clean-plate')
  const area = sampleEllipse({
    keys: [{ frame: 1001, x: 48, y: 32, radiusXPx: 14, radiusYPx: 12, turnDeg: 0 }],
  })
  const resting = sampleMend({
    id: 'thing',
    kind: 'object',
    areas: [area],
    fill: { ...fill, params: { ...fill.params, every: 1, unseen: 'membrane' } },
  })
  writeFileSync(join(folder, 'thing.json'), serialiseDocument({ ...document, mends: [resting] }))
  const out = join(folder, 'thing', 't.%04d.png')
  const { seenShares, snags } = await mendFootage(
    { plate, mends: join(folder, 'thing.json'), out, rate: '' },
    () => undefined,
    never,
  )
  // It rests in the frame: nobody ever sees what is behind it.
  expect(seenShares).toEqual({ thing: 0 })
  expect(snags.filter(({ reason }) => reason === 'never-seen')).toEqual(
    [1001, 1002, 1003, 1004].map((frame) => expect.objectContaining({ frame, mendId: 'thing' }) as object),
  )
})

const fails = async (options: Partial<Parameters<typeof mendFootage>[0]>): Promise<CliError> => {
  const cause: unknown = await mendFootage(
    { plate, mends, out: join(folder, 'x', 'x.%04d.png'), rate: '', ...options },
    () => undefined,
    never,
  ).catch((error: unknown) => error)
  expect(cause).toBeInstanceOf(CliError)
  return cause as CliError
}

test('each failure has its exit code and says what to do', async () => {
  const bad = (text: string) => {
    writeFileSync(join(folder, 'bad.json'), text)
    return { mends: join(folder, 'bad.json') }
  }
  expect(await fails({ plate: join(folder, 'none.mkv') })).toMatchObject({
    exitCode: EXIT.plate,
    message: expect.stringMatching(/does not exist/),
  })
  expect(await fails({ plate: join(folder, 'plate', 'none.%04d.png') })).toMatchObject({
    exitCode: EXIT.plate,
  })
  expect(await fails({ mends: join(folder, 'none.json') })).toMatchObject({ exitCode: EXIT.mends })
  expect(await fails(bad('{"format":"fillagrant-mends","version":99}'))).toMatchObject({
    exitCode: EXIT.mends,
    message: expect.stringMatching(/version 99/),
  })
  expect(await fails(bad(serialiseDocument(document).replace('"y": 70', '"y": NaN')))).toMatchObject({
    exitCode: EXIT.mends,
  })
  expect(
    await fails(bad(serialiseDocument({ ...document, plate: { ...document.plate, width: 50 } }))),
  ).toMatchObject({
    exitCode: EXIT.mends,
    message: expect.stringMatching(/made for 50 × 64 px/),
  })
  expect(await fails({ out: join(folder, 'x.avi') })).toMatchObject({ exitCode: EXIT.usage })
  expect(await fails({ frames: '1-2' })).toMatchObject({
    exitCode: EXIT.usage,
    message: expect.stringMatching(/1001 to 1004/),
  })
  expect(await fails({ rate: 'fast' })).toMatchObject({ exitCode: EXIT.usage })
  expect(await fails({ out: join(mends, 'x.%04d.png') })).toMatchObject({ exitCode: EXIT.output })
  expect(readdirSync(folder).filter((name) => name.startsWith('.fillagrant'))).toEqual([])
})

test('the command itself: help, exit codes, a result on standard output', async () => {
  const programs = buildPrograms()
  const run = (...args: string[]) =>
    promisify(execFile)(process.execPath, [programs.path('cli'), ...args]).then(
      ({ stdout, stderr }) => ({ code: 0, stdout, stderr }),
      (error: { code: number; stdout: string; stderr: string }) => error,
    )
  const help = await run('mend', '--help')
  expect(help.code).toBe(0)
  for (const option of ['--plate', '--mends', '--out', '--frames', '--rate', '--quiet'])
    expect(help.stdout).toContain(option)
  expect((await run('--help')).stdout).toMatch(/Exit codes:[\s\S]*cannot be read/)
  expect((await run('mend')).code).toBe(EXIT.usage)
  expect((await run('mend', '--plate', 'none.mkv', '--mends', mends, '--out', 'x.mkv')).code).toBe(EXIT.plate)
  const done = await run(
    'mend',
    '--plate',
    plate,
    '--mends',
    mends,
    '--out',
    join(folder, 'cli.mkv'),
    '--quiet',
  )
  expect(JSON.parse(done.stdout)).toMatchObject({ frames: 4 })
  expect(done.stderr).toBe('')
  expect(readFileSync(join(folder, 'cli.mkv')).length).toBeGreaterThan(1000)
  programs.remove()
}, 60_000)

test('a hole goes out as alpha in pictures and FFV1, black in WebM; a still stands beside the mends', async () => {
  const area = { shape: 'ellipse' as const, id: 'e', role: 'cover' as const, interpolation: 'smooth' as const, follow: null, keys: [{ frame: 1001, x: 48, y: 32, radiusXPx: 12, radiusYPx: 9, turnDeg: 0 }] } // prettier-ignore
  const cut = (params: Record<string, unknown>) => {
    const path = join(folder, 'cut.json')
    const fill = {
      methodId: 'cut',
      methodVersion: 1,
      params: { behind: 'nothing', colour: '#000000', still: '', ...params },
    }
    writeFileSync(path, serialiseDocument({ ...document, mends: [sampleMend({ areas: [area], fill })] }))
    return path
  }
  const sequence = (name: string) => ({ kind: 'sequence', pattern: join(folder, name), startNumber: 1001, frameRate: { num: 24, den: 1 }, shownName: 'c' }) as const // prettier-ignore
  const pixelOf = ({ data, channels }: Samples, x: number, y: number) => [
    ...data.slice((y * 96 + x) * channels, (y * 96 + x + 1) * channels),
  ]

  await mendFootage(
    { plate, mends: cut({}), out: join(folder, 'hole', 'c.%04d.png'), rate: '' },
    () => undefined,
    never,
  )
  const [hole] = await read(sequence('hole/c.%04d.png'))
  expect(hole!.channels).toBe(4)
  expect(pixelOf(hole!, 48, 32)[3]).toBe(0)
  expect(pixelOf(hole!, 5, 5)).toEqual([...pixelOf(frames[0]!, 5, 5), 65535])
  await mendFootage(
    { plate, mends: cut({}), out: join(folder, 'hole.mkv'), rate: '' },
    () => undefined,
    never,
  )
  const [lossless] = await read({ kind: 'video', path: join(folder, 'hole.mkv'), shownName: 'hole.mkv' })
  expect(lossless!.data).toEqual(hole!.data)
  await mendFootage(
    { plate, mends: cut({}), out: join(folder, 'hole.webm'), rate: '' },
    () => undefined,
    never,
  )
  const [flat] = await read({ kind: 'video', path: join(folder, 'hole.webm'), shownName: 'hole.webm' })
  for (const value of pixelOf(flat!, 48, 32).slice(0, 3)) expect(value).toBeLessThan(12)

  writeFileSync(join(folder, 'sky.png'), await sharp({ create: { width: 96, height: 64, channels: 3, background: '#336699' } }).png().toBuffer()) // prettier-ignore
  const still = await mendFootage({ plate, mends: cut({ behind: 'still', still: 'sky.png' }), out: join(folder, 'still', 'c.%04d.png'), rate: '' }, () => undefined, never) // prettier-ignore
  expect(still.notes).toEqual([])
  const [behind] = await read(sequence('still/c.%04d.png'))
  expect(pixelOf(behind!, 48, 32)).toEqual([0x33 * 257, 0x66 * 257, 0x99 * 257])
  const missing = await mendFootage({ plate, mends: cut({ behind: 'still', still: 'none.png' }), out: join(folder, 'none', 'c.%04d.png'), rate: '' }, () => undefined, never) // prettier-ignore
  expect(missing.notes[0]!.detail).toMatch(/still that should show behind is missing/)
  expect(await fails({ mends: cut({ behind: 'still', still: 'still:abc' }) })).toMatchObject({ exitCode: EXIT.mends, message: expect.stringMatching(/Give its file instead/) }) // prettier-ignore
}, 60_000)
