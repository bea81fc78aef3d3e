/**
 * The *Projection* of a Matroska file, put into its list of tracks: the encoder at hand writes none.
 *
 * Players read a file's lists from its beginning, so the element is put where it belongs, and the room for it is taken from the *Void* element
 * that muxers leave behind their index: nothing behind the lists moves, and lists that carry a sum of themselves get it anew. Source: RFC 8794
 * (EBML), RFC 9559 (Matroska).
 */
import { crc32 } from 'node:zlib'

const ID = {
  segment: 0x18538067,
  seekHead: 0x114d9b74,
  crc32: 0xbf,
  seek: 0x4dbb,
  seekPosition: 0x53ac,
  void: 0xec,
  tracks: 0x1654ae6b,
  track: 0xae,
  video: 0xe0,
  projection: 0x7670,
  projectionType: 0x7671,
  poseYaw: 0x7673,
  posePitch: 0x7674,
  poseRoll: 0x7675,
} as const

const EQUIRECTANGULAR = 1

interface Element {
  readonly id: number
  readonly start: number
  readonly sizeBytes: number
  readonly data: number
  readonly end: number
}

/** @param head  The beginning of a file, its list of tracks in it. @returns The same number of bytes. @throws RangeError where there is no such list or no room. */
export function withProjection(
  head: Uint8Array,
  pose: { readonly yawDeg: number; readonly pitchDeg: number; readonly rollDeg: number },
): Uint8Array {
  const segment = childrenOf(head, 0, head.length).find(({ id }) => id === ID.segment)
  if (!segment) throw new RangeError('not a Matroska file')
  const level1 = childrenOf(head, segment.data, Math.min(segment.end, head.length))
  const tracks = level1.find(({ id }) => id === ID.tracks)
  if (!tracks || tracks.end > head.length) throw new RangeError('no list of tracks in the beginning')
  const grown = grow(head, tracks, [ID.track, ID.video], projection(pose))
  resum(grown)
  const more = grown.length - (tracks.end - tracks.start)
  // What is left of the room still has to be an element: an id and a size.
  const room = level1.find(({ id, start, end }) => id === ID.void && end <= tracks.start && end - start >= more + 2) // prettier-ignore
  if (!room) throw new RangeError('no room in the beginning of the file')
  const out = new Uint8Array(head)
  out.set(voidOf(room.end - room.start - more), room.start)
  out.set(head.subarray(room.end, tracks.start), room.end - more)
  out.set(grown, tracks.start - more)
  const seeks = level1.filter(({ id, end }) => id === ID.seekHead && end <= room.start)
  for (const index of seeks) {
    moveSeeks(out, index, { from: room.end - segment.data, to: tracks.end - segment.data, by: -more })
    resum(out.subarray(index.start, index.end))
  }
  return out
}

/** An element with another one put at the end of its first child of some kind, and of that one's, and so on. */
function grow(bytes: Uint8Array, element: Element, path: readonly number[], added: Uint8Array): Uint8Array {
  const [next, ...rest] = path
  const children = childrenOf(bytes, element.data, element.end)
  const child = next === undefined ? undefined : children.find(({ id }) => id === next)
  if (next !== undefined && !child) throw new RangeError('a list without the element that is looked for')
  const before = bytes.subarray(element.data, child ? child.start : element.end)
  const middle = child ? grow(bytes, child, rest, added) : added
  const after = bytes.subarray(child ? child.end : element.end, element.end)
  const id = bytes.subarray(element.start, element.data - element.sizeBytes)
  const length = before.length + middle.length + after.length
  return joined([id, sizeOf(length, element.sizeBytes), before, middle, after])
}

/** The sum of a list, where it carries one, made anew: the first element in it, over all that follows. @param list  The whole element. */
function resum(list: Uint8Array): void {
  const [element] = childrenOf(list, 0, list.length)
  const [sum] = element ? childrenOf(list, element.data, element.end) : []
  if (sum?.id !== ID.crc32) return
  new DataView(list.buffer, list.byteOffset + sum.data, 4).setUint32(0, crc32(list.subarray(sum.end)), true)
}

/** Where the index points at what has moved, it points at where that is now. */
function moveSeeks(
  bytes: Uint8Array,
  index: Element,
  moved: { readonly from: number; readonly to: number; readonly by: number },
): void {
  for (const seek of childrenOf(bytes, index.data, index.end).filter(({ id }) => id === ID.seek)) {
    const position = childrenOf(bytes, seek.data, seek.end).find(({ id }) => id === ID.seekPosition)
    if (!position) continue
    let at = 0
    for (let i = position.data; i < position.end; i++) at = 256 * at + bytes[i]!
    if (at < moved.from || at >= moved.to) continue
    at += moved.by
    for (let i = position.end - 1; i >= position.data; i--, at = Math.floor(at / 256)) bytes[i] = at % 256
  }
}

function childrenOf(bytes: Uint8Array, from: number, to: number): Element[] {
  const out: Element[] = []
  for (let at = from; at < to;) {
    const id = numberAt(bytes, at, true)
    const size = id && numberAt(bytes, at + id.bytes, false)
    if (!id || !size) break
    const data = at + id.bytes + size.bytes
    out.push({ id: id.value, start: at, sizeBytes: size.bytes, data, end: data + size.value })
    at = data + size.value
  }
  return out
}

/** A number of variable length; null where the bytes end in it. @param keepsMarker  Ids keep the bit that says how long they are. */
function numberAt(
  bytes: Uint8Array,
  at: number,
  keepsMarker: boolean,
): { readonly value: number; readonly bytes: number } | null {
  const first = bytes[at]
  if (!first) return null
  const count = Math.clz32(first) - 23
  if (at + count > bytes.length) return null
  let value = keepsMarker ? first : first & (0xff >> count)
  for (let i = 1; i < count; i++) value = 256 * value + bytes[at + i]!
  return { value, bytes: count }
}

/** A size in so many bytes, or in as many more as it takes. */
function sizeOf(value: number, atLeast: number): Uint8Array {
  let count = atLeast
  while (value >= 2 ** (7 * count) - 1) count++
  const out = new Uint8Array(count)
  for (let i = count - 1, rest = value; i >= 0; i--, rest = Math.floor(rest / 256)) out[i] = rest % 256
  out[0]! |= 0x80 >> (count - 1)
  return out
}

/** @param length  Of the whole element, 2 or more. */
function voidOf(length: number): Uint8Array {
  const sizeBytes = length > 9 ? 8 : 1
  return joined([Uint8Array.of(ID.void), sizeOf(length - 1 - sizeBytes, sizeBytes), new Uint8Array(length - 1 - sizeBytes)]) // prettier-ignore
}

function projection({ yawDeg, pitchDeg, rollDeg }: Parameters<typeof withProjection>[1]): Uint8Array {
  return elementOf(
    ID.projection,
    joined([
      elementOf(ID.projectionType, Uint8Array.of(EQUIRECTANGULAR)),
      elementOf(ID.poseYaw, float(yawDeg)),
      elementOf(ID.posePitch, float(pitchDeg)),
      elementOf(ID.poseRoll, float(rollDeg)),
    ]),
  )
}

const elementOf = (id: number, data: Uint8Array): Uint8Array =>
  joined([Uint8Array.of(id >> 8, id & 0xff), sizeOf(data.length, 1), data])

function float(value: number): Uint8Array {
  const out = new Uint8Array(4)
  new DataView(out.buffer).setFloat32(0, value)
  return out
}

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0))
  let at = 0
  for (const part of parts) {
    out.set(part, at)
    at += part.length
  }
  return out
}
