/**
 * Short names for long content: 128 bits, so that what different content is called never meets.
 *
 * Source: XXH3, Y. Collet, 128-bit variant; here from the package hash-wasm. It is no secret's keeper: whoever may write
 * results may write anything.
 */
import { createXXHash128, type IHasher } from 'hash-wasm'

let hasher: IHasher | undefined
let ready: Promise<void> | undefined

/** Makes digests ready in this thread: the hash is compiled once. */
export function readyDigests(): Promise<void> {
  ready ??= createXXHash128().then((made) => {
    hasher = made
  })
  return ready
}

const TEXT = 1
const BYTES = 2

/**
 * The digest of texts and arrays in their order, 32 hexadecimal digits. Parts are told apart by their kind and length.
 * @throws Error when `readyDigests` has not been awaited in this thread.
 */
export function digestOf(parts: readonly (string | ArrayBufferView)[]): string {
  if (!hasher) throw new Error('digests are not ready: await readyDigests() once before')
  hasher.init()
  const head = new Float64Array(2)
  const headBytes = new Uint8Array(head.buffer)
  for (const part of parts) {
    const isText = typeof part === 'string'
    head.set([isText ? TEXT : BYTES, isText ? part.length : part.byteLength])
    hasher.update(headBytes)
    hasher.update(isText ? part : new Uint8Array(part.buffer, part.byteOffset, part.byteLength))
  }
  return hasher.digest('hex')
}

/** What `digestOf` gives; nothing else reaches a store of results. */
export const DIGEST = /^[0-9a-f]{32}$/
