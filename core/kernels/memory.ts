/**
 * Kernel memory: a stack of scratch areas inside the compiled module's memory.
 *
 * Buffers live from `take` to the end of the scope that took them. Data that is already inside kernel
 * memory is used in place; anything else is copied in, so callers may pass any Float32Array.
 * One thread has one memory; scopes nest and are never held across an `await`.
 */
import { kernels } from './module'

const PAGE_BYTES = 65536
const ALIGN_BYTES = 16 // one SIMD vector

let top = 0
let openScopes = 0

export interface KernelScope {
  /** Uninitialised floats inside kernel memory; on the ordinary heap when the memory is full. */
  take(length: number): Float32Array
  /** Uninitialised floats inside kernel memory. @throws RangeError when the memory is full. */
  floats(length: number): Float32Array
  /** The same floats, at an address that a kernel can read: in place or as a copy. */
  pointerTo(data: Float32Array | Float64Array | Uint8Array | Uint16Array | Int32Array): number
  /** The address of so many bytes, uninitialised. @throws RangeError when the memory is full. */
  reserve(byteLength: number): number
}

/**
 * Runs `work` with scratch memory that is given back when it returns.
 *
 * @param bytes  How much it will take at most. The outermost scope grows the memory to fit; inside
 *               another scope it cannot grow (that would detach the outer scope's arrays).
 */
export function withKernelMemory<T>(bytes: number, work: (scope: KernelScope) => T): T {
  const { memory, heapBase } = kernels()
  if (openScopes === 0) {
    top = align(heapBase())
    const missing = top + bytes + 64 * ALIGN_BYTES - memory.buffer.byteLength
    if (missing > 0) memory.grow(Math.ceil(missing / PAGE_BYTES))
  }
  const start = top
  openScopes++
  try {
    return work(scope)
  } finally {
    openScopes--
    top = start
  }
}

const align = (address: number) => Math.ceil(address / ALIGN_BYTES) * ALIGN_BYTES

function tryReserve(byteLength: number): number | undefined {
  const address = align(top)
  if (address + byteLength > kernels().memory.buffer.byteLength) return undefined
  top = address + byteLength
  return address
}

const scope: KernelScope = {
  take(length) {
    const address = tryReserve(length * 4)
    return address === undefined
      ? new Float32Array(length)
      : new Float32Array(kernels().memory.buffer, address, length)
  },
  floats(length) {
    return new Float32Array(kernels().memory.buffer, scope.reserve(length * 4), length)
  },
  pointerTo(data) {
    const { memory } = kernels()
    if (data.buffer === memory.buffer) return data.byteOffset
    const address = scope.reserve(data.byteLength)
    const bytes = new Uint8Array(data.buffer, data.byteOffset, data.byteLength)
    new Uint8Array(memory.buffer, address, data.byteLength).set(bytes)
    return address
  },
  reserve(byteLength) {
    const address = tryReserve(byteLength)
    if (address === undefined)
      throw new RangeError(
        `kernel memory is full: ${byteLength} more bytes were needed than the scope asked for`,
      )
    return address
  },
}

/** Runs a kernel that writes `target`; a target outside kernel memory gets the result copied out. */
export function writeWithKernel(
  scope: KernelScope,
  target: Float32Array,
  run: (pointer: number) => void,
): void {
  const { memory } = kernels()
  if (target.buffer === memory.buffer) {
    run(target.byteOffset)
    return
  }
  const inside = scope.take(target.length)
  if (inside.buffer !== memory.buffer) {
    throw new RangeError(`kernel memory is full: the scope asked for less than ${target.byteLength} bytes`)
  }
  run(inside.byteOffset)
  target.set(inside)
}
