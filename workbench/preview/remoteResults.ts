/** The server's store of results, as a worker in the browser reads it and adds to it. */
import { LRUCache } from 'lru-cache'
import type { ResultStore } from '../../core/shot/clip'

const MAX_KEYS = 64
/** Results that wait to be sent; more are not: they are worked out again where they are wanted. */
const MAX_WAITING = 24
/** What a browser still sends when its page has been left. */
const MAX_OUTLIVING_BYTES = 60_000
/** How long what was not there is taken not to be there: a frame asks ahead for what it will want. */
const ABSENT_MS = 3000
const MAX_ABSENT = 512

interface Asked {
  readonly key: string
  readonly resolve: (bytes: Uint8Array | null) => void
  readonly reject: (cause: Error) => void
}

/**
 * Reads asked for at once go in one request. Writes go one after the other, behind everything else: a page never waits for
 * them.
 * @param core  Which core this page computes with: another one's results are neither read nor written.
 */
export function remoteResults(location: string, core: string): ResultStore {
  let asked: Asked[] = []
  const waiting: { readonly key: string; readonly bytes: Uint8Array }[] = []
  const lately = new LRUCache<string, Promise<Uint8Array | null>>({ max: MAX_ABSENT, ttl: ABSENT_MS })
  let isSending = false

  const ask = (key: string): Promise<Uint8Array | null> =>
    new Promise((resolve, reject) => {
      if (asked.length === 0) queueMicrotask(() => void readAll())
      asked.push({ key, resolve, reject })
    })

  const readAll = async (): Promise<void> => {
    const now = asked
    asked = []
    for (let first = 0; first < now.length; first += MAX_KEYS) {
      const some = now.slice(first, first + MAX_KEYS)
      const read = readResults(`${location}?core=${core}&keys=${some.map(({ key }) => key).join(',')}`)
      await read.then(
        (found) => some.forEach(({ resolve }, i) => resolve(found[i] ?? null)),
        (cause: Error) => some.forEach(({ reject }) => reject(cause)),
      )
    }
  }

  const sendAll = async (): Promise<void> => {
    isSending = true
    while (waiting.length > 0) {
      // The shortest first: finished rectangles, of which a page that is loaded again wants to find as many as it can.
      const shortest = waiting.reduce((best, one) => (one.bytes.length < best.bytes.length ? one : best))
      const { key, bytes } = shortest
      waiting.splice(waiting.indexOf(shortest), 1)
      // Refused or lost, it is worked out again: nothing hangs on it.
      await fetch(`${location}?core=${core}&key=${key}`, {
        method: 'POST',
        body: bytes as Uint8Array<ArrayBuffer>,
        keepalive: bytes.length <= MAX_OUTLIVING_BYTES,
      }).catch(() => undefined)
    }
    isSending = false
  }

  return {
    read(key) {
      const known = lately.get(key)
      if (known) return known
      const reading = ask(key)
      lately.set(key, reading)
      // What is there is kept by whoever reads it, and what failed is asked for again.
      const forget = () => void lately.delete(key)
      reading.then((bytes) => bytes && forget(), forget)
      return reading
    },
    write(key, bytes) {
      if (waiting.length < MAX_WAITING) waiting.push({ key, bytes })
      if (!isSending) void sendAll()
      return Promise.resolve()
    },
  }
}

async function readResults(address: string): Promise<(Uint8Array | null)[]> {
  const response = await fetch(address)
  if (response.status === 409) return [] // the server runs another core by now: everything is worked out here
  if (!response.ok) throw new Error(`Results could not be fetched (${response.status}).`)
  return resultsIn(await response.arrayBuffer())
}

/** Each length as 32 bits, low byte first, 0 for none; then its bytes. */
export function resultsIn(buffer: ArrayBuffer): (Uint8Array | null)[] {
  const view = new DataView(buffer)
  const found: (Uint8Array | null)[] = []
  for (let at = 0; at < buffer.byteLength;) {
    const length = view.getUint32(at, true)
    // A copy: arrays in it are read in place, and must begin where numbers may begin.
    found.push(length > 0 ? new Uint8Array(buffer.slice(at + 4, at + 4 + length)) : null)
    at += 4 + length
  }
  return found
}
