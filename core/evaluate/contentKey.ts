/** Short names for long content, so that what was made of it can be found again. */

const FIRST = [0x811c9dc5, 0x050c5d1f] as const
const PRIME = 0x01000193

/**
 * A name of 64 bits for texts and arrays in their order.
 * Source: FNV-1a, G. Fowler, L. C. Noll, K.-P. Vo; RFC 9923. Here over whole words, twice with different starts.
 */
export function contentKey(parts: readonly (string | ArrayBufferView)[]): string {
  let [a, b]: [number, number] = [FIRST[0], FIRST[1]]
  const add = (word: number) => {
    a = Math.imul(a ^ word, PRIME)
    // The second goes over words the other way round, so that what one confuses the other does not.
    b = Math.imul(b ^ ((word >>> 16) | (word << 16)), PRIME)
    a ^= a >>> 15
    b ^= b >>> 13
  }
  for (const part of parts) {
    if (typeof part === 'string') {
      add(part.length)
      for (let i = 0; i < part.length; i++) add(part.charCodeAt(i))
      continue
    }
    add(part.byteLength)
    const words = part.byteLength >> 2
    // A view that does not begin at a word is copied; ours all do.
    const from =
      part.byteOffset % 4 === 0 ? part : new Uint8Array(part.buffer, part.byteOffset, part.byteLength).slice()
    for (const word of new Int32Array(from.buffer, from.byteOffset, words)) add(word)
    for (const byte of new Uint8Array(from.buffer, from.byteOffset + 4 * words, part.byteLength - 4 * words))
      add(byte)
  }
  return [a, b].map((half) => (half >>> 0).toString(16).padStart(8, '0')).join('')
}
