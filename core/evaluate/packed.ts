/** A short text that tells what follows, then arrays, as bytes that any worker can read again. */

const MAGIC = 0x46474732 // "FGG2"
const HEAD_WORDS = 2
const ALIGN = 8

const KINDS = {
  u8: Uint8Array,
  u16: Uint16Array,
  i16: Int16Array,
  i32: Int32Array,
  f32: Float32Array,
} as const
type Kind = keyof typeof KINDS
export type PackedArray = Uint8Array | Uint16Array | Int16Array | Int32Array | Float32Array

const kindOf = (array: PackedArray): Kind =>
  (Object.keys(KINDS) as Kind[]).find((kind) => array instanceof KINDS[kind])!

const alignedLength = (bytes: number): number => ALIGN * Math.ceil(bytes / ALIGN)

/** @param head  Plain JSON. */
export function pack(head: object, arrays: readonly PackedArray[]): Uint8Array<ArrayBuffer> {
  const list = arrays.map((array) => [kindOf(array), array.length])
  const text = new TextEncoder().encode(JSON.stringify({ head, arrays: list }))
  const start = alignedLength(4 * HEAD_WORDS + text.length)
  const total = arrays.reduce((sum, array) => sum + alignedLength(array.byteLength), start)
  const out = new Uint8Array(total)
  new Uint32Array(out.buffer, 0, HEAD_WORDS).set([MAGIC, text.length])
  out.set(text, 4 * HEAD_WORDS)
  let at = start
  for (const array of arrays) {
    out.set(new Uint8Array(array.buffer, array.byteOffset, array.byteLength), at)
    at += alignedLength(array.byteLength)
  }
  return out
}

/** @returns null when the bytes are not what `pack` makes: what was cut off is as good as none. */
export function unpack(bytes: Uint8Array): { head: unknown; arrays: PackedArray[] } | null {
  if (bytes.byteLength < 4 * HEAD_WORDS) return null
  const own = bytes.byteOffset % ALIGN === 0 ? bytes : bytes.slice()
  const [magic, length] = new Uint32Array(own.buffer, own.byteOffset, HEAD_WORDS) as unknown as [
    number,
    number,
  ]
  if (magic !== MAGIC || 4 * HEAD_WORDS + length > own.byteLength) return null
  const said = parse(own.subarray(4 * HEAD_WORDS, 4 * HEAD_WORDS + length))
  if (!said) return null
  const arrays: PackedArray[] = []
  let at = own.byteOffset + alignedLength(4 * HEAD_WORDS + length)
  const end = own.byteOffset + own.byteLength
  for (const [kind, count] of said.arrays) {
    const ArrayKind = KINDS[kind]
    if (!ArrayKind || !Number.isInteger(count) || count < 0) return null
    const bytesLong = count * ArrayKind.BYTES_PER_ELEMENT
    if (at + bytesLong > end) return null
    arrays.push(new ArrayKind(own.buffer as ArrayBuffer, at, count))
    at += alignedLength(bytesLong)
  }
  return at === end ? { head: said.head, arrays } : null
}

function parse(bytes: Uint8Array): { head: unknown; arrays: [Kind, number][] } | null {
  try {
    const value = JSON.parse(new TextDecoder().decode(bytes)) as { head: unknown; arrays: [Kind, number][] }
    return Array.isArray(value.arrays) ? value : null
  } catch {
    return null // not ours: worked out anew
  }
}
