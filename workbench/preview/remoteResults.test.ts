import { remoteResults } from './remoteResults'

const KEY = '0123456789abcdef0123456789abcdef'
interface Sent {
  readonly address: string
  readonly length: number
  readonly outlives: boolean
}

/** A server with some results, which counts what it is asked. */
function served(found: Readonly<Record<string, Uint8Array>>) {
  const reads: string[][] = []
  const sent: Sent[] = []
  let status = 200
  globalThis.fetch = ((address: string, options?: RequestInit) => {
    if (options?.method === 'POST') {
      const { length } = options.body as Uint8Array
      sent.push({ address, length, outlives: options.keepalive === true })
      return Promise.resolve(new Response(null, { status: 204 }))
    }
    const keys = new URL(address, 'http://x').searchParams.get('keys')!.split(',')
    reads.push(keys)
    const parts = keys.flatMap((key) => {
      const bytes = found[key] ?? new Uint8Array(0)
      return [...new Uint8Array(Uint32Array.of(bytes.length).buffer), ...bytes]
    })
    return Promise.resolve(new Response(Uint8Array.from(parts), { status }))
  }) as typeof fetch
  return { store: remoteResults('/results', 'c'), reads, sent, fail: () => void (status = 500) }
}

const original = globalThis.fetch
afterEach(() => void (globalThis.fetch = original))

test('what is asked for at once goes in one request', async () => {
  const { store, reads } = served({ b: Uint8Array.of(1, 2, 3) })
  expect(await Promise.all(['a', 'b'].map((key) => store.read(key)))).toEqual([null, Uint8Array.of(1, 2, 3)])
  expect(reads).toEqual([['a', 'b']])
})

test('what was not there is not asked for again at once; what was there, or failed, is', async () => {
  const { store, reads, fail } = served({ b: Uint8Array.of(9) })
  await Promise.all([store.read('a'), store.read('b')])
  await Promise.all([store.read('a'), store.read('b')])
  expect(reads).toEqual([['a', 'b'], ['b']])
  fail()
  await expect(store.read('c')).rejects.toThrow('500')
  await expect(store.read('c')).rejects.toThrow('500')
})

test('the shortest goes first, and outlives its page where it may', async () => {
  const { store, sent } = served({})
  for (const length of [100, 90_000, 40]) void store.write(`${KEY}${length}`, new Uint8Array(length))
  await new Promise((resolve) => setTimeout(resolve, 10))
  // The first one was on its way before the others came.
  expect(sent.map(({ length, outlives }) => [length, outlives])).toEqual([
    [100, true],
    [40, true],
    [90_000, false],
  ])
})
