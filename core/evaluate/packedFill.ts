/** What a fill has gathered, as bytes that any worker can read again. */
import { z } from 'zod'
import type { FillResult } from '../fill/method'
import { pack, unpack, type PackedArray } from './packed'

type Filled = Extract<FillResult, { ok: true }>

const headSchema = z.strictObject({
  hasNeeded: z.boolean(),
  report: z
    .strictObject({
      seenShare: z.number(),
      unseenWidePx: z.number(),
      ghostShare: z.number(),
      registrationSure: z.number(),
      frames: z.number(),
      grainDeviations: z.array(z.number()).nullable(),
    })
    .nullable(),
})

export function packFill({ values, grainKept, needed, gathered }: Filled): Uint8Array<ArrayBuffer> {
  const { seen, from, ...report } = gathered ?? { seen: null, from: null }
  const arrays = [values, grainKept, ...(needed ? [needed] : []), ...(seen && from ? [seen, from] : [])]
  return pack({ hasNeeded: needed !== undefined, report: gathered ? report : null }, arrays)
}

/** @returns null when the bytes are not what `packFill` makes. */
export function unpackFill(bytes: Uint8Array): Filled | null {
  const unpacked = unpack(bytes)
  const head = headSchema.safeParse(unpacked?.head)
  if (!unpacked || !head.success) return null
  const { hasNeeded, report } = head.data
  const [values, grainKept, ...rest] = unpacked.arrays
  const needed = hasNeeded ? rest.shift() : undefined
  const [seen, from] = rest
  if (!isFloats(values) || !isFloats(grainKept) || (hasNeeded && !isFloats(needed))) return null
  if (!report) return { ok: true, values, grainKept, ...(isFloats(needed) ? { needed } : {}) }
  if (!isFloats(seen) || !(from instanceof Int32Array)) return null
  const gathered = { ...report, seen, from }
  return { ok: true, values, grainKept, ...(isFloats(needed) ? { needed } : {}), gathered }
}

const isFloats = (array: PackedArray | undefined): array is Float32Array => array instanceof Float32Array
