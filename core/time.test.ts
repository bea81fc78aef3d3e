import { formatFrameRate, frameAt, frameFromWords, frameIndexOf, indexOfTimecode, timecodeOf } from './time'

const ntsc = { num: 30000, den: 1001 }

// SMPTE ST 12-1: at 29.97 frames a second the numbers ;00 and ;01 are dropped at every minute that is
// not a multiple of ten. The counts are facts of that rule: 1798 frames in a dropped minute, 17982 in
// ten minutes, 107892 in an hour.
test.each([
  [0, '00:00:00;00'],
  [1799, '00:00:59;29'],
  [1800, '00:01:00;02'],
  [1800 + 1797, '00:01:59;29'],
  [1800 + 1798, '00:02:00;02'],
  [17981, '00:09:59;29'],
  [17982, '00:10:00;00'],
  [107892, '01:00:00;00'],
])('drop-frame: frame %i is %s', (index, timecode) => expect(timecodeOf(index, ntsc)).toBe(timecode))

test('at 59.94 four numbers are dropped', () => {
  const rate = { num: 60000, den: 1001 }
  expect(timecodeOf(3599, rate)).toBe('00:00:59;59')
  expect(timecodeOf(3600, rate)).toBe('00:01:00;04')
  expect(timecodeOf(215784, rate)).toBe('01:00:00;00')
})

test('23.976 and 25 count every number', () => {
  expect(timecodeOf(24 * 60, { num: 24000, den: 1001 })).toBe('00:01:00:00')
  expect(timecodeOf(25 * 3600 - 1, { num: 25, den: 1 })).toBe('00:59:59:24')
  expect(() => timecodeOf(-1, ntsc)).toThrow('whole number')
})

test('every dropped-frame timecode is used once and they rise', () => {
  let last = ''
  for (let index = 0; index < 40000; index++) {
    const timecode = timecodeOf(index, ntsc)
    expect(timecode > last).toBe(true)
    last = timecode
  }
})

test('frame numbers and array places', () => {
  expect(frameIndexOf(1023, 1001)).toBe(22)
  expect(frameAt(22, 1001)).toBe(1023)
  expect(formatFrameRate({ num: 24000, den: 1001 })).toBe('23.976')
  expect(formatFrameRate({ num: 25, den: 1 })).toBe('25')
})

test.each([ntsc, { num: 24, den: 1 }, { num: 60000, den: 1001 }])(
  'a timecode is read as it is written, at %j',
  (rate) => {
    for (let index = 0; index < 40000; index += 7)
      expect(indexOfTimecode(timecodeOf(index, rate), rate)).toBe(index)
  },
)

test('what is typed is a frame or a timecode, or nothing', () => {
  const film = { num: 24, den: 1 }
  expect(frameFromWords(' 1023 ', 1001, film)).toBe(1023)
  expect(frameFromWords('0:00:01:00', 1001, film)).toBe(1025)
  for (const wrong of ['', 'x', '00:00:00:24', '00:61:00:00', '10:10'])
    expect(frameFromWords(wrong, 1001, film)).toBeNull()
  // Numbers 00 and 01 are left out at the start of most minutes.
  expect(indexOfTimecode('00:01:00;00', ntsc)).toBeNull()
  expect(indexOfTimecode('00:10:00;00', ntsc)).toBe(17982)
})
