import type { NewsListener } from './events.server'
import { newsStream } from './newsStream.server'

/** Somebody to listen to: in the hands of the test. */
function newsDesk() {
  const listeners = new Set<NewsListener>()
  return {
    listen: (listener: NewsListener) => {
      listeners.add(listener)
      return () => void listeners.delete(listener)
    },
    say: (id: string) => listeners.forEach((listener) => listener.onNews({ kind: 'shot', id })),
    lose: () => listeners.forEach((listener) => listener.onDatabase(false)),
    get count() {
      return listeners.size
    },
  }
}

const read = async (reader: ReadableStreamDefaultReader<Uint8Array>) => {
  const { value, done } = await reader.read()
  return done ? null : new TextDecoder().decode(value)
}

beforeEach(() => jest.useFakeTimers())
afterEach(() => jest.useRealTimers())

test('says hello, tells the news, and shows every so often that it is there', async () => {
  const desk = newsDesk()
  const reader = newsStream(new AbortController().signal, desk.listen).getReader()
  expect(await read(reader)).toBe(': hello\n\n')
  desk.say('a')
  expect(await read(reader)).toBe('event: shot\ndata: {"kind":"shot","id":"a"}\n\n')
  desk.lose()
  expect(await read(reader)).toBe('event: database\ndata: gone\n\n')
  jest.advanceTimersByTime(15_000)
  expect(await read(reader)).toBe(': still here\n\n')
})

test.each(['abort, then cancel', 'cancel, then abort'])(
  '%s: it ends once, nobody is told any more and no timer is left',
  async (order) => {
    const desk = newsDesk()
    const request = new AbortController()
    const reader = newsStream(request.signal, desk.listen).getReader()
    await read(reader)
    if (order.startsWith('abort')) {
      request.abort()
      expect(await read(reader)).toBeNull()
      await reader.cancel()
    } else {
      await reader.cancel()
      request.abort()
    }
    expect(desk.count).toBe(0)
    expect(jest.getTimerCount()).toBe(0)
    // A timer or news that came now would end the whole server.
    expect(() => jest.advanceTimersByTime(60_000)).not.toThrow()
  },
)

test('a request that was given up before it was answered ends at once', async () => {
  const desk = newsDesk()
  const request = new AbortController()
  request.abort()
  const reader = newsStream(request.signal, desk.listen).getReader()
  expect(await read(reader)).toBe(': hello\n\n')
  expect(await read(reader)).toBeNull()
  expect(desk.count).toBe(0)
})
