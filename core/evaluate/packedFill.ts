/** What a fill has gathered, as bytes that any worker can read again. */
import { z } from 'zod'
import type { FillResult } from '../fill/method'
import { pack, unpack, type PackedArray } from './packed'

type Filled = Extract<FillResult, { ok: true }>

const headSchema = z.strictObject({
  hasNeeded: z.boolean(),
  hasGrainless: z.boolean(),
  shade: z
    .strictObject({
      by: z.enum(['frames', 'edge', 'nothing']),
      depthStops: z.array(z.number()),
      glintShare: z.number(),
    })
    .nullable(),
  report: z
    .strictObject({
      seenShare: z.number(),
      unseenWidePx: z.number(),
      ghostShare: z.number(),
      registrationSure: z.number(),
      frames: z.number(),
      grainDeviations: z.array(z.number()).nullable(),
      weighed: z
        .strictObject({
          undone: z.number(),
          others: z.number(),
          weighed: z.number(),
          ghost: z.number(),
          ghostSure: z.number(),
        })
        .nullable(),
    })
    .nullable(),
})

export function packFill({
  values,
  grainKept,
  needed,
  grainless,
  shade,
  gathered,
}: Filled): Uint8Array<ArrayBuffer> {
  const { seen, from, ...report } = gathered ?? { seen: null, from: null }
  const arrays = [values, grainKept, needed, grainless, seen, from].filter(
    (array) => array !== undefined && array !== null,
  )
  const has = { hasNeeded: needed !== undefined, hasGrainless: grainless !== undefined, shade: shade ?? null }
  return pack({ ...has, report: gathered ? report : null }, arrays)
}

/** @returns null when the bytes are not what `packFill` makes. */
export function unpackFill(bytes: Uint8Array): Filled | null {
  const unpacked = unpack(bytes)
  const head = headSchema.safeParse(unpacked?.head)
  if (!unpacked || !head.success) return null
  const { hasNeeded, hasGrainless, shade, report } = head.data
  const [values, grainKept, ...rest] = unpacked.arrays
  const needed = hasNeeded ? rest.shift() : undefined
  const grainless = hasGrainless ? rest.shift() : undefined
  const [seen, from] = rest
  if (!isFloats(values) || !isFloats(grainKept)) return null
  if ((hasNeeded && !isFloats(needed)) || (hasGrainless && !isFloats(grainless))) return null
  const filled = {
    ok: true as const,
    values,
    grainKept,
    ...(isFloats(needed) ? { needed } : {}),
    ...(isFloats(grainless) ? { grainless } : {}),
    ...(shade ? { shade } : {}),
  }
  if (!report) return filled
  if (!isFloats(seen) || !(from instanceof Int32Array)) return null
  return { ...filled, gathered: { ...report, seen, from } }
}

const isFloats = (array: PackedArray | undefined): array is Float32Array => array instanceof Float32Array
