import { tmpdir } from 'node:os'
import { MediaError } from './media/mediaError'
import { DiskFullError, hasRoom, isDiskFull, isLow, requireRoom, roomOn } from './room.server'

test('a full disk is told from what the system, the database or a media tool says, however deep inside', () => {
  const full = Object.assign(new Error('write'), { code: 'ENOSPC' })
  const database = Object.assign(new Error('could not extend file'), { code: '53100' })
  for (const cause of [
    full,
    new Error('Failed query', { cause: database }),
    new MediaError('cannot-write', 'The frames could not be written (No space left on device).'),
    new DiskFullError(),
  ])
    expect(isDiskFull(cause)).toBe(true)
  for (const cause of [
    new Error('No space left on device'),
    new MediaError('damaged', 'It is damaged.'),
    null,
  ])
    expect(isDiskFull(cause)).toBe(false)
})

test('low is less than 5 % or 5 GB; a file system that tells no size is never low', () => {
  const gigabyte = 2 ** 30
  expect(isLow({ free: 6 * gigabyte, all: 100 * gigabyte })).toBe(false)
  expect(isLow({ free: 4 * gigabyte, all: 20 * gigabyte })).toBe(true)
  expect(isLow({ free: 40 * gigabyte, all: 1000 * gigabyte })).toBe(true)
  expect(isLow({ free: 0, all: 0 })).toBe(false)
})

test('what does not fit is refused in words before it is written', async () => {
  const { free } = await roomOn(tmpdir())
  expect(await hasRoom(tmpdir(), free)).toBe(false)
  await expect(requireRoom(tmpdir(), free)).rejects.toThrow(/^The disk is full: .* What was saved is safe/)
})
