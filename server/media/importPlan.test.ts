import { filesOf, planImport, storedNameOf } from './importPlan.server'

const frameRate = { num: 24, den: 1 }
const files = (...names: string[]) => names.map((name) => ({ name, sizeBytes: 10 }))
const plan = (...names: string[]) => planImport({ files: files(...names), frameRate })
const refusal = (result: ReturnType<typeof planImport>) => (result.ok ? null : result.message)

test('one video is a shot that counts from 1001', () => {
  expect(plan('LM 010.MKV')).toEqual({
    ok: true,
    name: 'LM 010',
    plan: { kind: 'video', file: { name: 'LM 010.MKV', sizeBytes: 10 }, firstFrame: 1001 },
  })
})

test('numbered pictures are sorted by number and keep their numbers; hidden files do not count', () => {
  const result = plan('a.0011.png', '.DS_Store', 'a.0010.png', 'a.0009.png')
  expect(result).toMatchObject({
    ok: true,
    name: 'a',
    plan: { kind: 'sequence', firstFrame: 9, ending: 'png', frameRate },
  })
  expect(result.ok && filesOf(result.plan).map((file) => file.name)).toEqual([
    'a.0009.png',
    'a.0010.png',
    'a.0011.png',
  ])
})

test('names from outside never reach the disk', () => {
  const result = plan('a/../../etc/x.0001.png')
  expect(result.ok && storedNameOf(result.plan, 0)).toBe('0000000.png')
  const video = plan('a\\..\\evil name.mp4')
  expect(video.ok && storedNameOf(video.plan, 0)).toBe('plate.mp4')
})

test.each([
  [['a.1.png', 'a.2.png', 'a.5.png'], /hole: after a\.2\.png comes a\.5\.png; 2 missing/],
  [['a.txt'], /a\.txt is of a kind that cannot be read/],
  [['a.mp4', 'b.mp4'], /is a video among other files/],
  [['a.1.png', 'b.2.png'], /several runs/],
  [['a.1.png', 'a.2.tif'], /several kinds/],
  [['a.1.png', 'a.01.png'], /same number/],
  [['portrait.png'], /no frame number/],
])('%j is refused in words', (names, words) => expect(refusal(plan(...names))).toMatch(words))

test('an empty file is refused by name', () => {
  expect(refusal(planImport({ files: [{ name: 'a.mp4', sizeBytes: 0 }], frameRate }))).toMatch(
    /a\.mp4 is empty \(0 bytes\).*Nothing was brought in/,
  )
})
