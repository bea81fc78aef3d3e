/** A finished rectangle with what is said of it, as bytes that any worker, and any page, can read again. */
import { z } from 'zod'
import type { MendMeasure } from '../measure/mendMeasure'
import type { EvaluatedFrame, MendNote, Patch } from './evaluatedFrame'
import { pack, unpack, type PackedArray } from './packed'

const rectSchema = z.strictObject({
  col: z.int(),
  row: z.int(),
  width: z.int().min(1),
  height: z.int().min(1),
})
const headSchema = z.strictObject({
  patches: z.array(
    z.strictObject({
      rect: rectSchema,
      channels: z.int().min(1).max(4),
      hasAlpha: z.boolean(),
      isCoverTold: z.boolean(),
    }),
  ),
  measures: z.array(z.looseObject({ mendId: z.string() })),
  notes: z.array(z.strictObject({ mendId: z.string(), reason: z.string(), detail: z.string() })),
})

/** Everything but what is only looked at: where pixels were seen is worked out again. */
export function packResult({ patches, measures, notes }: EvaluatedFrame): Uint8Array<ArrayBuffer> {
  const head = {
    patches: patches.map(({ rect, samples, alpha, covered }) => ({
      rect,
      channels: samples.channels,
      hasAlpha: alpha !== null,
      isCoverTold: covered !== undefined,
    })),
    measures,
    notes,
  }
  return pack(
    head,
    patches.flatMap(({ samples, alpha, covered, mendedRuns }) => [
      samples.data,
      ...(alpha ? [alpha.data] : []),
      mendedRuns,
      ...(covered ? [covered] : []),
    ]),
  )
}

/** @returns Arrays of its own; null when the bytes are not what `packResult` makes. */
export function unpackResult(bytes: Uint8Array): EvaluatedFrame | null {
  const unpacked = unpack(bytes)
  const head = headSchema.safeParse(unpacked?.head)
  if (!unpacked || !head.success) return null
  const arrays = [...unpacked.arrays]
  const patches: Patch[] = []
  for (const { rect, channels, hasAlpha, isCoverTold } of head.data.patches) {
    const samples = samplesFrom(arrays.shift(), rect, channels)
    const alpha = hasAlpha ? samplesFrom(arrays.shift(), rect, 1) : null
    const runs = arrays.shift()
    if (!samples || (hasAlpha && !alpha) || !(runs instanceof Int32Array)) return null
    const covered = isCoverTold ? arrays.shift() : null
    if (isCoverTold && !(covered instanceof Float32Array && covered.length === rect.width * rect.height))
      return null
    const told = covered instanceof Float32Array ? { covered: covered.slice() } : {}
    patches.push({ rect, samples, alpha, mendedRuns: runs.slice(), ...told })
  }
  const { measures, notes } = head.data
  // What is said of a frame is looked at, never computed with: it is taken as it was written.
  return {
    patches,
    seenMaps: [],
    measures: measures as unknown as MendMeasure[],
    notes: notes as MendNote[],
  }
}

function samplesFrom(
  data: PackedArray | undefined,
  { width, height }: { readonly width: number; readonly height: number },
  channels: number,
): Patch['samples'] | null {
  if (!(data instanceof Uint8Array || data instanceof Uint16Array)) return null
  return data.length === width * height * channels ? { width, height, channels, data: data.slice() } : null
}
