/** What was worked out on single frames is kept as long as there is room for it. */
import { LRUCache } from 'lru-cache'
import type { Cache } from '../core/shot/clip'

const CACHE_BYTES = 256 * 2 ** 20

/** One for each plate; they share the room. */
export function createCaches(maxBytes = CACHE_BYTES): (plateId: string) => Cache {
  const kept = new LRUCache<string, object>({ maxSize: maxBytes, sizeCalculation: bytesOf })
  return (plateId) => ({
    get: (key) => kept.get(`${plateId} ${key}`),
    set: (key, value) => void kept.set(`${plateId} ${key}`, value),
  })
}

export const createCache = (): Cache => createCaches()('')

/** Bytes of all arrays in a plain object. */
function bytesOf(value: unknown): number {
  if (ArrayBuffer.isView(value)) return value.byteLength
  if (typeof value !== 'object' || value === null) return 8
  return Object.values(value).reduce((sum: number, part) => sum + bytesOf(part), 64)
}
